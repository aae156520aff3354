import { HeronError } from '#core/errors.ts';
import type { HeaderList } from '#core/model/reply.ts';
import { showDuration, showSize } from '#core/model/units.ts';
import http2 from 'node:http2';
import type { Socket } from 'node:net';
import type { TLSSocket } from 'node:tls';
import { connectionFacts, phasesOf, replyOf, timerMs, transportError, type Sending, type Sent } from './exchange.ts';
import { openSocket, socketMarks } from './socket.ts';

/** Fields that HTTP/2 does without (RFC 9113 section 8.2.2). */
const CONNECTION_FIELDS = new Set([
	'connection',
	'host',
	'keep-alive',
	'proxy-connection',
	'transfer-encoding',
	'upgrade'
]);
const IDLE_MS = 30_000;
const AGAIN = 'the server was closing its HTTP/2 session: it was sent over another one (RFC 9113 section 6.8)';

interface Open {
	session: http2.ClientHttp2Session;
	socket: Socket;
	used: boolean;
	/** The last stream that the server has looked at; Infinity as long as it is not going away. */
	last: number;
}

/** Sessions of HTTP/2, one for each origin and transport. */
export interface Http2 {
	/** Sends over HTTP/2; undefined when the server does not offer it and HTTP/1.1 will do. @throws HeronError send.*, tls.* */
	send(sending: Omit<Sending, 'pool'>): Promise<Sent | undefined>;
	close(): void;
}

export function createHttp2(): Http2 {
	const sessions = new Map<string, Promise<Open | undefined>>();

	const open = async ({ request, url }: Omit<Sending, 'pool'>): Promise<Open | undefined> => {
		const { transport, timeouts } = request;
		const host = url.hostname.replace(/^\[|\]$/g, '');
		const secure = url.protocol === 'https:';
		const port = Number(url.port || (secure ? 443 : 80));
		const only = transport?.http === '2';
		const socket = await openSocket({
			host,
			port,
			secure,
			connectLimit: timeouts.connect,
			transport,
			tunnel: true,
			alpn: only ? ['h2'] : ['h2', 'http/1.1']
		});
		if (secure && (socket as TLSSocket).alpnProtocol !== 'h2') {
			socket.destroy();
			if (!only) return undefined;
			throw new HeronError('send.http2', { host, port, detail: 'the server does not offer it' });
		}
		const session = http2.connect(url.origin, { createConnection: () => socket });
		session.setTimeout(IDLE_MS, () => session.close());
		session.unref();
		// a session that fails while nothing is asked is nobody's fault: the next call takes another one
		session.on('error', () => {});
		const made: Open = { session, socket, used: false, last: Infinity };
		// RFC 9113 section 6.8: no further stream is taken; those above the last one were not looked at
		session.on('goaway', (_, lastStream: number) => (made.last = lastStream));
		return made;
	};

	const keyOf = ({ url, request }: Omit<Sending, 'pool'>): string => `${url.origin} ${request.transport?.key ?? ''}`;
	const sessionFor = (sending: Omit<Sending, 'pool'>): Promise<Open | undefined> => {
		const key = keyOf(sending);
		const found = sessions.get(key);
		if (found) return found;
		const made = open(sending);
		sessions.set(key, made);
		// one that goes away gives way to another; what runs over it goes on
		const drop = () => void (sessions.get(key) === made && sessions.delete(key));
		made.then((one) => one?.session.once('close', drop).once('goaway', drop).on('error', drop), drop);
		return made;
	};

	const exchange = (made: Open, sending: Omit<Sending, 'pool'>): Promise<Sent> => {
		const { request, url, caps, signal, deadline } = sending;
		const { timeouts } = request;
		const [host, port] = [url.hostname, Number(url.port || 443)];
		return new Promise((resolve, reject) => {
			const begun = performance.now();
			const reused = made.used;
			made.used = true;
			let [sent, first, size, settled] = [0, 0, 0, false];
			const headers: http2.OutgoingHttpHeaders = {
				':method': request.method,
				':path': url.pathname + url.search,
				':scheme': url.protocol.slice(0, -1),
				':authority': url.host
			};
			for (const [name, value] of request.headers) {
				const lower = name.toLowerCase();
				if (CONNECTION_FIELDS.has(lower)) continue;
				const before = headers[lower];
				headers[lower] =
					before === undefined
						? value
						: lower === 'cookie'
							? `${String(before)}; ${value}`
							: [before, value].flat().map(String);
			}
			let stream: http2.ClientHttp2Stream;
			try {
				stream = made.session.request(headers, { endStream: request.body.length === 0 });
			} catch (error) {
				// the session went away in the meantime: nothing was sent
				const detail = (error as Error).message;
				return reject(new HeronError('send.http2', { host, port, detail, untouched: 'yes' }, { cause: error }));
			}
			const timers = new Set<NodeJS.Timeout>();
			const settle = (act: () => void) => {
				if (settled) return;
				settled = true;
				for (const timer of timers) clearTimeout(timer);
				signal?.removeEventListener('abort', onAbort);
				act();
			};
			const fail = (error: HeronError) =>
				settle(() => {
					if (
						!first &&
						((stream.id ?? Infinity) > made.last || stream.rstCode === http2.constants.NGHTTP2_REFUSED_STREAM)
					)
						error.values.untouched = 'yes';
					stream.close(http2.constants.NGHTTP2_CANCEL);
					reject(error);
				});
			const onAbort = () =>
				fail(signal?.reason instanceof HeronError ? signal.reason : new HeronError('send.cancelled'));
			signal?.addEventListener('abort', onAbort, { once: true });
			const limit = (ms: number, phase: string, shown: number) => {
				const timer = setTimeout(
					() => fail(new HeronError('send.timeout', { phase, limit: showDuration(shown) })),
					timerMs(ms)
				);
				timers.add(timer);
				return timer;
			};
			limit(deadline - begun, 'the whole exchange', timeouts.whole);
			const waiting = limit(timeouts.reply, 'waiting for the answer', timeouts.reply);
			const chunks: Buffer[] = [];
			let cut: string | undefined;
			let head: { status: number; headers: HeaderList } | undefined;
			// all has come; what happens to the stream while the body is decoded is no matter
			let whole = false;
			const finish = async () => {
				whole = true;
				if (!head) return fail(new HeronError('send.reset', { host, port, phase: 'before an answer came' }));
				const marks = reused ? undefined : socketMarks(made.socket);
				const phases = phasesOf(marks, { begun, sent, first, end: performance.now() });
				const given = { ...head, reason: '', version: 'HTTP/2', reused };
				const reply = await replyOf(given, { chunks, size, cut, phases, method: request.method }, caps);
				settle(() => resolve({ reply, ...connectionFacts(socketMarks(made.socket), reused) }));
			};
			stream.once('response', (fields) => {
				first = performance.now();
				clearTimeout(waiting);
				const list: HeaderList = [];
				for (const [name, value] of Object.entries(fields)) {
					if (!name.startsWith(':')) for (const one of [value].flat()) list.push([name, String(one)]);
				}
				head = { status: Number(fields[':status'] ?? 0), headers: list };
			});
			stream.on('data', (chunk: Buffer) => {
				size += chunk.length;
				if (cut) return;
				if (size > caps.body) {
					chunks.push(chunk.subarray(0, chunk.length - (size - caps.body)));
					cut = `cut at ${showSize(caps.body)}`;
					stream.close(http2.constants.NGHTTP2_CANCEL);
					void finish().catch((error: Error) => settle(() => reject(error)));
				} else chunks.push(chunk);
			});
			stream.once('end', () => void finish().catch((error: Error) => settle(() => reject(error))));
			stream.once('error', (error: NodeJS.ErrnoException) => {
				if (whole) return;
				if (error.code?.startsWith('ERR_HTTP2'))
					fail(new HeronError('send.http2', { host, port, detail: error.message }, { cause: error }));
				else fail(transportError(error, { host, port, first, caps, request, size }));
			});
			stream.once('close', () => {
				if (!whole)
					fail(
						new HeronError('send.reset', {
							host,
							port,
							phase: first ? `in the middle of the body, after ${showSize(size)}` : 'before an answer came'
						})
					);
			});
			stream.once('finish', () => (sent = performance.now()));
			if (request.body.length > 0) stream.end(request.body);
			else sent = performance.now();
		});
	};

	return {
		async send(sending) {
			if (sending.signal?.aborted) throw new HeronError('send.cancelled');
			for (let anew = false; ; anew = true) {
				const made = await sessionFor(sending);
				if (!made) return undefined;
				const gone = made.session.closed || made.session.destroyed || made.last !== Infinity;
				if (gone && !anew) {
					sessions.delete(keyOf(sending));
					continue;
				}
				try {
					const sent = await exchange(made, sending);
					return anew ? { ...sent, notes: [AGAIN, ...(sent.notes ?? [])] } : sent;
				} catch (error) {
					// it was not looked at: sent again it happens once, whatever its method
					const untouched = error instanceof HeronError && error.values.untouched === 'yes';
					if (!untouched || anew || sending.signal?.aborted) throw error;
					sessions.delete(keyOf(sending));
				}
			}
		},
		close() {
			for (const session of sessions.values()) session.then((made) => made?.session.destroy()).catch(() => {});
			sessions.clear();
		}
	};
}
