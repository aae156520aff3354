import { HeronError } from '#core/errors.ts';
import type { Grant } from '#server/store/index.ts';
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
	/** Whoever works at this machine has to show a token as well. */
	asks?: boolean;
}
/** What a token of a project lets somebody do, by the address that is asked for below the project's own. */
const READABLE = new Set(['', 'history', 'past', 'past/step', 'runs', 'states', 'export', 'version']);

/** Whether a token of a project is enough for a request. */
export function permits({ project, may }: Grant, method: string, path: string): boolean {
	const base = `/api/projects/${encodeURIComponent(project)}`;
	if (path !== base && !path.startsWith(`${base}/`)) return false;
	const below = path.slice(base.length + 1);
	const publishes = below === 'published' || (method === 'GET' && below === 'past');
	const reads = (method === 'GET' || method === 'HEAD') && READABLE.has(below);
	switch (may) {
		case 'publish':
			return publishes;
		case 'read':
			return reads;
		case 'both':
			return publishes || reads;
		case 'start':
			return below.startsWith('start/');
	}
}

const WORDS: Record<Grant['may'], string> = {
	publish: 'publish runs to',
	read: 'read',
	both: 'read, and publish runs to,',
	start: 'start suites of'
};

/** The token in a request's own field. */
export const bearerOf = (authorization: string | null): string => /^Bearer (.+)$/i.exec(authorization ?? '')?.[1] ?? '';

export type Answer = { in: true } | { in: false; error: HeronError };

/** Whether a token is the one that is wanted. */
export const fits = (settings: DoorSettings, given: string): boolean =>
	settings.token !== '' && given !== '' && same(settings.token, given);

/**
 * Whether a request may come in. A page of another site must not reach this server, neither by a name that points here nor
 * by a form; and what comes over the network has to show the token, whatever name it says. Who shows a token of a project may
 * do what it grants, and nothing else, wherever it comes from.
 * @param shown what a token of a project that was shown grants: `path` is asked for; `none` for one that is not good
 */
export function judgeCaller(
	settings: DoorSettings,
	caller: Caller,
	shown?: { grant: Grant | undefined; path: string }
): Answer {
	const name = caller.host.replace(/:\d+$/, '').toLowerCase();
	const local = isLoopback(caller.at);
	const known = local ? LOOPBACK_NAMES.has(name) || settings.hosts.includes(name) : settings.hosts.includes(name);
	if (!known)
		return {
			in: false,
			error: new HeronError('door.name', { name })
		};
	const safe = caller.method === 'GET' || caller.method === 'HEAD';
	if (!safe && caller.origin !== null) {
		const from = URL.canParse(caller.origin) ? new URL(caller.origin).host : '';
		if (from !== caller.host) return { in: false, error: new HeronError('door.origin', { origin: caller.origin }) };
	}
	if (shown) {
		const { grant, path } = shown;
		if (!grant) return { in: false, error: new HeronError('door.ended') };
		if (permits(grant, caller.method, path)) return { in: true };
		return {
			in: false,
			error: new HeronError('door.grant', { may: WORDS[grant.may], project: grant.project })
		};
	}
	if (local && LOOPBACK_NAMES.has(name) && !settings.asks) return { in: true };
	if (settings.token === '')
		return {
			in: false,
			error: new HeronError('door.network')
		};
	if (fits(settings, bearerOf(caller.authorization)) || fits(settings, caller.cookie ?? '')) return { in: true };
	return {
		in: false,
		error: new HeronError('door.token')
	};
}

/** The page on which the token is given once. */
export const tokenPage = (trouble: string): string =>
	`<!doctype html><html lang="en"><meta charset="utf-8"><meta name="viewport" content="width=device-width"><title>Token · Loyal Heron</title><style>body{font:16px/1.4 system-ui,sans-serif;max-width:30em;margin:14vh auto;padding:0 1em;color:#22303f;background:#f9f7f2}h1{font-size:21px}input,button{font:inherit;padding:6px 10px;border:1px solid #8a94a0;border-radius:3px;background:#fff}button{background:#22303f;color:#f9f7f2}p[role=alert]{color:#9b2c1f;font-weight:600}</style><h1>This server asks for its token</h1><p>It is the one that it was started with, in HERON_TOKEN. It is kept in this browser until it is closed.</p>${trouble ? `<p role="alert">${trouble}</p>` : ''}<form method="post" action="${TOKEN_PATH}"><label>Token <input name="token" type="password" autofocus required autocomplete="current-password"></label> <button>Go in</button></form></html>`;
