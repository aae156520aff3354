import { HeronError } from '#core/errors.ts';
import type { HeaderList } from '#core/model/reply.ts';
import { showDuration, showSize } from '#core/model/units.ts';
import type { PreparedRequest } from '#core/run/index.ts';
import http2 from 'node:http2';
import type { Socket } from 'node:net';
import { connectionFacts, phasesOf, replyOf, timerMs, transportError, type Sending, type Sent } from './exchange.ts';
import { Gathering } from './gathering.ts';
import { socketMarks } from './socket.ts';

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
	new Promise((resolve, reject) => new Call(made, sending, { resolve, reject }).begin());

interface Ends {
	resolve(sent: Sent): void;
	reject(error: Error): void;
}

class Call {
	readonly #made: Open;
	readonly #sending: Sending;
	readonly #ends: Ends;
	readonly #at: { host: string; port: number };
	readonly #begun = performance.now();
	readonly #reused: boolean;
	readonly #body: Gathering;
	readonly #timers = new Set<NodeJS.Timeout>();
	#stream: http2.ClientHttp2Stream | undefined;
	#sent = 0;
	#first = 0;
	#settled = false;
	#head: { status: number; headers: HeaderList } | undefined;
	/** All has come; what happens to the stream while the body is decoded is no matter. */
	#whole = false;

	constructor(made: Open, sending: Sending, ends: Ends) {
		this.#made = made;
		this.#sending = sending;
		this.#ends = ends;
		this.#at = { host: sending.url.hostname, port: Number(sending.url.port || 443) };
		this.#reused = made.used;
		made.used = true;
		this.#body = new Gathering(sending.caps, sending.reading);
	}

	begin(): void {
		const { request, url, signal, deadline } = this.#sending;
		let stream: http2.ClientHttp2Stream;
		try {
			stream = this.#made.session.request(fieldsOf(request, url), { endStream: request.body.length === 0 });
		} catch (error) {
			// the session went away in the meantime: nothing was sent
			const detail = (error as Error).message;
			return this.#ends.reject(
				new HeronError('send.http2', { ...this.#at, detail, untouched: 'yes' }, { cause: error })
			);
		}
		this.#stream = stream;
		signal?.addEventListener('abort', this.#onAbort, { once: true });
		const { timeouts } = request;
		this.#limit(deadline - this.#begun, 'the whole exchange', timeouts.whole);
		const waiting = this.#limit(timeouts.reply, 'waiting for the answer', timeouts.reply);
		stream.once('response', (fields) => {
			this.#first = performance.now();
			clearTimeout(waiting);
			this.#head = { status: Number(fields[':status'] ?? 0), headers: listOf(fields) };
		});
		stream.on('data', (chunk: Buffer) => {
			if (!this.#body.take(chunk)) return;
			stream.close(http2.constants.NGHTTP2_CANCEL);
			this.#finish();
		});
		stream.once('end', () => this.#finish());
		stream.once('error', (error: NodeJS.ErrnoException) => this.#onError(error));
		stream.once('close', () => !this.#whole && this.#fail(this.#reset()));
		stream.once('finish', () => (this.#sent = performance.now()));
		if (request.body.length > 0) stream.end(request.body);
		else this.#sent = performance.now();
	}

	readonly #onAbort = (): void => {
		const reason: unknown = this.#sending.signal?.reason;
		this.#fail(reason instanceof HeronError ? reason : new HeronError('send.cancelled'));
	};

	#limit(ms: number, phase: string, shown: number): NodeJS.Timeout {
		const over = () => this.#fail(new HeronError('send.timeout', { phase, limit: showDuration(shown) }));
		const timer = setTimeout(over, timerMs(ms));
		this.#timers.add(timer);
		return timer;
	}

	#settle(act: () => void): void {
		if (this.#settled) return;
		this.#settled = true;
		this.#body.release();
		for (const timer of this.#timers) clearTimeout(timer);
		this.#sending.signal?.removeEventListener('abort', this.#onAbort);
		act();
	}

	#reset(cause?: Error): HeronError {
		const phase = this.#first
			? `in the middle of the body, after ${showSize(this.#body.size)}`
			: 'before an answer came';
		return new HeronError('send.reset', { ...this.#at, phase }, cause ? { cause } : undefined);
	}

	#onError(error: NodeJS.ErrnoException): void {
		if (this.#whole) return;
		const { caps, request } = this.#sending;
		// the session is gone, and with it all that was asked over it
		if (this.#reused && !this.#first && this.#made.session.destroyed) this.#fail(this.#reset(error));
		else if (error.code?.startsWith('ERR_HTTP2'))
			this.#fail(new HeronError('send.http2', { ...this.#at, detail: error.message }, { cause: error }));
		else this.#fail(transportError(error, { ...this.#at, first: this.#first, caps, request, size: this.#body.size }));
	}

	#fail(error: HeronError): void {
		this.#settle(() => {
			const stream = this.#stream!;
			const refused = stream.rstCode === http2.constants.NGHTTP2_REFUSED_STREAM;
			if (!this.#first && ((stream.id ?? Infinity) > this.#made.last || refused)) error.values.untouched = 'yes';
			if (this.#reused && this.#made.session.destroyed) error.values.reused = 'yes';
			stream.close(http2.constants.NGHTTP2_CANCEL);
			this.#ends.reject(error);
		});
	}

	#finish(): void {
		this.#whole = true;
		this.#answer().catch((error: Error) => this.#settle(() => this.#ends.reject(error)));
	}

	async #answer(): Promise<void> {
		if (!this.#head) return this.#fail(this.#reset());
		const { request, caps } = this.#sending;
		const marks = socketMarks(this.#made.socket);
		const [reused, body] = [this.#reused, this.#body];
		const at = { begun: this.#begun, sent: this.#sent, first: this.#first, end: performance.now() };
		const given = { ...this.#head, reason: '', version: 'HTTP/2', reused };
		const { chunks, size, cut } = body;
		const phases = phasesOf(reused ? undefined : marks, at);
		const reply = await replyOf(given, { chunks, size, cut, phases, method: request.method }, caps);
		this.#settle(() => this.#ends.resolve({ reply, ...connectionFacts(marks, reused) }));
	}
}
