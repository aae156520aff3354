import { HeronError } from '#core/errors.ts';
import { headerValues, type HeaderList } from '#core/model/reply.ts';
import { relays, type Transport } from '#core/model/transport.ts';
import http from 'node:http';
import type { Socket } from 'node:net';
import { Attempt, type Ends } from './attempt.ts';
import { connectionFacts, phasesOf, replyOf, type Sending, type Sent } from './exchange.ts';
import type { CallOptions } from './pool.ts';
import { proxyProof, whoAsks } from './proxy.ts';
import { socketMarks } from './socket.ts';
import { transportError } from './transport-error.ts';

/** Said of a reply with more bytes than its head allows. */
const EXTRA = 'more bytes came than the reply may have by its head (RFC 9112 section 6.3): they were not read';

const pairs = (raw: string[]): HeaderList => {
	const list: HeaderList = [];
	for (let i = 0; i < raw.length; i += 2) list.push([raw[i]!, raw[i + 1]!]);
	return list;
};

/**
 * Sends one request over HTTP/1.1 and reads its reply.
 * @throws HeronError send.*; `reused` in its values says that the connection had been kept from a call before
 */
export const sendOnce = (sending: Sending): Promise<Sent> =>
	new Promise((resolve, reject) => {
		if (sending.signal?.aborted) return reject(new HeronError('send.cancelled'));
		new Http1Call(sending, { resolve, reject }).begin();
	});

class Http1Call extends Attempt {
	/** The proxy that is asked with the whole address (RFC 9112 section 3.2.2); one that tunnels is not. */
	readonly #relay: Transport['proxy'];
	readonly #client: http.ClientRequest;
	readonly #notes: string[] = [];
	#socket: Socket | undefined;
	#message: http.IncomingMessage | undefined;
	#waiting: NodeJS.Timeout | undefined;
	/** Bytes came behind the reply's end. */
	#extra = false;
	#finished = false;

	constructor(sending: Sending, ends: Ends) {
		super(sending, ends);
		const { request, url, pool, caps, fresh = false } = sending;
		const { transport, timeouts } = request;
		const secure = url.protocol === 'https:';
		this.#relay = relays(transport?.proxy, secure) ? transport?.proxy : undefined;
		const agent = pool.agent(secure, timeouts.connect, transport);
		const origin = `${this.at.host}:${this.at.port}`;
		if (agent.unasked.get(origin) === 'untold') {
			agent.unasked.set(origin, 'told');
			this.#notes.push(
				'bytes that nobody had asked for came on a kept connection: it was closed, and none is kept any more'
			);
		}
		const path = this.#relay ? url.href.replace(/#.*$/, '') : url.pathname + url.search;
		const options: CallOptions = {
			agent,
			fresh,
			path,
			host: this.at.host,
			port: this.at.port,
			protocol: url.protocol,
			method: request.method,
			headers: this.#fields(path) as unknown as http.OutgoingHttpHeaders,
			setHost: false,
			maxHeaderSize: caps.header
		};
		this.#client = http.request(options);
	}

	/** Names and values in turn: they keep their order and case. */
	#fields(path: string): string[] {
		const { request } = this.sending;
		const flat: string[] = [];
		for (const [name, value] of request.headers) flat.push(name, value);
		const proof = this.#relay && proxyProof(this.#relay, request.method, path, request.body);
		if (proof) flat.push('Proxy-Authorization', proof);
		return flat;
	}

	begin(): void {
		this.watch();
		const { request } = this.sending;
		const { reply } = request.timeouts;
		const client = this.#client;
		client.once('socket', (socket) => (this.#socket = socket));
		client.once('finish', () => {
			this.sent = performance.now();
			if (!this.first) this.#waiting = this.limit(reply, 'waiting for the answer', reply);
		});
		client.on('error', (error) => {
			// RFC 9112 section 6.3: the reply ends where its length says; what comes behind it belongs to nobody
			if (this.#message?.complete) this.#extra = true;
			else this.#broken(error);
		});
		client.once('upgrade', (message, upper) => {
			upper.destroy();
			this.#notes.push('the server switched to another protocol (101): nothing more was read');
			this.#receive(message);
			message.complete = true;
			message.resume();
		});
		client.once('response', (message) => this.#receive(message));
		if (request.body.length > 0) client.end(request.body);
		else client.end();
	}

	protected override abandon(error: HeronError): void {
		if (this.#client.reusedSocket) error.values.reused = 'yes';
		this.#client.destroy();
	}

	#broken(error: Error): void {
		const { caps, request } = this.sending;
		this.fail(transportError(error, { ...this.at, first: this.first, caps, request, size: this.body.size }));
	}

	#receive(message: http.IncomingMessage): void {
		this.#message = message;
		this.first = performance.now();
		clearTimeout(this.#waiting);
		message.on('data', (chunk: Buffer) => {
			if (!this.body.take(chunk)) return;
			message.destroy();
			this.#finish(message);
		});
		message.once('end', () => this.#finish(message));
		message.once('error', (error) => {
			if (!this.body.cut && !message.complete) this.#broken(error);
		});
		message.once('close', () => {
			if (message.complete) this.#finish(message);
			else if (!this.body.cut) this.fail(this.reset());
		});
	}

	#finish(message: http.IncomingMessage): void {
		if (this.#finished) return;
		this.#finished = true;
		this.conclude(this.#read(message));
	}

	async #read(message: http.IncomingMessage): Promise<void> {
		const { request, caps } = this.sending;
		const reused = this.#client.reusedSocket;
		const marks = this.#socket && socketMarks(this.#socket);
		const times = { begun: this.begun, sent: this.sent, first: this.first, end: performance.now() };
		const given = {
			status: message.statusCode ?? 0,
			reason: message.statusMessage ?? '',
			version: `HTTP/${message.httpVersion}`,
			headers: pairs(message.rawHeaders),
			reused
		};
		const phases = phasesOf(reused ? undefined : marks, times);
		const { chunks, size, cut } = this.body;
		const reply = await replyOf(given, { chunks, size, cut, phases, method: request.method }, caps);
		if (this.#relay && reply.status === 407)
			return this.fail(whoAsks(this.#relay, 407, headerValues(reply.headers, 'proxy-authenticate')));
		if (this.#extra) this.#notes.push(EXTRA);
		const notes = this.#notes.length > 0 ? { notes: this.#notes } : {};
		this.answered({ reply, ...connectionFacts(marks, reused), ...notes });
	}
}
