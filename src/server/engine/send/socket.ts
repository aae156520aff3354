import { HeronError } from '#core/errors.ts';
import type { TlsFacts } from '#core/model/exchange.ts';
import { plainTransport, relays, strangersTransport, type Proxy, type Transport } from '#core/model/transport.ts';
import { showDuration } from '#core/model/units.ts';
import net from 'node:net';
import tls from 'node:tls';
import { connectThrough, proxyError, socksThrough } from './proxy.ts';
import { distrustWords, secureContext, tlsFacts } from './secure.ts';
import { connectError, handshakeError } from './socket-errors.ts';

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
	const transport = target.transport ?? usual;
	const context = target.secure ? await contextOf(transport) : undefined;
	// our certificate, and the name that the other side bears, are not the proxy's business
	const proxyContext = transport.proxy?.scheme === 'https' ? await contextOf(strangersTransport(transport)) : undefined;
	return new Promise((resolve, reject) => {
		new Opening({ target, transport, context, proxyContext, resolve, reject });
	});
}

interface Order {
	target: SocketTarget;
	transport: Transport;
	/** Where the server is spoken to in TLS, and where the proxy is. */
	context: tls.SecureContext | undefined;
	proxyContext: tls.SecureContext | undefined;
	/** Called once, with what is ready to be written to; or `reject` with the error. */
	resolve(socket: net.Socket): void;
	reject(error: HeronError): void;
}

/** A connection on its way: to its server, or to a proxy and through it, and secured. */
class Opening {
	readonly #order: Order;
	readonly #target: SocketTarget;
	readonly #transport: Transport;
	readonly #tunnels: boolean;
	readonly #marks: SocketMarks;
	/** The connection itself, and the topmost of what is secured over it. */
	readonly #lowest: net.Socket;
	#current: net.Socket;
	readonly #timer: NodeJS.Timeout;
	#done = false;

	constructor(order: Order) {
		const { target, transport } = order;
		const { host, port, secure, connectLimit } = target;
		const { proxy } = transport;
		this.#order = order;
		this.#target = target;
		this.#transport = transport;
		this.#tunnels = proxy !== undefined && (!relays(proxy, secure) || target.tunnel === true);
		this.#marks = Object.assign(target.marks ?? freshMarks(), { start: performance.now() });
		const first = proxy ?? { host, port };
		this.#current = this.#lowest = net.connect({ host: first.host, port: first.port, autoSelectFamily: true });
		this.#timer = setTimeout(
			() => this.#fail(new HeronError('send.timeout', { phase: this.#phase(), limit: showDuration(connectLimit) })),
			Math.min(connectLimit, 2 ** 31 - 1)
		);
		this.#follow();
	}

	#follow(): void {
		const socket = this.#lowest;
		socket.setNoDelay(true);
		socket.once('error', this.#fail);
		socket.once('close', () => this.#fail(Object.assign(new Error('closed'), { code: 'ECONNRESET' })));
		socket.once('lookup', (error) => {
			if (!error) this.#marks.name = performance.now();
		});
		socket.once('connect', () => {
			this.#marks.connect = performance.now();
			this.#marks.peer = `${socket.remoteFamily === 'IPv6' ? `[${socket.remoteAddress}]` : socket.remoteAddress}:${socket.remotePort}`;
			const { context } = this.#order;
			const { proxy } = this.#transport;
			if (proxy) void this.#throughProxy(proxy).catch(this.#fail);
			else if (context) this.#secure(socket, context);
			else this.#finish(socket);
		});
	}

	readonly #fail = (error: unknown): void => {
		if (this.#done) return;
		this.#done = true;
		clearTimeout(this.#timer);
		this.#current.destroy();
		this.#lowest.destroy();
		this.#order.reject(error instanceof HeronError ? error : connectError(error, this.#target, this.#marks));
	};

	#finish(ready: net.Socket): void {
		if (this.#done) return;
		this.#done = true;
		clearTimeout(this.#timer);
		this.#lowest.off('error', this.#fail);
		ready.off('error', this.#fail);
		marksOfSocket.set(ready, this.#marks);
		this.#order.resolve(ready);
	}

	/** What takes its time, in words. */
	#phase(): string {
		const { connect, proxy, name } = this.#marks;
		if (connect)
			return (this.#tunnels || this.#order.proxyContext) && !proxy ? 'asking the proxy' : 'the TLS handshake';
		return name || net.isIP((this.#transport.proxy ?? this.#target).host) ? 'connecting' : 'finding the name';
	}

	#secure(below: net.Socket, secureContext: tls.SecureContext): void {
		const { host, alpn, withPem } = this.#target;
		const { name, verify } = this.#transport.tls;
		// the name that is asked for; addresses are not asked for (RFC 6066 section 3)
		const wanted = name || host;
		const upper = tls.connect({
			socket: below,
			host: wanted,
			servername: net.isIP(wanted) ? '' : wanted,
			ALPNProtocols: alpn ?? ['http/1.1'],
			secureContext,
			// judged below, so that what was shown is known even when it is not trusted
			rejectUnauthorized: false
		});
		this.#current = upper;
		upper.once('error', this.#fail);
		upper.once('secureConnect', () => {
			this.#marks.tls = performance.now();
			const facts = (this.#marks.facts = tlsFacts(upper, withPem));
			if (!verify || !facts.distrust) return this.#finish(upper);
			const detail = distrustWords(facts.distrust, facts.chain, wanted);
			this.#fail(new HeronError('tls.trust', { host: wanted, reason: facts.distrust, detail }));
		});
	}

	async #throughProxy(proxy: Proxy): Promise<void> {
		const { host, port, connectLimit } = this.#target;
		const { context, proxyContext } = this.#order;
		const hop = proxyContext ? await this.#secureProxy(proxy, proxyContext) : this.#lowest;
		if (this.#tunnels && proxy.scheme === 'socks5') await socksThrough(hop, proxy, host, port, connectLimit);
		else if (this.#tunnels) await connectThrough(hop, proxy, host, port);
		if (this.#tunnels || proxyContext) this.#marks.proxy = performance.now();
		if (this.#done) return;
		if (context) return this.#secure(hop, context);
		this.#finish(hop);
		// the library of SOCKS leaves it paused; by then whoever asked for it listens
		if (hop.isPaused()) setImmediate(() => hop.resume());
	}

	/** The way to the proxy itself, where that is encrypted. */
	#secureProxy(proxy: Proxy, secureContext: tls.SecureContext): Promise<net.Socket> {
		return new Promise((reached, lost) => {
			const upper = tls.connect({
				socket: this.#lowest,
				host: proxy.host,
				servername: net.isIP(proxy.host) ? '' : proxy.host,
				ALPNProtocols: ['http/1.1'],
				secureContext,
				rejectUnauthorized: false
			});
			this.#current = upper;
			upper.once('error', (error: NodeJS.ErrnoException) => {
				const known = handshakeError(error, { ...this.#target, host: proxy.host, port: proxy.port });
				const plain = known.values.reason === 'notTls';
				const detail = plain
					? 'it does not speak TLS: its address should start with http://'
					: `TLS with it failed: ${String(known.values.detail ?? known.message)}`;
				lost(this.#done ? known : proxyError(proxy, plain ? 'notTls' : 'other', detail));
			});
			upper.once('secureConnect', () => {
				const facts = tlsFacts(upper);
				if (!this.#transport.tls.verify || !facts.distrust) return reached(upper);
				const why = distrustWords(facts.distrust, facts.chain, proxy.host);
				lost(proxyError(proxy, 'trust', `its certificate is not trusted: ${why}`));
			});
		});
	}
}
