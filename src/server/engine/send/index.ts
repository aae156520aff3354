import type { Authorizer } from '#core/auth/index.ts';
import { HeronError } from '#core/errors.ts';
import { headerValues, redirectOf, redirectTrouble, type HeaderList, type Reply } from '#core/model/reply.ts';
import type { Exchange, Guard, PreparedRequest, SendOutcome, Session } from '#core/run/index.ts';
import { wallClock } from '../clock.ts';
import { isStale, mayRepeat, type Caps, type Sent } from './exchange.ts';
import { sendOnce } from './http1-call.ts';
import { Http2 } from './http2.ts';
import { strangersTransport } from '#core/model/transport.ts';
import { createPool } from './pool.ts';
import type { CookieSession } from './session.ts';

export { openSession } from './session.ts';
export { freshMarks, openSocket, type SocketMarks } from './socket.ts';
export { proxyError } from './proxy.ts';
export { protocolOf, versionsOf, distrustWords } from './secure.ts';
export type { Caps } from './exchange.ts';

/** What proves who we are, whoever put it there. */
const PROOFS = new Set(['authorization', 'proxy-authorization', 'cookie']);
const RETRIES = 3;

export interface Sender {
	send(
		request: PreparedRequest,
		session: Session,
		signal: AbortSignal | undefined,
		authorizer?: Authorizer,
		/** Asked before each request of it leaves. */
		guard?: Guard
	): Promise<SendOutcome>;
	close(): void;
}

const known = (error: unknown): HeronError =>
	error instanceof HeronError ? error : new HeronError('send.failed', { detail: String(error) }, { cause: error });

/** Sends requests, follows redirects, answers refusals, keeps connections. */
export function createSender(caps: Caps): Sender {
	const pool = createPool();
	const http2 = new Http2();
	const reading = { bytes: 0 };

	/** Resolves when all that has come until now on kept connections was read; callers of a turn share one. */
	let polled: Promise<void> | undefined;
	const afterPoll = () =>
		(polled ??= new Promise<void>((resolve) =>
			setImmediate(() => {
				polled = undefined;
				setImmediate(resolve);
			})
		));

	const one = async (
		request: PreparedRequest,
		url: URL,
		signal: AbortSignal | undefined,
		deadline: number
	): Promise<Sent> => {
		const sending = { request, url, pool, caps, reading, signal, deadline };
		const { transport } = request;
		if (transport && transport.http !== '1.1' && (url.protocol === 'https:' || transport.http === '2')) {
			const sent = await http2.send(sending);
			if (sent) return sent;
		}
		// what came meanwhile on a kept connection is read first: it is not the answer to what is asked now
		await afterPoll();
		try {
			return await sendOnce(sending);
		} catch (error) {
			// the proxy has said by what it wants to be answered
			if (error instanceof HeronError && error.code === 'send.proxyAuth' && error.values.again === 'yes')
				return sendOnce(sending);
			// RFC 9112 section 9.3.1: a kept connection that the server had closed already; the request was not looked at
			if (!isStale(error) || !mayRepeat(request) || signal?.aborted) throw error;
			const sent = await sendOnce({ ...sending, fresh: true });
			const again = 'a kept connection was closed before an answer came: it was sent once more, on a fresh one';
			return { ...sent, notes: [again, ...(sent.notes ?? [])] };
		}
	};

	const send: Sender['send'] = async (first, session, signal, authorizer, guard) => {
		const exchanges: Exchange[] = [];
		const deadline = performance.now() + first.timeouts.whole;
		const home = new URL(first.url);
		/** Sends once and records; undefined when it could not be carried out. */
		const record = async (
			request: PreparedRequest,
			url: URL
		): Promise<{ exchange: Exchange; reply?: Reply; error?: HeronError }> => {
			const exchange: Exchange = {
				method: request.method,
				url: request.url,
				requestHeaders: request.headers,
				requestBody: request.body,
				// finer than milliseconds, so that calls that follow each other closely keep their order
				startedAt: Math.round(wallClock() * 1000) / 1000
			};
			const proxy = request.transport?.proxy;
			if (request.notes) exchange.notes = request.notes;
			if (proxy) exchange.proxy = `${proxy.host}:${proxy.port}`;
			exchanges.push(exchange);
			try {
				guard?.(request);
				const { reply, notes = [], ...facts } = await one(request, url, signal, deadline);
				Object.assign(exchange, { reply, ...facts });
				if (notes.length > 0) exchange.notes = [...(exchange.notes ?? []), ...notes];
				const cookies = request.forgetCookies ? [] : headerValues(reply.headers, 'set-cookie');
				if (cookies.length > 0) await (session as CookieSession).store(request.url, cookies);
				authorizer?.seen?.(request, reply);
				return { exchange, reply };
			} catch (thrown) {
				const error = known(thrown);
				if (isStale(error) && !mayRepeat(request))
					exchange.notes = [
						...(exchange.notes ?? []),
						`the connection had been kept from a call before, and the server may have closed it meanwhile: ${request.method} is not sent once more by itself`
					];
				exchange.error = {
					code: error.code,
					message: error.message,
					...(error.values.phase ? { phase: String(error.values.phase) } : {})
				};
				return { exchange, error };
			}
		};
		let bare = first;
		for (let hop = 0; ; hop++) {
			const address = hop === 0 ? home : new URL(bare.url);
			const here = address.origin === home.origin;
			/** A credential may write itself into the address. */
			const addressOf = ({ url }: PreparedRequest) => (url === bare.url ? address : new URL(url));
			const proving = authorizer && (here || first.redirects.keepCredentials) ? authorizer : undefined;
			let request: PreparedRequest;
			let outcome: Awaited<ReturnType<typeof record>>;
			try {
				request = proving ? await proving.apply(bare) : bare;
				outcome = await record(request, addressOf(request));
				for (let attempt = 1; outcome.reply && proving?.retry && attempt <= RETRIES && !signal?.aborted; attempt++) {
					const again = await proving.retry(request, outcome.reply, attempt);
					if (!again) break;
					outcome.exchange.leg = 'asked who we are';
					request = again;
					outcome = await record(request, addressOf(request));
				}
			} catch (thrown) {
				return { exchanges, error: known(thrown) };
			}
			const { reply, exchange, error } = outcome;
			if (!reply) return { exchanges, error: error! };
			const next = followUp(bare, reply, session);
			const note = (text: string) => (exchange.notes = [...(exchange.notes ?? []), text]);
			if (first.redirects.follow === 0) return { exchanges };
			if (!next) {
				const trouble = redirectTrouble(reply, bare.url);
				if (trouble) note(`the redirect was not followed: ${trouble}`);
				return { exchanges };
			}
			if (next.kept) {
				note(`redirected to another host: not followed, because the body holds a secret`);
				return { exchanges };
			}
			if (hop >= first.redirects.follow) {
				return {
					exchanges,
					error: new HeronError('send.redirects', { limit: first.redirects.follow, address: next.request.url })
				};
			}
			const dropped = [
				...next.dropped,
				...(authorizer && here && new URL(next.request.url).origin !== home.origin && !first.redirects.keepCredentials
					? ['the credential']
					: [])
			];
			if (dropped.length > 0) note(`redirected to another host: ${dropped.join(', ')} was not sent on`);
			bare = next.request;
		}
	};
	return {
		send,
		close() {
			pool.close();
			http2.close();
		}
	};
}

/**
 * The request that a redirect asks for (RFC 9110 section 15.4), or undefined.
 * `dropped` names what does not go to another host; `kept` says that the body must not, so that there is nothing to send.
 */
function followUp(
	request: PreparedRequest,
	reply: Reply,
	session: Session
): { request: PreparedRequest; dropped: string[]; kept: boolean } | undefined {
	const to = redirectOf(reply, request.url);
	if (!to) return undefined;
	const from = new URL(request.url);
	to.username = to.password = '';
	const { keepMethod, keepCredentials } = request.redirects;
	const toGet =
		!keepMethod &&
		((reply.status === 303 && request.method !== 'HEAD') ||
			((reply.status === 301 || reply.status === 302) && request.method === 'POST'));
	const drop = new Set(['cookie']);
	if (toGet)
		for (const name of ['content-type', 'content-length', 'transfer-encoding', 'content-encoding']) drop.add(name);
	const stranger = from.origin !== to.origin && !keepCredentials;
	if (stranger) for (const name of [...PROOFS, ...(request.secretFields ?? [])]) drop.add(name);
	const kept = request.headers
		.map(([name, value], index) => ({ name, value, origin: request.origins[index]! }))
		.filter(({ name }) => !drop.has(name.toLowerCase()));
	const dropped = stranger
		? request.headers
				.map(([name]) => name)
				.filter((name) => {
					const low = name.toLowerCase();
					return (PROOFS.has(low) || request.secretFields?.includes(low)) && low !== 'cookie';
				})
		: [];
	const shown = request.transport?.tls.client !== undefined && stranger;
	if (shown) dropped.push('the client certificate');
	const { notes: _, ...plain } = request;
	void _;
	const headers: HeaderList = kept.map(({ name, value }) => [name, name.toLowerCase() === 'host' ? to.host : value]);
	const cookies = request.forgetCookies ? '' : session.cookiesFor(to.href);
	if (cookies) headers.push(['Cookie', cookies]);
	const next: PreparedRequest = {
		...plain,
		...(shown ? { transport: strangersTransport(request.transport!) } : {}),
		url: to.href,
		method: toGet ? 'GET' : request.method,
		body: toGet ? new Uint8Array() : request.body,
		headers,
		origins: [...kept.map(({ origin }) => origin), ...(cookies ? (['cookies'] as const) : [])]
	};
	return { request: next, dropped, kept: stranger && !toGet && request.secretBody === true };
}
