import { createHash, timingSafeEqual } from 'node:crypto';

// Who may speak to this server. On loopback it is whoever works at this machine; from anywhere else a token is wanted.

const LOOPBACK_NAMES = new Set(['127.0.0.1', 'localhost', '[::1]']);
export const TOKEN_COOKIE = 'heron_token';
/** Where the page sends the token that somebody typed. */
export const TOKEN_PATH = '/enter';

export const isLoopback = (address: string): boolean =>
	address === '' || address === '::1' || /^(::ffff:)?127\./.test(address) || address === 'localhost';

const same = (a: string, b: string): boolean => {
	const digest = (text: string) => createHash('sha256').update(text).digest();
	return timingSafeEqual(digest(a), digest(b));
};

export interface Caller {
	/** The address of ours that the connection came in on; empty when it is not known. */
	at: string;
	host: string;
	origin: string | null;
	method: string;
	authorization: string | null;
	cookie: string | undefined;
}
export interface DoorSettings {
	/** Names by which the server may be spoken to, beyond loopback. */
	hosts: readonly string[];
	/** Empty for none: then nobody comes in from outside. */
	token: string;
}
export type Answer = { in: true } | { in: false; status: 401 | 403; reason: string };

/** Whether a token is the one that is wanted. */
export const fits = (settings: DoorSettings, given: string): boolean =>
	settings.token !== '' && given !== '' && same(settings.token, given);

/**
 * Whether a request may come in. A page of another site must not reach this server, neither by a name that points here nor
 * by a form; and what comes over the network has to show the token, whatever name it says.
 */
export function judgeCaller(settings: DoorSettings, caller: Caller): Answer {
	const name = caller.host.replace(/:\d+$/, '').toLowerCase();
	const local = isLoopback(caller.at);
	const known = local ? LOOPBACK_NAMES.has(name) || settings.hosts.includes(name) : settings.hosts.includes(name);
	if (!known)
		return {
			in: false,
			status: 403,
			reason: `this server does not answer to the name ${name}: add it to HERON_HOSTS`
		};
	const safe = caller.method === 'GET' || caller.method === 'HEAD';
	if (!safe && caller.origin !== null) {
		const from = URL.canParse(caller.origin) ? new URL(caller.origin).host : '';
		if (from !== caller.host) return { in: false, status: 403, reason: `a page of ${caller.origin} may not do this` };
	}
	if (local && LOOPBACK_NAMES.has(name)) return { in: true };
	if (settings.token === '')
		return {
			in: false,
			status: 403,
			reason: 'this server takes nothing from other machines: it was started without HERON_TOKEN'
		};
	const bearer = /^Bearer (.+)$/i.exec(caller.authorization ?? '')?.[1] ?? '';
	if (fits(settings, bearer) || fits(settings, caller.cookie ?? '')) return { in: true };
	return {
		in: false,
		status: 401,
		reason: 'a token is wanted: the one that the server was started with (HERON_TOKEN)'
	};
}

/** The page on which the token is given once. */
export const tokenPage = (trouble: string): string =>
	`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Token · Loyal Heron</title><style>body{font:16px/1.4 system-ui,sans-serif;max-width:30em;margin:14vh auto;padding:0 1em;color:#22303f;background:#f9f7f2}h1{font-size:21px}input,button{font:inherit;padding:6px 10px;border:1px solid #8a94a0;border-radius:3px;background:#fff}button{background:#22303f;color:#f9f7f2}p[role=alert]{color:#9b2c1f;font-weight:600}</style><h1>This server asks for its token</h1><p>It is the one that it was started with, in HERON_TOKEN. It is kept in this browser until it is closed.</p>${trouble ? `<p role="alert">${trouble}</p>` : ''}<form method="post" action="${TOKEN_PATH}"><label>Token <input name="token" type="password" autofocus required autocomplete="current-password"></label> <button>Go in</button></form></html>`;
