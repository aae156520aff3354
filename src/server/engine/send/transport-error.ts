import { HeronError } from '#core/errors.ts';
import { shortened } from '#core/model/shortened.ts';
import { showSize } from '#core/model/units.ts';
import type { PreparedRequest } from '#core/run/index.ts';
import type { Caps } from './gathering.ts';
import { clientRefused, handshakeError } from './socket-errors.ts';

const HEAD_FAULTS: Record<string, string> = {
	HPE_INVALID_CONTENT_LENGTH: 'Content-Length is no number',
	HPE_UNEXPECTED_CONTENT_LENGTH: 'Content-Length stands twice, or beside Transfer-Encoding',
	HPE_INVALID_TRANSFER_ENCODING: 'Transfer-Encoding cannot be followed',
	HPE_INVALID_HEADER_TOKEN: 'a header field holds a character that it may not',
	HPE_INVALID_STATUS: 'the status is no number of three digits',
	HPE_INVALID_VERSION: 'the version of HTTP is not known',
	HPE_LF_EXPECTED: 'a line ends with CR alone',
	HPE_CR_EXPECTED: 'a line ends with LF alone',
	HPE_STRICT: 'a line is not ended as it must be'
};

const FOLDED = 'a header field goes on in another line, which a server must not do (RFC 9112 section 5.2)';

/** What is wrong in the head of a reply, with its line. */
function headFault(error: NodeJS.ErrnoException & { rawPacket?: Buffer; bytesParsed?: number }): string {
	const text = error.rawPacket?.toString('latin1') ?? '';
	const before = text.slice(0, error.bytesParsed ?? 0);
	const line = before.split('\n').length;
	const raw = text.split('\n')[line - 1] ?? '';
	// eslint-disable-next-line no-control-regex
	const shown = shortened(raw, 80).replace(/[\x00-\x1f\x7f-\x9f]/g, '·');
	const what =
		line > 1 && /^[ \t]/.test(raw)
			? FOLDED
			: (HEAD_FAULTS[error.code ?? ''] ?? error.message.replace(/^Parse Error: /, ''));
	return `${what} (line ${line}: ${shown})`;
}

/** A server that speaks HTTP/2 begins with a SETTINGS frame on stream 0 (RFC 9113 sections 3.4 and 6.5). */
const isSettings = (bytes: Buffer | undefined): boolean =>
	bytes !== undefined &&
	bytes.length >= 9 &&
	bytes[3] === 4 &&
	bytes.readUIntBE(0, 3) % 6 === 0 &&
	bytes.readUInt32BE(5) === 0;

/** What a connection or the reader of HTTP says, in words of ours. */
export function transportError(
	error: NodeJS.ErrnoException & { rawPacket?: Buffer },
	at: { host: string; port: number; first: number; caps: Caps; request: PreparedRequest; size?: number }
): HeronError {
	if (error instanceof HeronError) return error;
	const { host, port } = at;
	if (error.code === 'HPE_HEADER_OVERFLOW')
		return new HeronError('send.headersTooLarge', { limit: showSize(at.caps.header) }, { cause: error });
	if (error.code?.startsWith('HPE_')) {
		const first = error.rawPacket?.subarray(0, 100).toString('latin1') ?? '';
		// eslint-disable-next-line no-control-regex
		const start = shortened(first, 60).replace(/[\x00-\x1f\x7f-\x9f]/g, '·');
		if (at.first) {
			const detail = `the body’s framing is broken after ${showSize(at.size ?? 0)} (${error.message})`;
			return new HeronError('send.failed', { detail }, { cause: error });
		}
		if (isSettings(error.rawPacket)) {
			const detail = 'the server speaks nothing else, and HTTP/1.1 was sent: set http: "2"';
			return new HeronError('send.http2', { host, port, reason: 'only', detail }, { cause: error });
		}
		if (start.startsWith('HTTP/')) return new HeronError('send.head', { detail: headFault(error) }, { cause: error });
		return new HeronError('send.notHttp', { start: start || error.message }, { cause: error });
	}
	const { transport } = at.request;
	if (
		/^ERR_SSL_.*(CERTIFICATE_REQUIRED|ALERT_(BAD_CERTIFICATE|UNKNOWN_CA|CERTIFICATE|ACCESS_DENIED|UNSUPPORTED))/.test(
			error.code ?? ''
		)
	)
		return clientRefused(host, transport, error);
	if (error.code?.startsWith('ERR_SSL_')) return handshakeError(error, { host, port, transport });
	if (error.code === 'ECONNRESET' || error.code === 'EPIPE') {
		const phase = at.first ? `in the middle of the body, after ${showSize(at.size ?? 0)}` : 'before an answer came';
		return new HeronError('send.reset', { host, port, phase }, { cause: error });
	}
	return new HeronError('send.failed', { detail: error.message }, { cause: error });
}
