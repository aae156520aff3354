import { HeronError } from '#core/errors.ts';
import { headerValue, headerValues, type HeaderList, type Reply } from '#core/model/reply.ts';
import type { Exchange, PreparedRequest, SendOutcome, Session } from '#core/run/index.ts';
import { sendOnce, type Caps } from './exchange.ts';
import { createPool } from './pool.ts';
import type { CookieSession } from './session.ts';

export { openSession } from './session.ts';
export type { Caps } from './exchange.ts';

const IDEMPOTENT = new Set(['GET', 'HEAD', 'OPTIONS', 'TRACE', 'PUT', 'DELETE']);
const REDIRECTS = new Set([301, 302, 303, 307, 308]);

export interface Sender {
	send(request: PreparedRequest, session: Session, signal: AbortSignal | undefined): Promise<SendOutcome>;
	close(): void;
}

/** Sends requests over HTTP/1.1, follows redirects, keeps connections. */
export function createSender(caps: Caps): Sender {
	const pool = createPool();

	const one = async (
		request: PreparedRequest,
		url: URL,
		signal: AbortSignal | undefined,
		deadline: number
	): Promise<Reply> => {
		const sending = { request, url, pool, caps, signal, deadline };
		try {
			return await sendOnce(sending);
		} catch (error) {
			// RFC 9112 section 9.3.1: a kept connection that the server had closed already; the request was not looked at
			const stale =
				error instanceof HeronError && error.code === 'send.reset' && error.values.phase === 'before an answer came';
			if (stale && IDEMPOTENT.has(request.method) && !signal?.aborted) return sendOnce(sending);
			throw error;
		}
	};

	const send: Sender['send'] = async (first, session, signal) => {
		const exchanges: Exchange[] = [];
		const deadline = performance.now() + first.timeouts.whole;
		let request = first;
		for (let hop = 0; ; hop++) {
			const url = new URL(request.url);
			const exchange: Exchange = {
				method: request.method,
				url: request.url,
				requestHeaders: request.headers,
				requestBody: request.body,
				startedAt: Date.now()
			};
			exchanges.push(exchange);
			try {
				exchange.reply = await one(request, url, signal, deadline);
			} catch (error) {
				const known =
					error instanceof HeronError
						? error
						: new HeronError('send.failed', { detail: String(error) }, { cause: error });
				exchange.error = {
					code: known.code,
					message: known.message,
					...(known.values.phase ? { phase: String(known.values.phase) } : {})
				};
				return { exchanges, error: known };
			}
			(session as CookieSession).store(request.url, headerValues(exchange.reply.headers, 'set-cookie'));
			const next = followUp(request, exchange.reply, session);
			if (!next || request.redirects === 0) return { exchanges };
			if (hop >= request.redirects) {
				return { exchanges, error: new HeronError('send.redirects', { limit: request.redirects, address: next.url }) };
			}
			request = next;
		}
	};
	return { send, close: () => pool.close() };
}

/** The request that a redirect asks for (RFC 9110 section 15.4), or undefined. */
function followUp(request: PreparedRequest, reply: Reply, session: Session): PreparedRequest | undefined {
	const location = headerValue(reply.headers, 'location');
	if (!REDIRECTS.has(reply.status) || location === undefined || !URL.canParse(location, request.url)) return undefined;
	const from = new URL(request.url);
	const to = new URL(location, request.url);
	if (to.protocol !== 'http:' && to.protocol !== 'https:') return undefined;
	const toGet =
		(reply.status === 303 && request.method !== 'HEAD') ||
		((reply.status === 301 || reply.status === 302) && request.method === 'POST');
	const drop = new Set(['cookie']);
	if (toGet)
		for (const name of ['content-type', 'content-length', 'transfer-encoding', 'content-encoding']) drop.add(name);
	// what proves who we are goes to no other host
	if (from.origin !== to.origin) for (const name of ['authorization', 'proxy-authorization']) drop.add(name);
	const kept = request.headers
		.map(([name, value], index) => ({ name, value, origin: request.origins[index]! }))
		.filter(({ name }) => !drop.has(name.toLowerCase()));
	const headers: HeaderList = kept.map(({ name, value }) => [name, name.toLowerCase() === 'host' ? to.host : value]);
	const cookies = session.cookiesFor(to.href);
	if (cookies) headers.push(['Cookie', cookies]);
	return {
		...request,
		url: to.href,
		method: toGet ? 'GET' : request.method,
		body: toGet ? new Uint8Array() : request.body,
		headers,
		origins: [...kept.map(({ origin }) => origin), ...(cookies ? (['cookies'] as const) : [])]
	};
}
