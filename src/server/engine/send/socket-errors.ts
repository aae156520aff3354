import { HeronError } from '#core/errors.ts';
import { plainTransport, type Transport } from '#core/model/transport.ts';
import { proxyError } from './proxy.ts';
import { versionsOf } from './secure.ts';

/** Where a connection was to lead, and how. */
interface Destination {
	host: string;
	port: number;
	transport?: Transport | undefined;
}

/**
 * Why a connection did not come about.
 * @param reached when the connection and the tunnel of a proxy were there; 0 where they were not
 */
export function connectError(
	error: unknown,
	target: Destination & { secure: boolean },
	reached: { connect: number; proxy: number }
): HeronError {
	const { host, port, transport } = target;
	// with several addresses the reasons of all are in `errors`; the first one is the one that helps
	const first = error instanceof AggregateError ? (error.errors[0] as Error) : (error as Error);
	const { code = '', message } = first as NodeJS.ErrnoException;
	const values = { host, port };
	if (transport?.proxy && !reached.connect) {
		const { proxy } = transport;
		const why = { ECONNREFUSED: 'nothing listens there', ENOTFOUND: 'its name does not resolve' }[code] ?? message;
		return proxyError(proxy, 'unreachable', why);
	}
	if (code === 'ECONNREFUSED') return new HeronError('send.refused', values, { cause: error });
	if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return new HeronError('send.name', { host }, { cause: error });
	if (['EHOSTUNREACH', 'ENETUNREACH', 'EADDRNOTAVAIL', 'EACCES'].includes(code)) {
		return new HeronError('send.unreachable', values, { cause: error });
	}
	if (transport?.proxy && !reached.proxy && (code === 'ECONNRESET' || code === 'EPIPE'))
		return proxyError(transport.proxy, 'other', 'it closed the connection');
	if (code === 'ETIMEDOUT')
		return new HeronError('send.timeout', { phase: 'connecting', limit: 'the system allows' }, { cause: error });
	if (reached.connect && target.secure) return handshakeError(first as NodeJS.ErrnoException, target);
	if (code === 'ECONNRESET' || code === 'EPIPE')
		return new HeronError('send.reset', { ...values, phase: 'while connecting' }, { cause: error });
	return new HeronError('send.failed', { detail: message }, { cause: error });
}

/** What went wrong in a TLS handshake, as far as the other side's alert or silence tells. */
export function handshakeError(error: NodeJS.ErrnoException, { host, port, transport }: Destination): HeronError {
	const { code = '', message } = error;
	const values = { host, port };
	const { min, max } = versionsOf((transport ?? plainTransport()).tls);
	const range = min === max ? `TLS ${min}` : `TLS ${min} to ${max}`;
	if (/PROTOCOL_VERSION|UNSUPPORTED_PROTOCOL|WRONG_SSL_VERSION|NO_PROTOCOLS_AVAILABLE/.test(code))
		return new HeronError(
			'tls.version',
			{ ...values, detail: `we speak ${range}, and the server refuses that` },
			{ cause: error }
		);
	if (
		/WRONG_VERSION_NUMBER|HTTP_REQUEST|PACKET_LENGTH_TOO_LONG|UNEXPECTED_MESSAGE|BAD_RECORD_TYPE|UNKNOWN_PROTOCOL/.test(
			code
		)
	)
		return new HeronError(
			'send.tls',
			{
				...values,
				reason: 'notTls',
				detail: 'what answers there does not speak TLS: http:// perhaps, or another port'
			},
			{ cause: error }
		);
	if (/NO_APPLICATION_PROTOCOL/.test(code))
		return new HeronError(
			'send.http2',
			{ ...values, reason: 'only', detail: 'the server speaks nothing else, and HTTP/1.1 was offered: set http: auto' },
			{ cause: error }
		);
	if (/HANDSHAKE_FAILURE|NO_SHARED_CIPHER|NO_CIPHERS/.test(code))
		return new HeronError(
			'send.tls',
			{
				...values,
				reason: 'cipher',
				detail: 'the server accepts none of our cipher suites, or wants a client certificate'
			},
			{ cause: error }
		);
	if (
		/CERTIFICATE_REQUIRED|ALERT_BAD_CERTIFICATE|ALERT_UNKNOWN_CA|ALERT_CERTIFICATE|UNSUPPORTED_CERTIFICATE|ALERT_ACCESS_DENIED/.test(
			code
		)
	)
		return clientRefused(host, transport, error);
	if (/UNRECOGNIZED_NAME/.test(code))
		return new HeronError(
			'send.tls',
			{ ...values, reason: 'name', detail: `the server does not know the name ${transport?.tls.name || host}` },
			{ cause: error }
		);
	if (code === 'ECONNRESET' || code === 'EPIPE')
		return new HeronError('send.reset', { ...values, phase: 'in the TLS handshake' }, { cause: error });
	return new HeronError('send.tls', { ...values, reason: 'other', detail: message }, { cause: error });
}

/** In TLS 1.3 the server judges our certificate after the handshake: the alert comes with the first answer. */
export function clientRefused(
	host: string,
	transport: Transport | undefined,
	error: NodeJS.ErrnoException
): HeronError {
	const has = transport?.tls.client !== undefined;
	const detail = has
		? `it refuses the one we show (${(error.code ?? '')
				.replace(/^ERR_SSL_(TLSV\d+_)?(SSLV3_)?ALERT_/, '')
				.toLowerCase()
				.replace(/_/g, ' ')})`
		: 'none is set';
	return new HeronError('tls.client', { host, reason: has ? 'refused' : 'missing', detail }, { cause: error });
}
