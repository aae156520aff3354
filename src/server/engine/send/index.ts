import type { Authorizer } from '#core/auth/index.ts';
import { HeronError } from '#core/errors.ts';
import { headerValues, redirectTrouble, type Reply } from '#core/model/reply.ts';
import type { Exchange, Guard, PreparedRequest, SendOutcome, Session } from '#core/run/index.ts';
import { wallClock } from '../clock.ts';
import { isStale, mayRepeat } from './exchange.ts';
import type { Caps } from './gathering.ts';
import { followUp } from './follow-up.ts';
import type { CookieSession } from './session.ts';
import { Wire } from './wire.ts';

export { openSession } from './session.ts';
export { freshMarks, openSocket, type SocketMarks } from './socket.ts';
export { proxyError } from './proxy.ts';
export { protocolOf, versionsOf, distrustWords } from './secure.ts';
export type { Caps } from './gathering.ts';

/** A credential is asked so often for another try of one request. */
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
	const wire = new Wire(caps);
	return {
		send: (request, session, signal, authorizer, guard) =>
			new Call(wire, request, session, { signal, authorizer, guard }).run(),
		close: () => wire.close()
	};
}

interface Given {
	signal: AbortSignal | undefined;
	authorizer: Authorizer | undefined;
	guard: Guard | undefined;
}
/** What came of one request; no reply when it could not be carried out. */
type Came = { exchange: Exchange; reply: Reply } | { exchange: Exchange; reply?: never; error: HeronError };

/** One call: its first request, what proves who we are, and all that redirects lead to. */
class Call {
	readonly #wire: Wire;
	readonly #first: PreparedRequest;
	readonly #session: Session;
	readonly #given: Given;
	readonly #home: URL;
	readonly #deadline: number;
	readonly #exchanges: Exchange[] = [];

	constructor(wire: Wire, first: PreparedRequest, session: Session, given: Given) {
		this.#wire = wire;
		this.#first = first;
		this.#session = session;
		this.#given = given;
		this.#home = new URL(first.url);
		this.#deadline = performance.now() + first.timeouts.whole;
	}

	async run(): Promise<SendOutcome> {
		const exchanges = this.#exchanges;
		let bare = this.#first;
		for (let hop = 0; ; hop++) {
			let came: Came;
			try {
				came = await this.#hop(bare, hop === 0 ? this.#home : new URL(bare.url));
			} catch (thrown) {
				return { exchanges, error: known(thrown) };
			}
			if (!came.reply) return { exchanges, error: came.error };
			const next = this.#next(bare, came);
			if (!next) return { exchanges };
			if (hop >= this.#first.redirects.follow) {
				const limit = this.#first.redirects.follow;
				return { exchanges, error: new HeronError('send.redirects', { limit, address: next.request.url }) };
			}
			if (next.dropped.length > 0)
				note(came.exchange, `redirected to another host: ${next.dropped.join(', ')} was not sent on`);
			bare = next.request;
		}
	}

	/** Sends a request with what proves who we are, once more where a refusal can be answered. */
	async #hop(bare: PreparedRequest, address: URL): Promise<Came> {
		const { authorizer, signal } = this.#given;
		const here = address.origin === this.#home.origin;
		const proving = authorizer && (here || this.#first.redirects.keepCredentials) ? authorizer : undefined;
		/** A credential may write itself into the address. */
		const addressOf = ({ url }: PreparedRequest) => (url === bare.url ? address : new URL(url));
		let request = proving ? await proving.apply(bare) : bare;
		let came = await this.#record(request, addressOf(request));
		for (let attempt = 1; came.reply && proving?.retry && attempt <= RETRIES && !signal?.aborted; attempt++) {
			const again = await proving.retry(request, came.reply, attempt);
			if (!again) break;
			came.exchange.leg = 'asked who we are';
			request = again;
			came = await this.#record(request, addressOf(request));
		}
		return came;
	}

	/** Sends once and records. */
	async #record(request: PreparedRequest, url: URL): Promise<Came> {
		const { signal, authorizer, guard } = this.#given;
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
		this.#exchanges.push(exchange);
		try {
			guard?.(request);
			const { reply, notes = [], ...facts } = await this.#wire.send(request, url, signal, this.#deadline);
			Object.assign(exchange, { reply, ...facts });
			for (const text of notes) note(exchange, text);
			const cookies = request.forgetCookies ? [] : headerValues(reply.headers, 'set-cookie');
			if (cookies.length > 0) await (this.#session as CookieSession).store(request.url, cookies);
			authorizer?.seen?.(request, reply);
			return { exchange, reply };
		} catch (thrown) {
			const error = known(thrown);
			if (isStale(error) && !mayRepeat(request))
				note(
					exchange,
					`the connection had been kept from a call before, and the server may have closed it meanwhile: ${request.method} is not sent once more by itself`
				);
			const { code, message } = error;
			exchange.error = { code, message, ...(error.values.phase ? { phase: String(error.values.phase) } : {}) };
			return { exchange, error };
		}
	}

	/** The request to which a reply redirects, where it is to be followed, and what it does without. */
	#next(
		bare: PreparedRequest,
		{ exchange, reply }: { exchange: Exchange; reply: Reply }
	): { request: PreparedRequest; dropped: string[] } | undefined {
		const { follow, keepCredentials } = this.#first.redirects;
		if (follow === 0) return undefined;
		const next = followUp(bare, reply, this.#session);
		if (!next) {
			const trouble = redirectTrouble(reply, bare.url);
			if (trouble) note(exchange, `the redirect was not followed: ${trouble}`);
			return undefined;
		}
		if (next.kept) {
			note(exchange, 'redirected to another host: not followed, because the body holds a secret');
			return undefined;
		}
		const leaves =
			new URL(bare.url).origin === this.#home.origin && new URL(next.request.url).origin !== this.#home.origin;
		const unproved = this.#given.authorizer && leaves && !keepCredentials ? ['the credential'] : [];
		return { request: next.request, dropped: [...next.dropped, ...unproved] };
	}
}

function note(exchange: Exchange, text: string): void {
	exchange.notes = [...(exchange.notes ?? []), text];
}
