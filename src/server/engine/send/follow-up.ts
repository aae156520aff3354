import { redirectOf, type HeaderList, type Reply } from '#core/model/reply.ts';
import { strangersTransport } from '#core/model/transport.ts';
import type { PreparedRequest, Session } from '#core/run/index.ts';

/** What proves who we are, whoever put it there. */
const PROOFS = new Set(['authorization', 'proxy-authorization', 'cookie']);

/**
 * The request that a redirect asks for (RFC 9110 section 15.4), or undefined.
 * `dropped` names what does not go to another host; `kept` says that the body must not, so that there is nothing to send.
 */
export function followUp(
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
