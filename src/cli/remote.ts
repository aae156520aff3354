import { writeJson } from '#core/model/json.ts';
import { HeronError, type Problem } from '#core/errors.ts';
import type { MessageCode } from '#core/messages.ts';
import { one, type Flags } from './command.ts';

/** Calls a running server. @throws HeronError with what the server said */
export async function callServer<T>(flags: Flags, path: string, body?: unknown): Promise<T> {
	const server = (one(flags, 'server') ?? 'http://127.0.0.1:4680').replace(/\/+$/, '');
	let reply: Response;
	try {
		const token = process.env.HERON_TOKEN;
		const headers = { 'content-type': 'application/json', ...(token ? { authorization: `Bearer ${token}` } : {}) };
		const init = body === undefined ? { headers } : { method: 'POST', headers, body: writeJson(body) };
		reply = await fetch(`${server}/api${path}`, init);
	} catch (cause) {
		throw new HeronError(
			'usage',
			{ detail: `no server answers at ${server}: start one with "heron serve", or name it with --server` },
			{ cause }
		);
	}
	const text = await reply.text();
	let data: unknown;
	try {
		data = text ? JSON.parse(text) : undefined;
	} catch {
		throw new HeronError('usage', { detail: `what answers at ${server} is not a Loyal Heron server` });
	}
	if (reply.ok) return data as T;
	const {
		title = '',
		code,
		values,
		problems
	} = (data ?? {}) as { title?: string; code?: MessageCode; values?: Record<string, string>; problems?: Problem[] };
	throw new HeronError(code ?? 'usage', values ?? { detail: title }, { problems: problems ?? [] });
}
