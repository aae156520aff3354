import { HeronError } from '#core/errors.ts';
import { headerValue, headerValues, type HeaderList, type Phases, type Reply } from '#core/model/reply.ts';
import { relays } from '#core/model/transport.ts';
import { showDuration, showSize } from '#core/model/units.ts';
import type { PreparedRequest, TlsFacts } from '#core/run/index.ts';
import http from 'node:http';
import type { Socket } from 'node:net';
import { decodeBody } from './decode.ts';
import { Gathering, type Reading } from './gathering.ts';
import type { CallOptions, Pool } from './pool.ts';
import { proxyProof, whoAsks } from './proxy.ts';
import { clientRefused, handshakeError, socketMarks, type SocketMarks } from './socket.ts';

export interface Caps {
	/** Bytes of a body that are read and kept. */
	body: number;
	header: number;
	/** Bytes of all bodies together that are being read at a time; without it there is no such limit. */
	together?: number;
}

/** One request on one connection, up to the end of its reply. */
export interface Sending {
	request: PreparedRequest;
	url: URL;
	pool: Pool;
	caps: Caps;
	reading: Reading;
	signal: AbortSignal | undefined;
	/** A time of `performance.now()` at which the whole exchange ends. */
	deadline: number;
	/** Over no kept connection. */
	fresh?: boolean;
}

/** A reply, and what is known of the connection it came over. */
export interface Sent {
	reply: Reply;
	/** What is odd about it, and was forgiven. */
	notes?: string[];
	tls?: TlsFacts;
	peer?: string;
}

/** Facts of a connection for the record; a kept one repeats no certificates. */
export const connectionFacts = (marks: SocketMarks | undefined, reused: boolean): Omit<Sent, 'reply'> => ({
	...(marks?.facts ? { tls: reused ? { ...marks.facts, chain: marks.facts.chain.slice(0, 1) } : marks.facts } : {}),
	...(marks?.peer ? { peer: marks.peer } : {})
});

/** The phases of an exchange from its marks; a kept connection has no phases before sending. */
export function phasesOf(
	marks: SocketMarks | undefined,
	at: { begun: number; sent: number; first: number; end: number }
): Phases {
	const { begun, sent, first, end } = at;
	const opened = marks ? Math.max(marks.tls, marks.proxy, marks.connect) : begun;
	const start = marks ? marks.start : begun;
	const connected = marks ? Math.max(marks.proxy, marks.connect) : 0;
	return {
		name: marks?.name ? marks.name - marks.start : 0,
		connect: marks ? connected - (marks.name || marks.start) : 0,
		tls: marks?.tls ? marks.tls - connected : 0,
		send: Math.max(0, (sent || end) - Math.max(opened, start)),
		wait: first && sent ? Math.max(0, first - sent) : 0,
		body: first ? end - first : 0,
		total: end - Math.min(start, begun)
	};
}

/** A reply of what was read, its content codings undone. */
export async function replyOf(
	given: Pick<Reply, 'status' | 'reason' | 'version' | 'headers' | 'reused'>,
	read: { chunks: Buffer[]; size: number; cut: string | undefined; phases: Phases; method: string },
	caps: Caps
): Promise<Reply> {
	const raw = read.chunks.length === 1 ? read.chunks[0]! : Buffer.concat(read.chunks);
	let { cut } = read;
	const hasBody = read.method !== 'HEAD' && given.status !== 204 && given.status !== 304;
	const codings = hasBody ? (headerValue(given.headers, 'content-encoding') ?? '') : '';
	const decoded = codings ? await decodeBody(raw, codings, caps.body) : { body: raw, cut: false };
	if (decoded.cut) cut = `cut at ${showSize(caps.body)} after decoding`;
	const { status, reason, version, headers, reused } = given;
	const reply: Reply = {
		status,
		reason,
		version,
		headers,
		body: decoded.body,
		wireSize: read.size,
		phases: read.phases,
		reused
	};
	if (cut) reply.cut = cut;
	if ('note' in decoded && decoded.note) reply.note = decoded.note;
	return reply;
}

/** As far as a timer of the platform reaches: more would end at once. */
export const timerMs = (ms: number): number => Math.min(Math.max(0, ms), 2 ** 31 - 1);

const pairs = (raw: string[]): HeaderList => {
	const list: HeaderList = [];
	for (let i = 0; i < raw.length; i += 2) list.push([raw[i]!, raw[i + 1]!]);
	return list;
};

/** Methods whose effect is the same however often they are sent (RFC 9110 section 9.2.2). */
const IDEMPOTENT = new Set(['GET', 'HEAD', 'OPTIONS', 'TRACE', 'PUT', 'DELETE']);
/** Whether a request that may have been looked at may be sent again by itself. */
export const mayRepeat = ({ method }: PreparedRequest): boolean => IDEMPOTENT.has(method);
/** A kept connection that failed before any byte came back: the server may have closed it before it was asked. */
export const isStale = (error: unknown): boolean =>
	error instanceof HeronError &&
	error.code === 'send.reset' &&
	error.values.phase === 'before an answer came' &&
	error.values.reused === 'yes';

/** Said of a reply with more bytes than its head allows. */
const EXTRA = 'more bytes came than the reply may have by its head (RFC 9112 section 6.3): they were not read';

/**
 * Sends one request and reads its reply.
 * @throws HeronError send.*; a reply that came in part is in its cause's `partial`
 */
export function sendOnce(sending: Sending): Promise<Sent> {
	const { request, url, pool, caps, reading, signal } = sending;
	const { timeouts } = request;
	const body = new Gathering(caps, reading);
	return new Promise<Sent>((resolve, reject) => {
		if (signal?.aborted) return reject(new HeronError('send.cancelled'));
		const begun = performance.now();
		const host = url.hostname.replace(/^\[|\]$/g, '');
		const port = Number(url.port || (url.protocol === 'https:' ? 443 : 80));
		let socket: Socket | undefined;
		let sent = 0;
		let first = 0;
		let settled = false;
		let message: http.IncomingMessage | undefined;
		let extra = false;
		const notes: string[] = [];
		const flat: string[] = [];
		for (const [name, value] of request.headers) flat.push(name, value);
		const { transport } = request;
		// RFC 9112 section 3.2.2: a proxy is asked with the whole address, unless it tunnels
		const relay = relays(transport?.proxy, url.protocol === 'https:') ? transport?.proxy : undefined;
		const path = relay ? url.href.replace(/#.*$/, '') : url.pathname + url.search;
		const proof = relay && proxyProof(relay, request.method, path, request.body);
		if (proof) flat.push('Proxy-Authorization', proof);
		const agent = pool.agent(url.protocol === 'https:', timeouts.connect, transport);
		const origin = `${host}:${port}`;
		if (agent.unasked.get(origin) === 'untold') {
			agent.unasked.set(origin, 'told');
			notes.push('bytes that nobody had asked for came on a kept connection: it was closed, and none is kept any more');
		}
		const options: CallOptions = {
			agent,
			host,
			port,
			protocol: url.protocol,
			method: request.method,
			path,
			headers: flat as unknown as http.OutgoingHttpHeaders,
			setHost: false,
			maxHeaderSize: caps.header,
			fresh: sending.fresh ?? false
		};
		const req = http.request(options);
		const timers: NodeJS.Timeout[] = [];
		const settle = (act: () => void) => {
			if (settled) return;
			settled = true;
			body.release();
			for (const timer of timers) clearTimeout(timer);
			signal?.removeEventListener('abort', onAbort);
			act();
		};
		const fail = (error: HeronError) =>
			settle(() => {
				if (req.reusedSocket) error.values.reused = 'yes';
				req.destroy();
				reject(error);
			});
		const onAbort = () => fail(signal?.reason instanceof HeronError ? signal.reason : new HeronError('send.cancelled'));
		signal?.addEventListener('abort', onAbort, { once: true });
		const limit = (ms: number, phase: string, shown: number) =>
			timers.push(
				setTimeout(() => fail(new HeronError('send.timeout', { phase, limit: showDuration(shown) })), timerMs(ms))
			);
		limit(sending.deadline - begun, 'the whole exchange', timeouts.whole);

		const phases = (end: number): Phases =>
			phasesOf(socket && !req.reusedSocket ? socketMarks(socket) : undefined, { begun, sent, first, end });

		req.once('socket', (s) => (socket = s));
		req.once('finish', () => {
			sent = performance.now();
			if (!first) limit(timeouts.reply, 'waiting for the answer', timeouts.reply);
		});
		req.on('error', (error) => {
			// RFC 9112 section 6.3: the reply ends where its length says; what comes behind it belongs to nobody
			if (message?.complete) extra = true;
			else fail(transportError(error, { host, port, first, caps, request, size: body.size }));
		});
		req.once('upgrade', (incoming, upper) => {
			upper.destroy();
			notes.push('the server switched to another protocol (101): nothing more was read');
			received(incoming);
			incoming.complete = true;
			incoming.resume();
		});
		req.once('response', (incoming) => received(incoming));
		const received = (incoming: http.IncomingMessage) => {
			message = incoming;
			const response = incoming;
			first = performance.now();
			for (const timer of timers.splice(1)) clearTimeout(timer);
			let finished = false;
			const finish = async () => {
				if (finished) return;
				finished = true;
				const end = performance.now();
				const facts = connectionFacts(socket && socketMarks(socket), req.reusedSocket);
				const given = {
					status: response.statusCode ?? 0,
					reason: response.statusMessage ?? '',
					version: `HTTP/${response.httpVersion}`,
					headers: pairs(response.rawHeaders),
					reused: req.reusedSocket
				};
				const { chunks, size, cut } = body;
				const reply = await replyOf(given, { chunks, size, cut, phases: phases(end), method: request.method }, caps);
				if (relay && reply.status === 407)
					return fail(whoAsks(relay, 407, headerValues(reply.headers, 'proxy-authenticate')));
				if (extra) notes.push(EXTRA);
				settle(() => resolve({ reply, ...facts, ...(notes.length > 0 ? { notes } : {}) }));
			};
			response.on('data', (chunk: Buffer) => {
				if (!body.take(chunk)) return;
				response.destroy();
				void finish();
			});
			response.once('end', () => void finish());
			response.once('error', (error) => {
				if (!body.cut && !response.complete)
					fail(transportError(error, { host, port, first, caps, size: body.size, request }));
			});
			response.once('close', () => {
				if (response.complete) void finish();
				else if (!body.cut)
					fail(
						new HeronError('send.reset', {
							host,
							port,
							phase: `in the middle of the body, after ${showSize(body.size)}`
						})
					);
			});
		};
		if (request.body.length > 0) req.end(request.body);
		else req.end();
	});
}

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

/** What is wrong in the head of a reply, with its line. */
function headFault(error: NodeJS.ErrnoException & { rawPacket?: Buffer; bytesParsed?: number }): string {
	const text = error.rawPacket?.toString('latin1') ?? '';
	const before = text.slice(0, error.bytesParsed ?? 0);
	const line = before.split('\n').length;
	// eslint-disable-next-line no-control-regex
	const shown = (text.split('\n')[line - 1] ?? '').slice(0, 80).replace(/[\x00-\x1f\x7f-\x9f]/g, '·');
	const what = HEAD_FAULTS[error.code ?? ''] ?? error.message.replace(/^Parse Error: /, '');
	return `${what} (line ${line}: ${shown})`;
}

/** A server that speaks HTTP/2 begins with a SETTINGS frame on stream 0 (RFC 9113 sections 3.4 and 6.5). */
const isSettings = (bytes: Buffer | undefined): boolean =>
	bytes !== undefined &&
	bytes.length >= 9 &&
	bytes[3] === 4 &&
	bytes.readUIntBE(0, 3) % 6 === 0 &&
	bytes.readUInt32BE(5) === 0;

export function transportError(
	error: NodeJS.ErrnoException & { rawPacket?: Buffer },
	at: { host: string; port: number; first: number; caps: Caps; request: PreparedRequest; size?: number }
): HeronError {
	if (error instanceof HeronError) return error;
	const { host, port } = at;
	if (error.code === 'HPE_HEADER_OVERFLOW')
		return new HeronError('send.headersTooLarge', { limit: showSize(at.caps.header) }, { cause: error });
	if (error.code?.startsWith('HPE_')) {
		// eslint-disable-next-line no-control-regex
		const start = (error.rawPacket?.subarray(0, 60).toString('latin1') ?? '').replace(/[\x00-\x1f\x7f-\x9f]/g, '·');
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
	if (error.code?.startsWith('ERR_SSL_'))
		return handshakeError(error, { host, port, secure: true, connectLimit: 0, transport });
	if (error.code === 'ECONNRESET' || error.code === 'EPIPE') {
		const phase = at.first ? `in the middle of the body, after ${showSize(at.size ?? 0)}` : 'before an answer came';
		return new HeronError('send.reset', { host, port, phase }, { cause: error });
	}
	return new HeronError('send.failed', { detail: error.message }, { cause: error });
}
