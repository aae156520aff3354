import { HeronError, textOf } from '#core/errors.ts';
import type { HeaderList } from '#core/model/reply.ts';
import type { StandIn } from '#core/model/stand-in.ts';
import { showSize } from '#core/model/units.ts';
import type { Redactor } from '#core/redact/index.ts';
import {
	problemOf,
	traceOf,
	type Answered,
	type Asked,
	type CallLater,
	type Came,
	type CallRecord,
	type Outgoing,
	type Service
} from '#core/stand-in/index.ts';
import { setMaxListeners } from 'node:events';
import http from 'node:http';
import https from 'node:https';
import type { AddressInfo, Socket } from 'node:net';
import type { TLSSocket } from 'node:tls';
import { wallClock } from '../clock.ts';
import { control, CONTROL, type ControlTools } from './control.ts';
import { standInIdentity } from './identity.ts';
import { bodyText, createLog, type CallLog } from './log.ts';

/** A request may be as large as this. */
const LARGEST_BODY = 20_000_000;
/** How long a request may take to arrive. */
const ARRIVES_WITHIN_MS = 60_000;
/** How long nothing is answered where that is the fault. */
const SILENT_MS = 300_000;
/** So many answers wait to be held against the definition; those beyond are not. */
const MOST_WAITING = 200;
const PIECES = 20;

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
	send(outgoing: Outgoing): Promise<{ status: number; headers: HeaderList; body: Uint8Array }>;
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
	const { redactor } = options;
	const log = createLog();
	const timers = new Set<NodeJS.Timeout>();
	const sockets = new Set<Socket>();
	let service: Service | undefined;
	let waiting = 0;
	const closing = new AbortController();
	// every answer that waits listens
	setMaxListeners(0, closing.signal);

	const record = (one: Omit<CallRecord, 'standIn'>): CallRecord => {
		const whole: CallRecord = { ...one, standIn: spec.name };
		const kept = redactor.active ? { ...redactor.record(whole), by: whole.by, standIn: whole.standIn } : whole;
		log.add(kept);
		options.onCall(kept);
		return kept;
	};

	const handle = (request: http.IncomingMessage, response: http.ServerResponse): void => {
		const began = performance.now();
		const at = Math.round(wallClock());
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
			const asked = askedOf(request, chunks.length === 1 ? chunks[0]! : Buffer.concat(chunks));
			const below = controlAt(asked.target);
			if (below !== undefined)
				return void control(asked, below, tools, () => response.destroyed).then(
					(given) => write(response, given, asked.method),
					(error: unknown) => response.destroy(error as Error)
				);
			answer(asked, response, at, began).catch((error: unknown) => {
				if (!response.headersSent) write(response, problemOf(500, textOf(error)), asked.method);
				else response.destroy();
			});
		});
	};

	function askedOf(request: http.IncomingMessage, body: Uint8Array): Asked {
		const headers: HeaderList = [];
		const { rawHeaders } = request;
		for (let i = 0; i + 1 < rawHeaders.length; i += 2) headers.push([rawHeaders[i]!, rawHeaders[i + 1]!]);
		const url = request.url ?? '/';
		// a whole address is what a proxy is asked (RFC 9112 section 3.2.2)
		const target = /^https?:\/\/[^/]*/i.test(url) ? url.replace(/^https?:\/\/[^/?#]*/i, '') || '/' : url;
		const asked: Asked = { method: request.method ?? 'GET', target, headers, body, origin };
		if (spec.tls.client) {
			const shown = (request.socket as TLSSocket).getPeerCertificate();
			// an empty object stands for none
			if (shown?.subject)
				asked.certificate = {
					subject: Object.entries(shown.subject)
						.map(([key, value]) => `${key}=${String(value)}`)
						.join(', '),
					issuer: Object.entries(shown.issuer)
						.map(([key, value]) => `${key}=${String(value)}`)
						.join(', '),
					fingerprint: shown.fingerprint256
				};
		}
		return asked;
	}

	async function answer(asked: Asked, response: http.ServerResponse, at: number, began: number): Promise<void> {
		if (!service) return write(response, problemOf(503, 'it is only starting'), asked.method);
		const answered =
			spec.tls.client && !asked.certificate
				? refusedFor('a client certificate is wanted, and none was shown')
				: await service.ask(asked);
		const { given } = answered;
		if (given.delay > 0) await pause(given.delay);
		const callId = log.next();
		const note = () => {
			const trace = traceOf(asked.headers);
			return record({
				id: callId,
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
				by: answered.by,
				tried: answered.tried,
				faults: answered.faults,
				notes: answered.notes,
				drift: [],
				...(answered.forwarded ? { forwarded: answered.forwarded } : {}),
				...(trace ? { trace } : {})
			});
		};
		// in the log before its answer is there: whoever has it may look at once
		const kept = note();
		const { socket } = response;
		if (given.end === 'reset') socket?.resetAndDestroy();
		else if (given.end === 'silent') later(SILENT_MS, () => socket?.destroy());
		else if (given.end === 'half') {
			response.writeHead(given.status, flat(given.headers, given.body.length));
			response.write(given.body.subarray(0, Math.floor(given.body.length / 2)), () => socket?.destroySoon());
		} else if (given.drip > 0 && given.body.length > 1) await dripped(response, given);
		else write(response, given, asked.method);
		for (const call of answered.calls) void callOut(call, { calledBack: kept.id });
		if (spec.definition && answered.by !== '' && waiting < MOST_WAITING) {
			waiting++;
			try {
				const drift = await service.drift(asked, answered);
				// the same object is in the log
				if (drift.length > 0) kept.drift = redactor.active ? redactor.deep(drift) : drift;
			} finally {
				waiting--;
			}
		}
	}

	const refusedFor = (detail: string): Answered => ({
		given: { ...problemOf(403, detail), delay: 0, drip: 0, end: 'whole', surplus: 0 },
		...{ by: '', tried: [], faults: [], notes: [detail], calls: [] }
	});

	/** A call that goes out; gives what is told of it in the log. */
	async function callOut(
		{ after, outgoing, error }: CallLater,
		why: Pick<CallRecord, 'calledBack' | 'sent'>
	): Promise<CallRecord | undefined> {
		if (after > 0) await pause(after);
		if (closing.signal.aborted) return undefined;
		const at = Math.round(wallClock());
		const began = performance.now();
		let came: Came | undefined;
		let wrong = error;
		if (outgoing)
			try {
				came = await options.send(outgoing);
			} catch (thrown) {
				wrong = textOf(thrown);
			}
		const ms = Math.round(performance.now() - began);
		const held = why.sent === undefined || !outgoing ? undefined : await service?.sentFaults(why.sent, outgoing, came);
		const notes = [...(wrong ? [wrong] : []), ...(held?.came ?? []).map((one) => `its answer: ${one}`)];
		return record({
			...{ id: log.next(), at, ms, by: '', tried: [], faults: [], drift: held?.sent ?? [], notes },
			...{ method: outgoing?.method ?? 'POST', target: outgoing?.url ?? '', ...why },
			requestHeaders: outgoing?.headers ?? [],
			requestBody: outgoing ? bodyText(outgoing.body, redactor) : '',
			requestSize: outgoing?.body.length ?? 0,
			status: came?.status ?? 0,
			headers: came?.headers ?? [],
			body: came ? bodyText(came.body, redactor) : '',
			size: came?.body.length ?? 0
		});
	}

	/** Lets a call go out that is nobody's answer. @throws HeronError standIn.call */
	async function send(id: string, asked: Asked): Promise<{ later: number; record: Promise<CallRecord | undefined> }> {
		const call = await service!.send(id, asked);
		return { later: call.after, record: callOut(call, { sent: id }) };
	}

	/** Those that go out over and over. */
	let beats: NodeJS.Timeout[] = [];
	function beat({ spec: { calls } }: Service): void {
		for (const timer of beats) clearInterval(timer);
		const nothing: Asked = { method: 'POST', target: '/', headers: [], body: new Uint8Array(), origin };
		beats = calls
			.filter(({ off, every }) => !off && every > 0)
			.map(({ id, every }) => {
				let busy = false;
				return setInterval(() => {
					// one that is slow is not sent twice at a time
					if (busy) return;
					busy = true;
					void send(id, nothing)
						.then((sent) => sent.record)
						.finally(() => (busy = false));
				}, every).unref();
			});
	}

	async function dripped(
		response: http.ServerResponse,
		{ status, headers, body, drip, surplus }: Answered['given']
	): Promise<void> {
		response.writeHead(status, flat(headers, body.length + surplus));
		const pieces = Math.min(PIECES, body.length);
		for (let at = 0; at < pieces; at++) {
			await pause(drip / pieces);
			if (response.destroyed) return;
			response.write(
				body.subarray(Math.floor((at * body.length) / pieces), Math.floor(((at + 1) * body.length) / pieces))
			);
		}
		response.end();
	}

	function later(ms: number, act: () => void): void {
		const timer = setTimeout(() => {
			timers.delete(timer);
			act();
		}, ms).unref();
		timers.add(timer);
	}
	const pause = (ms: number): Promise<void> =>
		new Promise((resolve) => {
			const timer = setTimeout(resolve, ms);
			closing.signal.addEventListener('abort', () => (clearTimeout(timer), resolve()), { once: true });
		});

	/** What is asked below the path of its own, which is also there behind its base. */
	const controlAt = (target: string): string | undefined =>
		[CONTROL, spec.base + CONTROL]
			.filter((prefix) => target.startsWith(prefix))
			.map((prefix) => target.slice(prefix.length))[0];

	const tools: ControlTools = {
		...{ spec, log, send, host: options.host, signal: closing.signal, changed: () => options.onChange() },
		service: () => service
	};
	const settings: http.ServerOptions = { requestTimeout: ARRIVES_WITHIN_MS, keepAliveTimeout: 30_000 };
	const identity = spec.tls.on ? await standInIdentity() : undefined;
	const server = identity
		? https.createServer(
				{
					...settings,
					key: identity.key,
					cert: `${identity.certificate}\n${identity.authority}`,
					...(spec.tls.client ? { requestCert: true, rejectUnauthorized: false } : {})
				},
				handle
			)
		: http.createServer(settings, handle);
	server.on('connection', (socket: Socket) => {
		sockets.add(socket);
		socket.once('close', () => sockets.delete(socket));
		if (service?.refuses()) socket.resetAndDestroy();
	});
	server.on('clientError', (error: Error & { code?: string; rawPacket?: Buffer }, socket: Socket) => {
		// a connection that was closed is nobody's mistake
		if (error.code !== 'ECONNRESET' && socket.writable) {
			const first = error.rawPacket ? error.rawPacket.subarray(0, 200).toString('latin1') : '';
			record({
				...{ id: log.next(), at: Math.round(wallClock()), ms: 0, method: '?', target: '', by: '', status: 400 },
				...{
					requestHeaders: [],
					requestBody: bodyText(Buffer.from(first, 'latin1'), redactor),
					requestSize: first.length
				},
				...{ headers: [], body: '', size: 0, tried: [], faults: [], drift: [] },
				notes: [`it is no request of HTTP/1.1 that can be read: ${error.message}`]
			});
			socket.end('HTTP/1.1 400 Bad Request\r\nConnection: close\r\nContent-Length: 0\r\n\r\n');
		} else socket.destroy();
	});
	await new Promise<void>((resolve, reject) => {
		server.once('error', (error: NodeJS.ErrnoException) =>
			reject(
				error.code === 'EADDRINUSE' || error.code === 'EACCES'
					? new HeronError('standIn.port', { port: options.port, name: spec.name }, { cause: error })
					: error
			)
		);
		server.listen(options.port, options.host, resolve);
	});
	const { port } = server.address() as AddressInfo;
	const shown = options.host === '0.0.0.0' || options.host === '::' ? '127.0.0.1' : options.host;
	const origin = `${spec.tls.on ? 'https' : 'http'}://${shown.includes(':') ? `[${shown}]` : shown}:${port}`;

	return {
		spec,
		address: origin + spec.base,
		log,
		service() {
			if (!service) throw new HeronError('server.failed', { detail: `${spec.name} has not begun` });
			return service;
		},
		serve(given) {
			service = given;
			beat(given);
		},
		async close() {
			closing.abort();
			for (const timer of timers) clearTimeout(timer);
			for (const timer of beats) clearInterval(timer);
			const closed = new Promise<void>((resolve) => server.close(() => resolve()));
			for (const socket of sockets) socket.destroy();
			await closed;
		}
	};
}

/** Header fields as Node takes them, in order; the length is ours. */
function flat(headers: HeaderList, length: number | undefined): string[] {
	const out: string[] = [];
	for (const [name, value] of headers)
		if (name.length !== 14 || name.toLowerCase() !== 'content-length') out.push(name, value);
	if (length !== undefined) out.push('Content-Length', String(length));
	return out;
}

function write(
	response: http.ServerResponse,
	{ status, headers, body, surplus = 0 }: Pick<Answered['given'], 'status' | 'headers' | 'body'> & { surplus?: number },
	method: string | undefined
): void {
	const bare = status === 204 || status === 304 || status < 200;
	if (method === 'HEAD' || bare) {
		response.writeHead(status, flat(headers, bare ? undefined : body.length));
		response.end();
		return;
	}
	response.writeHead(status, flat(headers, body.length + surplus));
	if (surplus === 0) return void response.end(body);
	response.write(body, () => response.socket?.destroySoon());
}
