import { HeronError } from '#core/errors.ts';
import type { HeaderList } from '#core/model/reply.ts';
import type { PreparedRequest } from '#core/run/index.ts';
import http2 from 'node:http2';
import type { Socket } from 'node:net';
import { Attempt, type Ends } from './attempt.ts';
import { connectionFacts, phasesOf, replyOf, type Sending, type Sent } from './exchange.ts';
import { socketMarks } from './socket.ts';
import { transportError } from './transport-error.ts';

/** A session of HTTP/2. */
export interface Open {
	session: http2.ClientHttp2Session;
	socket: Socket;
	used: boolean;
	/** The last stream that the server has looked at; Infinity as long as it is not going away. */
	last: number;
}

/** Fields that HTTP/2 does without (RFC 9113 section 8.2.2). */
const CONNECTION_FIELDS = new Set([
	'connection',
	'host',
	'keep-alive',
	'proxy-connection',
	'transfer-encoding',
	'upgrade'
]);

function fieldsOf(request: PreparedRequest, url: URL): http2.OutgoingHttpHeaders {
	const fields: http2.OutgoingHttpHeaders = {
		':method': request.method,
		':path': url.pathname + url.search,
		':scheme': url.protocol.slice(0, -1),
		':authority': url.host
	};
	for (const [name, value] of request.headers) {
		const lower = name.toLowerCase();
		if (CONNECTION_FIELDS.has(lower)) continue;
		const before = fields[lower];
		if (before === undefined) fields[lower] = value;
		else if (lower === 'cookie') fields[lower] = `${String(before)}; ${value}`;
		else fields[lower] = [before, value].flat().map(String);
	}
	return fields;
}

function listOf(fields: http2.IncomingHttpHeaders): HeaderList {
	const list: HeaderList = [];
	for (const [name, value] of Object.entries(fields))
		if (!name.startsWith(':')) for (const one of [value].flat()) list.push([name, String(one)]);
	return list;
}

/**
 * Sends one request over a session and reads its reply.
 * @throws HeronError send.*; `untouched` in its values says that the server has not looked at it, `reused` that the session had
 * been kept from a call before
 */
export const callOver = (made: Open, sending: Sending): Promise<Sent> =>
	new Promise((resolve, reject) => new Http2Call(made, sending, { resolve, reject }).begin());

class Http2Call extends Attempt {
	readonly #made: Open;
	readonly #reused: boolean;
	#stream: http2.ClientHttp2Stream | undefined;
	#head: { status: number; headers: HeaderList } | undefined;
	/** All has come; what happens to the stream while the body is decoded is no matter. */
	#whole = false;

	constructor(made: Open, sending: Sending, ends: Ends) {
		super(sending, ends);
		this.#made = made;
		this.#reused = made.used;
		made.used = true;
	}

	begin(): void {
		const { request, url } = this.sending;
		let stream: http2.ClientHttp2Stream;
		try {
			stream = this.#made.session.request(fieldsOf(request, url), { endStream: request.body.length === 0 });
		} catch (error) {
			// the session went away in the meantime: nothing was sent
			const detail = (error as Error).message;
			return this.fail(new HeronError('send.http2', { ...this.at, detail, untouched: 'yes' }, { cause: error }));
		}
		this.#stream = stream;
		this.watch();
		const { reply } = request.timeouts;
		const waiting = this.limit(reply, 'waiting for the answer', reply);
		stream.once('response', (fields) => {
			this.first = performance.now();
			clearTimeout(waiting);
			this.#head = { status: Number(fields[':status'] ?? 0), headers: listOf(fields) };
		});
		stream.on('data', (chunk: Buffer) => {
			if (!this.body.take(chunk)) return;
			stream.close(http2.constants.NGHTTP2_CANCEL);
			this.#finish();
		});
		stream.once('end', () => this.#finish());
		stream.once('error', (error: NodeJS.ErrnoException) => !this.#whole && this.#broken(error));
		stream.once('close', () => !this.#whole && this.fail(this.reset()));
		stream.once('finish', () => (this.sent = performance.now()));
		if (request.body.length > 0) stream.end(request.body);
		else this.sent = performance.now();
	}

	protected override abandon(error: HeronError): void {
		const stream = this.#stream;
		const refused = stream?.rstCode === http2.constants.NGHTTP2_REFUSED_STREAM;
		if (!this.first && ((stream?.id ?? Infinity) > this.#made.last || refused)) error.values.untouched = 'yes';
		if (this.#reused && this.#made.session.destroyed) error.values.reused = 'yes';
		stream?.close(http2.constants.NGHTTP2_CANCEL);
	}

	#broken(error: NodeJS.ErrnoException): void {
		const { caps, request } = this.sending;
		// the session is gone, and with it all that was asked over it
		if (this.#reused && !this.first && this.#made.session.destroyed) this.fail(this.reset(error));
		else if (error.code?.startsWith('ERR_HTTP2'))
			this.fail(new HeronError('send.http2', { ...this.at, detail: error.message }, { cause: error }));
		else this.fail(transportError(error, { ...this.at, first: this.first, caps, request, size: this.body.size }));
	}

	#finish(): void {
		if (this.#whole) return;
		this.#whole = true;
		this.conclude(this.#read());
	}

	async #read(): Promise<void> {
		if (!this.#head) return this.fail(this.reset());
		const { request, caps } = this.sending;
		const marks = socketMarks(this.#made.socket);
		const reused = this.#reused;
		const times = { begun: this.begun, sent: this.sent, first: this.first, end: performance.now() };
		const given = { ...this.#head, reason: '', version: 'HTTP/2', reused };
		const { chunks, size, cut } = this.body;
		const phases = phasesOf(reused ? undefined : marks, times);
		const reply = await replyOf(given, { chunks, size, cut, phases, method: request.method }, caps);
		this.answered({ reply, ...connectionFacts(marks, reused) });
	}
}
