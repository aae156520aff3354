import * as oauth from 'oauth4webapi';
import { HeronError, textOf } from '../../errors.ts';
import { withBody, withHeader, type Exchange, type PreparedRequest } from '../../model/exchange.ts';
import { writeJson, type JsonObject } from '../../model/json.ts';
import { mediaType, type Reply } from '../../model/reply.ts';
import { decodeText, utf8 } from '../../values/index.ts';
import type { AuthTools } from '../kind.ts';
import { readReply, replyInWords, tolerated } from './reply.ts';

/** The members of a token reply that must not be seen. */
const SECRET_MEMBERS = ['access_token', 'refresh_token', 'id_token', 'device_code'];
const SECRET_PARAMS = [
	'client_secret',
	'client_assertion',
	'assertion',
	'code',
	'code_verifier',
	'refresh_token',
	'password',
	'token',
	'device_code'
];

interface Asked {
	method: string;
	headers?: Record<string, string>;
	body?: unknown;
}

/** What the library that speaks OAuth asks and is answered: each goes through the engine and is recorded as it came. */
export class Legs {
	/** The reply that was read last; without data when it is neither JSON nor a form. */
	last: { exchange: Exchange; data: JsonObject | undefined } | undefined;
	readonly #tools: AuthTools;

	constructor(tools: AuthTools) {
		this.#tools = tools;
	}

	/** Options of the library. @param lenient a reply that is right but for small things is taken */
	options(title: string, lenient = true): object {
		return {
			[oauth.allowInsecureRequests]: true,
			[oauth.customFetch]: (url: string, init: Asked) => this.#ask(title, lenient, url, init)
		};
	}

	/** Asks, and reads the answer; the library's own errors are told in our words. @throws HeronError auth.* */
	async speak<T>(
		leg: string,
		ask: (options: object) => Promise<Response>,
		read: (response: Response) => Promise<T>,
		lenient = true
	): Promise<T> {
		try {
			return await read(await ask(this.options(leg, lenient)));
		} catch (error) {
			throw this.worded(leg, error);
		}
	}
	worded(leg: string, error: unknown): HeronError {
		if (error instanceof HeronError) return error;
		const cause = (error as { cause?: unknown }).cause;
		if (cause instanceof HeronError) return cause;
		const status = this.last?.exchange.reply?.status;
		const detail = `${textOf(error)}${status && status >= 400 ? ` (status ${status})` : ''}`;
		return this.failed(leg, detail, error);
	}
	failed(leg: string, detail: string, cause?: unknown): HeronError {
		const options = cause === undefined ? {} : { cause };
		return new HeronError('auth.leg', { name: this.#tools.name, leg, detail }, options);
	}

	#hide(members: Iterable<[string, unknown]>, wanted: readonly string[]): void {
		for (const [member, value] of members)
			if (wanted.includes(member) && typeof value === 'string' && value)
				this.#tools.learn(`${this.#tools.name}.${member}`, value);
	}

	async #ask(title: string, lenient: boolean, url: string, init: Asked): Promise<Response> {
		const exchange = await this.#tools.leg(title, this.#request(url, init));
		const { reply } = exchange;
		if (!reply) throw this.failed(title, exchange.error?.message ?? 'there is no reply');
		const { data, form } = readReply(reply);
		if (data) this.#hide(Object.entries(data), SECRET_MEMBERS);
		this.last = { exchange, data };
		if (lenient) return this.#lenient(title, exchange, reply, data, form === true);
		return new Response(decodeText(reply.body).text, {
			status: reply.status,
			headers: { 'content-type': mediaType(reply.headers).type || 'text/plain' }
		});
	}

	#request(url: string, init: Asked): PreparedRequest {
		const body = init.body === undefined || init.body === null ? '' : String(init.body);
		this.#hide(new URLSearchParams(body), SECRET_PARAMS);
		let request = this.#tools.blank(init.method, url);
		for (const [field, value] of Object.entries(init.headers ?? {})) {
			const isProof = field.toLowerCase() === 'authorization';
			if (isProof) this.#tools.learn(`${this.#tools.name}.client`, value.replace(/^\w+ /, ''));
			const written = field.replace(/(^|-)([a-z])/g, (c) => c.toUpperCase());
			request = withHeader(request, written, value, isProof ? 'credential' : 'added');
		}
		return body ? withBody(withHeader(request, 'Content-Length', '0', 'added'), utf8(body)) : request;
	}

	#lenient(title: string, exchange: Exchange, reply: Reply, data: JsonObject | undefined, form: boolean): Response {
		if (!data) throw this.failed(title, replyInWords(reply));
		const fit = tolerated(data, form, reply.status);
		if (fit.notes.length > 0) exchange.notes = [...(exchange.notes ?? []), ...fit.notes];
		if (typeof data.error === 'string') throw this.#refused(title, data, reply.status);
		const ok = reply.status >= 200 && reply.status < 300;
		if (ok && title === 'token request' && typeof data.access_token !== 'string') {
			const held = Object.keys(data).join(', ') || 'nothing';
			throw this.failed(title, `the reply holds no access_token; it holds ${held}`);
		}
		const status = ok ? 200 : reply.status;
		return new Response(writeJson(fit.reply), { status, headers: { 'content-type': 'application/json' } });
	}

	#refused(leg: string, data: JsonObject, status: number): HeronError {
		const said = [data.error_description, data.error_uri].filter((one) => typeof one === 'string' && one).join(', ');
		return new HeronError('auth.refused', {
			name: this.#tools.name,
			leg,
			error: String(data.error),
			status,
			detail: said ? `: ${said}` : ''
		});
	}
}
