import { HeronError } from '#core/errors.ts';
import type { TlsFacts } from '#core/model/exchange.ts';
import { plainTransport, relays, strangersTransport, type Transport } from '#core/model/transport.ts';
import { showDuration } from '#core/model/units.ts';
import net from 'node:net';
import tls from 'node:tls';
import { connectThrough, proxyError, socksThrough } from './proxy.ts';
import { distrustWords, secureContext, tlsFacts, versionsOf } from './secure.ts';

/** When a socket reached each stage, in milliseconds of `performance.now()`; 0 where a stage was not needed. */
export interface SocketMarks {
	start: number;
	name: number;
	connect: number;
	proxy: number;
	tls: number;
	/** Of the secure connection. */
	facts?: TlsFacts;
	/** Address and port that answered. */
	peer: string;
}

const marksOfSocket = new WeakMap<object, SocketMarks>();
export const socketMarks = (socket: object): SocketMarks | undefined => marksOfSocket.get(socket);

export interface SocketTarget {
	host: string;
	port: number;
	secure: boolean;
	/** Milliseconds until name, connection and TLS are there. */
	connectLimit: number;
	transport?: Transport | undefined;
	/** Protocols offered in TLS, first choice first. */
	alpn?: string[];
	/** Certificates are kept with their PEM. */
	withPem?: boolean;
	/** A proxy makes a tunnel also for what is not encrypted: for protocols that it does not pass on. */
	tunnel?: boolean;
	/** Told of each stage as it is reached, failed ones included. */
	marks?: SocketMarks;
}

const usual = plainTransport();
const contexts = new WeakMap<Transport, Promise<tls.SecureContext>>();
const byKey = new Map<string, Promise<tls.SecureContext>>();
const CONTEXTS_KEPT = 200;

/** Settings are read once for each transport: trusting further authorities takes some milliseconds. */
function contextOf(transport: Transport): Promise<tls.SecureContext> {
	if (transport === usual) {
		const known = contexts.get(usual);
		if (known) return known;
	}
	let context = byKey.get(transport.key);
	if (!context) {
		context = secureContext(transport);
		if (byKey.size >= CONTEXTS_KEPT) byKey.clear();
		byKey.set(transport.key, context);
		// what cannot be read today may be fixed tomorrow
		context.catch(() => byKey.delete(transport.key));
	}
	return context;
}

export const freshMarks = (): SocketMarks => ({
	start: performance.now(),
	name: 0,
	connect: 0,
	proxy: 0,
	tls: 0,
	peer: ''
});

/** Opens a connection, proxy and TLS included, and notes when each stage was reached. @throws HeronError send.*, tls.* */
export async function openSocket(target: SocketTarget): Promise<net.Socket> {
	try {
		return await openOnce(target);
	} catch (error) {
		if (!(error instanceof HeronError) || error.values.again !== 'yes') throw error;
		// the proxy has said by what it wants to be answered
		return openOnce(target);
	}
}

async function openOnce(target: SocketTarget): Promise<net.Socket> {
	const { host, port, secure, connectLimit } = target;
	const transport = target.transport ?? usual;
	const context = secure ? await contextOf(transport) : undefined;
	const { proxy } = transport;
	// our certificate, and the name that the other side bears, are not the proxy's business
	const proxyContext = proxy?.scheme === 'https' ? await contextOf(strangersTransport(transport)) : undefined;
	const tunnels = proxy !== undefined && (!relays(proxy, secure) || target.tunnel === true);
	return new Promise((resolve, reject) => {
		const marks: SocketMarks = Object.assign(target.marks ?? freshMarks(), { start: performance.now() });
		const first = proxy ?? { host, port };
		const socket = net.connect({ host: first.host, port: first.port, autoSelectFamily: true });
		socket.setNoDelay(true);
		let current: net.Socket = socket;
		let done = false;
		const fail = (error: unknown) => {
			if (done) return;
			done = true;
			clearTimeout(timer);
			current.destroy();
			socket.destroy();
			reject(error instanceof HeronError ? error : connectError(error, target, marks));
		};
		const phase = () =>
			marks.connect
				? (tunnels || proxyContext) && !marks.proxy
					? 'asking the proxy'
					: 'the TLS handshake'
				: marks.name || net.isIP(first.host)
					? 'connecting'
					: 'finding the name';
		const timer = setTimeout(
			() => fail(new HeronError('send.timeout', { phase: phase(), limit: showDuration(connectLimit) })),
			Math.min(connectLimit, 2 ** 31 - 1)
		);
		const finish = (ready: net.Socket) => {
			if (done) return;
			done = true;
			clearTimeout(timer);
			socket.off('error', fail);
			ready.off('error', fail);
			marksOfSocket.set(ready, marks);
			resolve(ready);
		};
		const secured = (below: net.Socket) => {
			// the name that is asked for; addresses are not asked for (RFC 6066 section 3)
			const wanted = transport.tls.name || host;
			const upper = tls.connect({
				socket: below,
				host: wanted,
				servername: net.isIP(wanted) ? '' : wanted,
				ALPNProtocols: target.alpn ?? ['http/1.1'],
				secureContext: context!,
				// judged below, so that what was shown is known even when it is not trusted
				rejectUnauthorized: false
			});
			current = upper;
			upper.once('error', fail);
			upper.once('secureConnect', () => {
				marks.tls = performance.now();
				marks.facts = tlsFacts(upper, target.withPem);
				if (transport.tls.verify && marks.facts.distrust)
					return fail(
						new HeronError('tls.trust', {
							host: wanted,
							reason: marks.facts.distrust,
							detail: distrustWords(marks.facts.distrust, marks.facts.chain, wanted)
						})
					);
				finish(upper);
			});
		};
		socket.once('error', fail);
		socket.once('close', () => fail(Object.assign(new Error('closed'), { code: 'ECONNRESET' })));
		socket.once('lookup', (error) => {
			if (!error) marks.name = performance.now();
		});
		/** The way to the proxy itself, where that is encrypted. */
		const securedProxy = () =>
			new Promise<net.Socket>((reached, lost) => {
				const upper = tls.connect({
					socket,
					host: proxy!.host,
					servername: net.isIP(proxy!.host) ? '' : proxy!.host,
					ALPNProtocols: ['http/1.1'],
					secureContext: proxyContext!,
					rejectUnauthorized: false
				});
				current = upper;
				upper.once('error', (error: NodeJS.ErrnoException) => {
					const known = handshakeError(error, { ...target, host: proxy!.host, port: proxy!.port });
					const plain = known.values.reason === 'notTls';
					const detail = plain
						? 'it does not speak TLS: its address should start with http://'
						: `TLS with it failed: ${String(known.values.detail ?? known.message)}`;
					lost(done ? known : proxyError(proxy!, plain ? 'notTls' : 'other', detail));
				});
				upper.once('secureConnect', () => {
					const facts = tlsFacts(upper);
					if (!transport.tls.verify || !facts.distrust) return reached(upper);
					const why = distrustWords(facts.distrust, facts.chain, proxy!.host);
					lost(proxyError(proxy!, 'trust', `its certificate is not trusted: ${why}`));
				});
			});
		const proxied = async () => {
			const hop = proxyContext ? await securedProxy() : socket;
			if (tunnels && proxy!.scheme === 'socks5') await socksThrough(hop, proxy!, host, port, connectLimit);
			else if (tunnels) await connectThrough(hop, proxy!, host, port);
			if (tunnels || proxyContext) marks.proxy = performance.now();
			if (done) return;
			if (secure) return secured(hop);
			finish(hop);
			// the library of SOCKS leaves it paused; by then whoever asked for it listens
			if (hop.isPaused()) setImmediate(() => hop.resume());
		};
		socket.once('connect', () => {
			marks.connect = performance.now();
			marks.peer = `${socket.remoteFamily === 'IPv6' ? `[${socket.remoteAddress}]` : socket.remoteAddress}:${socket.remotePort}`;
			if (proxy) void proxied().catch(fail);
			else if (secure) secured(socket);
			else finish(socket);
		});
	});
}

function connectError(error: unknown, target: SocketTarget, marks: SocketMarks): HeronError {
	const { host, port, transport } = target;
	// with several addresses the reasons of all are in `errors`; the first one is the one that helps
	const first = error instanceof AggregateError ? (error.errors[0] as Error) : (error as Error);
	const { code = '', message } = first as NodeJS.ErrnoException;
	const values = { host, port };
	if (transport?.proxy && !marks.connect) {
		const { proxy } = transport;
		const why = { ECONNREFUSED: 'nothing listens there', ENOTFOUND: 'its name does not resolve' }[code] ?? message;
		return proxyError(proxy, 'unreachable', why);
	}
	if (code === 'ECONNREFUSED') return new HeronError('send.refused', values, { cause: error });
	if (code === 'ENOTFOUND' || code === 'EAI_AGAIN') return new HeronError('send.name', { host }, { cause: error });
	if (['EHOSTUNREACH', 'ENETUNREACH', 'EADDRNOTAVAIL', 'EACCES'].includes(code)) {
		return new HeronError('send.unreachable', values, { cause: error });
	}
	if (transport?.proxy && !marks.proxy && (code === 'ECONNRESET' || code === 'EPIPE'))
		return proxyError(transport.proxy, 'other', 'it closed the connection');
	if (code === 'ETIMEDOUT')
		return new HeronError('send.timeout', { phase: 'connecting', limit: 'the system allows' }, { cause: error });
	if (marks.connect && target.secure) return handshakeError(first as NodeJS.ErrnoException, target);
	if (code === 'ECONNRESET' || code === 'EPIPE')
		return new HeronError('send.reset', { ...values, phase: 'while connecting' }, { cause: error });
	return new HeronError('send.failed', { detail: message }, { cause: error });
}

/** What went wrong in a TLS handshake, as far as the other side's alert or silence tells. */
export function handshakeError(error: NodeJS.ErrnoException, { host, port, transport }: SocketTarget): HeronError {
	const { code = '', message } = error;
	const values = { host, port };
	const { min, max } = versionsOf((transport ?? usual).tls);
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
