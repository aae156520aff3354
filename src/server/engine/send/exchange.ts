import { HeronError } from '#core/errors.ts';
import { headerValue, type HeaderList, type Phases, type Reply } from '#core/model/reply.ts';
import { showDuration, showSize } from '#core/model/units.ts';
import type { PreparedRequest } from '#core/run/index.ts';
import http from 'node:http';
import type { Socket } from 'node:net';
import { decodeBody } from './decode.ts';
import type { Pool } from './pool.ts';
import { socketMarks } from './socket.ts';

export interface Caps {
	/** Bytes of a body that are read and kept. */
	body: number;
	header: number;
}

/** One request on one connection, up to the end of its reply. */
interface Sending {
	request: PreparedRequest;
	url: URL;
	pool: Pool;
	caps: Caps;
	signal: AbortSignal | undefined;
	/** A time of `performance.now()` at which the whole exchange ends. */
	deadline: number;
}

const pairs = (raw: string[]): HeaderList => {
	const list: HeaderList = [];
	for (let i = 0; i < raw.length; i += 2) list.push([raw[i]!, raw[i + 1]!]);
	return list;
};

const hasBody = (message: http.IncomingMessage, method: string): boolean =>
	method !== 'HEAD' && message.statusCode !== 204 && message.statusCode !== 304;

/**
 * Sends one request and reads its reply.
 * @throws HeronError send.*; a reply that came in part is in its cause's `partial`
 */
export function sendOnce(sending: Sending): Promise<Reply> {
	const { request, url, pool, caps, signal } = sending;
	const { timeouts } = request;
	return new Promise<Reply>((resolve, reject) => {
		if (signal?.aborted) return reject(new HeronError('send.cancelled'));
		const begun = performance.now();
		const host = url.hostname.replace(/^\[|\]$/g, '');
		const port = Number(url.port || (url.protocol === 'https:' ? 443 : 80));
		let socket: Socket | undefined;
		let sent = 0;
		let first = 0;
		let settled = false;
		const flat: string[] = [];
		for (const [name, value] of request.headers) flat.push(name, value);
		const agent = pool.agent(url.protocol === 'https:', timeouts.connect);
		const req = http.request({
			agent,
			host,
			port,
			protocol: url.protocol,
			method: request.method,
			path: url.pathname + url.search,
			headers: flat as unknown as http.OutgoingHttpHeaders,
			setHost: false,
			maxHeaderSize: caps.header
		});
		const timers: NodeJS.Timeout[] = [];
		const settle = (act: () => void) => {
			if (settled) return;
			settled = true;
			for (const timer of timers) clearTimeout(timer);
			signal?.removeEventListener('abort', onAbort);
			act();
		};
		const fail = (error: HeronError) =>
			settle(() => {
				req.destroy();
				reject(error);
			});
		const onAbort = () => fail(signal?.reason instanceof HeronError ? signal.reason : new HeronError('send.cancelled'));
		signal?.addEventListener('abort', onAbort, { once: true });
		const limit = (ms: number, phase: string, shown: number) =>
			timers.push(
				setTimeout(() => fail(new HeronError('send.timeout', { phase, limit: showDuration(shown) })), Math.max(0, ms))
			);
		limit(sending.deadline - begun, 'the whole exchange', timeouts.whole);

		const phases = (end: number): Phases => {
			const marks = socket && !req.reusedSocket ? socketMarks(socket) : undefined;
			const opened = marks ? Math.max(marks.tls, marks.connect) : begun;
			const start = marks ? marks.start : begun;
			return {
				name: marks?.name ? marks.name - marks.start : 0,
				connect: marks ? marks.connect - (marks.name || marks.start) : 0,
				tls: marks?.tls ? marks.tls - marks.connect : 0,
				send: Math.max(0, (sent || end) - Math.max(opened, start)),
				wait: first && sent ? Math.max(0, first - sent) : 0,
				body: first ? end - first : 0,
				total: end - Math.min(start, begun)
			};
		};

		req.once('socket', (s) => (socket = s));
		req.once('finish', () => {
			sent = performance.now();
			if (!first) limit(timeouts.reply, 'waiting for the answer', timeouts.reply);
		});
		req.once('error', (error) => fail(transportError(error, { host, port, first, caps })));
		req.once('response', (message) => {
			first = performance.now();
			for (const timer of timers.splice(1)) clearTimeout(timer);
			const chunks: Buffer[] = [];
			let size = 0;
			let cut: string | undefined;
			const finish = async () => {
				const end = performance.now();
				const headers = pairs(message.rawHeaders);
				const raw = Buffer.concat(chunks);
				const codings = hasBody(message, request.method) ? (headerValue(headers, 'content-encoding') ?? '') : '';
				const decoded = codings ? await decodeBody(raw, codings, caps.body) : { body: raw, cut: false };
				if (decoded.cut) cut = `cut at ${showSize(caps.body)} after decoding`;
				const reply: Reply = {
					status: message.statusCode ?? 0,
					reason: message.statusMessage ?? '',
					version: `HTTP/${message.httpVersion}`,
					headers,
					body: decoded.body,
					wireSize: size,
					phases: phases(end),
					reused: req.reusedSocket,
					...(cut ? { cut } : {}),
					...('note' in decoded && decoded.note ? { note: decoded.note } : {})
				};
				settle(() => resolve(reply));
			};
			message.on('data', (chunk: Buffer) => {
				size += chunk.length;
				if (cut) return;
				if (size > caps.body) {
					chunks.push(chunk.subarray(0, chunk.length - (size - caps.body)));
					cut = `cut at ${showSize(caps.body)}`;
					message.destroy();
					void finish();
					return;
				}
				chunks.push(chunk);
			});
			message.once('end', () => void finish());
			message.once('error', (error) => {
				if (!cut) fail(transportError(error, { host, port, first, caps, size }));
			});
			message.once('close', () => {
				if (!cut && !message.complete)
					fail(
						new HeronError('send.reset', { host, port, phase: `in the middle of the body, after ${showSize(size)}` })
					);
			});
		});
		if (request.body.length > 0) req.end(request.body);
		else req.end();
	});
}

function transportError(
	error: NodeJS.ErrnoException & { rawPacket?: Buffer },
	at: { host: string; port: number; first: number; caps: Caps; size?: number }
): HeronError {
	if (error instanceof HeronError) return error;
	const { host, port } = at;
	if (error.code === 'HPE_HEADER_OVERFLOW')
		return new HeronError('send.headersTooLarge', { limit: showSize(at.caps.header) }, { cause: error });
	if (error.code?.startsWith('HPE_')) {
		// eslint-disable-next-line no-control-regex
		const start = (error.rawPacket?.subarray(0, 60).toString('latin1') ?? '').replace(/[\x00-\x1f\x7f-\x9f]/g, '·');
		const what = at.first ? `the body’s framing is broken (${error.message})` : start || error.message;
		return new HeronError(at.first ? 'send.failed' : 'send.notHttp', at.first ? { detail: what } : { start: what }, {
			cause: error
		});
	}
	if (error.code === 'ECONNRESET' || error.code === 'EPIPE') {
		const phase = at.first ? `in the middle of the body, after ${showSize(at.size ?? 0)}` : 'before an answer came';
		return new HeronError('send.reset', { host, port, phase }, { cause: error });
	}
	return new HeronError('send.failed', { detail: error.message }, { cause: error });
}
