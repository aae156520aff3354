import { writeJson } from '#core/model/json.ts';
import { HeronError, type Problem } from '#core/errors.ts';
import { messageCodes } from '#core/messages.ts';
import { one, type Flags } from './command.ts';

/**
 * The header fields of whoever shows a token to a server.
 * @throws HeronError usage.* where it would go over the network in plain
 */
export function bearerOf(token: string | undefined, server: string): Record<string, string> {
	if (!token) return {};
	const url = URL.canParse(server) ? new URL(server) : undefined;
	if (url?.protocol === 'http:' && !/^(localhost|127(\.\d+){3}|\[::1\])$/.test(url.hostname))
		throw new HeronError('remote.plain', { host: url.host });
	return { authorization: `Bearer ${token}` };
}

/** Calls a running server. @throws HeronError with what the server said */
export async function callServer<T>(flags: Flags, path: string, body?: unknown): Promise<T> {
	const server = (one(flags, 'server') ?? 'http://127.0.0.1:4680').replace(/\/+$/, '');
	const bearer = bearerOf(process.env.HERON_TOKEN, server);
	let reply: Response;
	try {
		const headers = { 'content-type': 'application/json', ...bearer };
		const init = body === undefined ? { headers } : { method: 'POST', headers, body: writeJson(body) };
		reply = await fetch(`${server}/api${path}`, init);
	} catch (cause) {
		throw new HeronError('remote.none', { server }, { cause });
	}
	const text = await reply.text();
	let data: unknown;
	try {
		data = text ? JSON.parse(text) : undefined;
	} catch {
		throw new HeronError('remote.other', { server });
	}
	if (reply.ok) return data as T;
	const {
		title = '',
		code,
		values,
		problems
	} = (data ?? {}) as { title?: string; code?: string; values?: Record<string, string>; problems?: Problem[] };
	// a server of another version may have codes that are not known here
	const known = messageCodes.find((one) => one === code);
	throw new HeronError(known ?? 'remote.failed', known ? values : { detail: title }, { problems: problems ?? [] });
}
