import { HeronError, textOf } from '#core/errors.ts';
import type { StandIn } from '#core/documents/stand-in.ts';
import { readableFields } from '#core/model/reply.ts';
import { showSize } from '#core/model/units.ts';
import type { Redactor } from '#core/redact/index.ts';
import { problemOf, traceOf, type Answered, type Asked, type CallRecord, type Service } from '#core/stand-in/index.ts';
import http from 'node:http';
import https from 'node:https';
import type { AddressInfo, Socket } from 'node:net';
import { wallClock } from '../clock.ts';
import { control, CONTROL, type ControlTools } from './control.ts';
import { GoingOut, type Send } from './going-out.ts';
import { standInIdentity } from './identity.ts';
import { bodyText, createLog, type CallLog, type Recording } from './log.ts';
import { Waits } from './waits.ts';
import { askedOf, respond, write } from './wire.ts';

/** A request may be as large as this. */
const LARGEST_BODY = 20_000_000;
/** How long a request may take to arrive. */
const ARRIVES_WITHIN_MS = 60_000;
/** So many answers wait to be held against the definition; those beyond are not. */
const MOST_WAITING = 200;

/** A stand-in on its port. */
export interface Listener {
	spec: StandIn;
	/** With its base. */
	address: string;
	log: CallLog;
	service(): Service;
	/** From now on it answers. */
	serve(service: Service): void;
	close(): Promise<void>;
}

export interface ListenOptions {
	host: string;
	/** 0 for any that is free. */
	port: number;
	redactor: Redactor;
	send: Send;
	/** Told of each call. */
	onCall(record: CallRecord): void;
	/** Told when it was reset, or its faults or memory were set. */
	onChange(): void;
}

/**
 * Listens for a stand-in; it answers once it was given its service.
 * @throws HeronError standIn.port
 */
export async function listenFor(spec: StandIn, options: ListenOptions): Promise<Listener> {
	const answering = new Answering(spec, options);
	const server = await createServer(spec, (request, response) => answering.handle(request, response));
	const sockets = new Set<Socket>();
	server.on('connection', (socket: Socket) => {
		sockets.add(socket);
		socket.once('close', () => sockets.delete(socket));
		if (answering.service?.refuses()) socket.resetAndDestroy();
	});
	server.on('clientError', (error: ClientError, socket: Socket) => answering.handleBroken(error, socket));
	await listening(server, spec, options);
	answering.origin = originOf(server, spec, options);
	return {
		spec,
		address: answering.origin + spec.base,
		log: answering.log,
		service() {
			if (!answering.service) throw new HeronError('server.failed', { detail: `${spec.name} has not begun` });
			return answering.service;
		},
		serve: (service) => answering.serve(service),
		async close() {
			answering.end();
			const closed = new Promise<void>((resolve) => server.close(() => resolve()));
			for (const socket of sockets) socket.destroy();
			await closed;
		}
	};
}

async function createServer(spec: StandIn, handle: http.RequestListener): Promise<http.Server> {
	const settings: http.ServerOptions = { requestTimeout: ARRIVES_WITHIN_MS, keepAliveTimeout: 30_000 };
	if (!spec.tls.on) return http.createServer(settings, handle);
	const { key, certificate, authority } = await standInIdentity();
	const client = spec.tls.client ? { requestCert: true, rejectUnauthorized: false } : {};
	return https.createServer({ ...settings, key, cert: `${certificate}\n${authority}`, ...client }, handle);
}

/** @throws HeronError standIn.port */
function listening(server: http.Server, { name }: StandIn, { host, port }: ListenOptions): Promise<void> {
	return new Promise((resolve, reject) => {
		server.once('error', (error: NodeJS.ErrnoException) => {
			const taken = error.code === 'EADDRINUSE' || error.code === 'EACCES';
			reject(taken ? new HeronError('standIn.port', { port, name }, { cause: error }) : error);
		});
		server.listen(port, host, resolve);
	});
}

function originOf(server: http.Server, { tls }: StandIn, { host }: ListenOptions): string {
	const { port } = server.address() as AddressInfo;
	const shown = host === '0.0.0.0' || host === '::' ? '127.0.0.1' : host;
	return `${tls.on ? 'https' : 'http'}://${shown.includes(':') ? `[${shown}]` : shown}:${port}`;
}

type ClientError = Error & { code?: string; rawPacket?: Buffer };

/** What a stand-in does with what comes to its port. */
class Answering {
	readonly log = createLog();
	service: Service | undefined;
	/** `http://127.0.0.1:4690`, known when it listens. */
	origin = '';
	readonly #spec: StandIn;
	readonly #options: ListenOptions;
	readonly #waits = new Waits();
	readonly #goingOut: GoingOut;
	readonly #control: ControlTools;
	/** So many answers wait to be held against the definition. */
	#waiting = 0;

	constructor(spec: StandIn, options: ListenOptions) {
		this.#spec = spec;
		this.#options = options;
		const { redactor, send, host } = options;
		const service = () => this.service;
		this.#goingOut = new GoingOut({ send, waits: this.#waits, redactor, record: this.#record, service });
		this.#control = {
			...{ spec, host, service, log: this.log, signal: this.#waits.signal },
			send: (id, asked) => this.#goingOut.send(id, asked),
			changed: () => options.onChange()
		};
	}

	serve(service: Service): void {
		this.service = service;
		this.#goingOut.beat(service, this.origin);
	}

	end(): void {
		this.#waits.end();
		this.#goingOut.end();
	}

	readonly #record: Recording = (one) => {
		const { redactor, onCall } = this.#options;
		const [requestHeaders, headers] = [readableFields(one.requestHeaders), readableFields(one.headers)];
		const whole: CallRecord = { ...one, requestHeaders, headers, id: this.log.next(), standIn: this.#spec.name };
		const kept = redactor.active ? { ...redactor.record(whole), by: whole.by, standIn: whole.standIn } : whole;
		this.log.add(kept);
		onCall(kept);
		return kept;
	};

	handle(request: http.IncomingMessage, response: http.ServerResponse): void {
		const came = { began: performance.now(), at: Math.round(wallClock()) };
		const chunks: Buffer[] = [];
		let size = 0;
		request.on('data', (chunk: Buffer) => {
			size += chunk.length;
			if (size <= LARGEST_BODY) chunks.push(chunk);
			else if (!response.headersSent) {
				write(response, problemOf(413, `a request may have up to ${showSize(LARGEST_BODY)}`), request.method);
				request.socket.destroySoon();
			}
		});
		request.on('error', () => {});
		response.on('error', () => {});
		request.on('end', () => {
			if (size > LARGEST_BODY) return;
			const body = chunks.length === 1 ? chunks[0]! : Buffer.concat(chunks);
			const asked = askedOf(request, body, this.#spec, this.origin);
			const below = this.#controlAt(asked.target);
			if (below !== undefined)
				return void control(asked, below, this.#control, () => response.destroyed).then(
					(given) => write(response, given, asked.method),
					(error: unknown) => response.destroy(error as Error)
				);
			this.#answer(asked, response, came).catch((error: unknown) => {
				if (!response.headersSent) write(response, problemOf(500, textOf(error)), asked.method);
				else response.destroy();
			});
		});
	}

	/** What came is no request. */
	handleBroken(error: ClientError, socket: Socket): void {
		// a connection that was closed is nobody's mistake
		if (error.code === 'ECONNRESET' || !socket.writable) return void socket.destroy();
		const first = error.rawPacket ? error.rawPacket.subarray(0, 200).toString('latin1') : '';
		this.#record({
			...{ at: Math.round(wallClock()), ms: 0, method: '?', target: '', by: '', status: 400 },
			...{ requestHeaders: [], requestSize: first.length },
			requestBody: bodyText(Buffer.from(first, 'latin1'), this.#options.redactor, true),
			...{ headers: [], body: '', size: 0, tried: [], faults: [], drift: [] },
			notes: [`it is no request of HTTP/1.1 that can be read: ${error.message}`]
		});
		socket.end('HTTP/1.1 400 Bad Request\r\nConnection: close\r\nContent-Length: 0\r\n\r\n');
	}

	/** What is asked below the path of its own, which is also there behind its base. */
	#controlAt(target: string): string | undefined {
		const prefix = [CONTROL, this.#spec.base + CONTROL].find((one) => target.startsWith(one));
		return prefix === undefined ? undefined : target.slice(prefix.length);
	}

	async #answer(asked: Asked, response: http.ServerResponse, came: { at: number; began: number }): Promise<void> {
		const { service } = this;
		if (!service) return write(response, problemOf(503, 'it is only starting'), asked.method);
		const unknown = this.#spec.tls.client && !asked.certificate;
		const answered = unknown
			? refusedFor('a client certificate is wanted, and none was shown')
			: await service.ask(asked);
		const { given } = answered;
		if (given.delay > 0) await this.#waits.pause(given.delay);
		// in the log before its answer is there: whoever has it may look at once
		const kept = this.#note(asked, answered, came);
		await respond(response, given, asked.method, this.#waits);
		for (const call of answered.calls) void this.#goingOut.call(call, { calledBack: kept.id });
		if (this.#spec.definition && answered.by !== '') await this.#holdAgainst(service, asked, answered, kept);
	}

	#note(asked: Asked, answered: Answered, { at, began }: { at: number; began: number }): CallRecord {
		const { redactor } = this.#options;
		const { given, by, tried, faults, notes, forwarded } = answered;
		const trace = traceOf(asked.headers);
		return this.#record({
			at,
			ms: Math.round((performance.now() - began) * 100) / 100,
			method: asked.method,
			target: asked.target,
			requestHeaders: asked.headers,
			requestBody: bodyText(asked.body, redactor),
			requestSize: asked.body.length,
			status: given.end === 'reset' || given.end === 'silent' ? 0 : given.status,
			headers: given.headers,
			body: bodyText(given.body, redactor),
			size: given.body.length,
			...{ by, tried, faults, notes, drift: [] },
			...(forwarded ? { forwarded } : {}),
			...(trace ? { trace } : {})
		});
	}

	/** Holds an answer against the definition, when not too many wait for that. */
	async #holdAgainst(service: Service, asked: Asked, answered: Answered, kept: CallRecord): Promise<void> {
		if (this.#waiting >= MOST_WAITING) return;
		const { redactor } = this.#options;
		this.#waiting++;
		try {
			const drift = await service.drift(asked, answered);
			// the same object is in the log
			if (drift.length > 0) kept.drift = redactor.active ? redactor.deep(drift) : drift;
		} finally {
			this.#waiting--;
		}
	}
}

const refusedFor = (detail: string): Answered => ({
	given: { ...problemOf(403, detail), delay: 0, drip: 0, end: 'whole', surplus: 0 },
	...{ by: '', tried: [], faults: [], notes: [detail], calls: [] }
});
