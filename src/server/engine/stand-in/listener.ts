import { HeronError, textOf } from '#core/errors.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
import { headerValue, type HeaderList } from '#core/model/reply.ts';
import type { StandIn } from '#core/model/stand-in.ts';
import { parseDuration, showSize } from '#core/model/units.ts';
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
	type Remembered,
	type Service
} from '#core/stand-in/index.ts';
import { setMaxListeners } from 'node:events';
import http from 'node:http';
import https from 'node:https';
import type { AddressInfo, Socket } from 'node:net';
import type { TLSSocket } from 'node:tls';
import { wallClock } from '../clock.ts';
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
const CONTROL = '/.stand-in/';
const LONGEST_WAIT_MS = 60_000;

/** Loaded when one speaks TLS: most do not. */
const standInIdentity = async () => (await import('./certificate.ts')).standInIdentity();

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

const json = (status: number, value: Json): Pick<Answered['given'], 'status' | 'headers' | 'body'> => ({
	status,
	headers: [['Content-Type', 'application/json']],
	body: Buffer.from(writeJson(value))
});

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
			if (controlAt(asked.target) !== undefined)
				return void control(asked, response).catch((error: unknown) => response.destroy(error as Error));
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
		const told = log.next();
		const note = () => {
			const trace = traceOf(asked.headers);
			return record({
				id: told,
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
	async function send(id: string, told: Asked): Promise<{ later: number; record: Promise<CallRecord | undefined> }> {
		const call = await service!.send(id, told);
		return { later: call.after, record: callOut(call, { sent: id }) };
	}

	/** Those that go out over and over. */
	let beats: NodeJS.Timeout[] = [];
	function beat({ spec: { calls } }: Service): void {
		for (const timer of beats) clearInterval(timer);
		const told: Asked = { method: 'POST', target: '/', headers: [], body: new Uint8Array(), origin };
		beats = calls
			.filter(({ off, every }) => !off && every > 0)
			.map(({ id, every }) => {
				let busy = false;
				return setInterval(() => {
					// one that is slow is not sent twice at a time
					if (busy) return;
					busy = true;
					void send(id, told)
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

	/** What a stand-in tells of itself, below a path of its own. */
	async function control(asked: Asked, response: http.ServerResponse): Promise<void> {
		const url = new URL(asked.target, 'http://here.invalid');
		const what = controlAt(url.pathname) ?? '';
		const reply = (given: Pick<Answered['given'], 'status' | 'headers' | 'body'>) =>
			write(response, given, asked.method);
		const at = (name: string) => url.searchParams.get(name) ?? undefined;
		const stranger = strangerOf(asked, options.host);
		if (stranger) return reply(problemOf(403, stranger));
		if (!service) return reply(problemOf(503, 'it is only starting'));
		if (what === 'calls' && asked.method === 'GET') {
			const filter = {
				after: Number(at('after') ?? 0) || 0,
				since: Number(at('since') ?? 0) || 0,
				...{ method: at('method'), path: at('path'), by: at('by'), value: at('value') }
			};
			let calls = log.find(filter);
			const wait = at('wait') === undefined ? 0 : (parseDuration(at('wait')) ?? 0);
			const signal = AbortSignal.any([closing.signal, AbortSignal.timeout(Math.min(wait, LONGEST_WAIT_MS))]);
			while (calls.length === 0 && wait > 0 && !signal.aborted && !response.destroyed) {
				await log.more(signal);
				calls = log.find(filter);
			}
			return reply(
				json(200, {
					count: calls.length,
					last: log.count(),
					calls: (at('whole') === undefined ? calls.map(forReading) : calls) as unknown as Json
				})
			);
		}
		if (what === 'calls' && asked.method === 'DELETE') {
			log.clear();
			return reply({ status: 204, headers: [], body: new Uint8Array() });
		}
		if (what.startsWith('send/') && asked.method === 'POST') {
			try {
				const { later, record: sent } = await send(decodeURIComponent(what.slice('send/'.length)), asked);
				if (later > 0) return reply({ status: 202, headers: [], body: new Uint8Array() });
				const kept = await sent;
				if (!kept?.status) return reply(problemOf(502, kept?.notes.join('; ') ?? 'it was stopped'));
				return reply(json(200, forReading(kept) as Json));
			} catch (error) {
				return reply(
					problemOf(error instanceof HeronError && error.code === 'standIn.call' ? 404 : 500, textOf(error))
				);
			}
		}
		if (what === 'reset' && asked.method === 'POST') {
			service.reset();
			options.onChange();
			return reply({ status: 204, headers: [], body: new Uint8Array() });
		}
		if (what === 'state' && asked.method === 'GET') return reply(json(200, service.remembered() as unknown as Json));
		if (what === 'state' && asked.method === 'PUT') {
			const given = rememberedIn(asked.body);
			if (!given) return reply(problemOf(400, 'what GET gives is wanted: { stores, state, counts }'));
			service.recall(given);
			options.onChange();
			return reply({ status: 204, headers: [], body: new Uint8Array() });
		}
		if (what === 'faults' && asked.method === 'GET') return reply(json(200, service.faults()));
		if (what === 'faults' && asked.method === 'PUT') {
			try {
				const given: unknown = parseJson(new TextDecoder().decode(asked.body));
				if (!Array.isArray(given)) throw new Error('a list of faults is wanted, by name or as { status: 503 }');
				service.setFaults(given as (string | JsonObject)[]);
			} catch (error) {
				return reply(problemOf(400, textOf(error)));
			}
			options.onChange();
			return reply(json(200, service.faults()));
		}
		if (what === 'authority.pem' && asked.method === 'GET' && spec.tls.on)
			return reply({
				status: 200,
				headers: [['Content-Type', 'application/x-pem-file']],
				body: Buffer.from((await standInIdentity()).authority)
			});
		return reply(
			problemOf(
				404,
				`below ${CONTROL} are calls (GET, DELETE), reset (POST), send/ID (POST), state (GET, PUT), faults (GET, PUT)${spec.tls.on ? ', authority.pem (GET)' : ''}`
			)
		);
	}

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

/** Names by which this machine knows itself. */
const LOCAL = /^(localhost|127(\.\d+){3}|\[::1\])(:\d+)?$/i;

/**
 * Why who asks may not look at what is below its own path: a page of another origin, or one that has made a name of its own
 * lead here.
 */
function strangerOf({ headers, origin }: Asked, listens: string): string | undefined {
	const host = headerValue(headers, 'host') ?? '';
	if (/^(127\.|::1$|localhost$)/.test(listens) && !LOCAL.test(host))
		return `it does not answer below ${CONTROL} to the name ${host || 'nothing'}`;
	const page = headerValue(headers, 'origin');
	const own = URL.canParse(origin) ? new URL(origin).port : '';
	if (page !== undefined && !(URL.canParse(page) && LOCAL.test(new URL(page).host) && new URL(page).port === own))
		return `a page of ${page} may not look below ${CONTROL}`;
	return undefined;
}

/** What was remembered, as it is given back; undefined when it is not that. */
function rememberedIn(body: Uint8Array): Remembered | undefined {
	let given: unknown;
	try {
		given = parseJson(new TextDecoder().decode(body));
	} catch {
		return undefined;
	}
	const maps = (value: unknown): value is JsonObject => value === undefined || isObject(value);
	if (!isObject(given) || !maps(given.stores) || !maps(given.state) || !maps(given.counts)) return undefined;
	const stores = Object.entries(given.stores ?? {});
	if (!stores.every(([, list]) => Array.isArray(list) && list.every((one) => isObject(one)))) return undefined;
	const counts = Object.entries(given.counts ?? {}).filter(([, count]) => typeof count === 'number');
	return {
		stores: Object.fromEntries(stores) as Record<string, JsonObject[]>,
		state: given.state ?? {},
		counts: Object.fromEntries(counts) as Record<string, number>
	};
}

/** For whoever reads a log as data: bodies that are JSON as what they say. */
function forReading(one: CallRecord): Record<string, unknown> {
	const dataOf = (text: string): unknown => {
		if (!/^\s*[[{]/.test(text)) return text;
		try {
			return parseJson(text);
		} catch {
			return text;
		}
	};
	const fields = (headers: HeaderList) =>
		Object.fromEntries(headers.map(([name, value]) => [name.toLowerCase(), value]));
	const { requestHeaders, requestBody, headers, body, ...rest } = one;
	return {
		...rest,
		path: one.target.split('?')[0],
		query: Object.fromEntries(new URLSearchParams(one.target.split('?').slice(1).join('?'))),
		request: { headers: fields(requestHeaders), body: dataOf(requestBody) },
		answer: { headers: fields(headers), body: dataOf(body) }
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
