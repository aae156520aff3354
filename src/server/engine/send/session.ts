import type { Session } from '#core/run/index.ts';
import { Cookie, CookieJar } from 'tough-cookie';

export interface CookieSession extends Session {
	cookies(): Cookie[];
	/** The cookies as plain data, and back. */
	save(): unknown[];
	load(saved: unknown[]): void;
	store(url: string, lines: string[]): void;
}

/** Cookies as a browser would keep them (RFC 6265), for as long as a scenario lives. */
export function openSession(): CookieSession {
	let jar: CookieJar | undefined;
	const auth = new Map<string, unknown>();
	const opened = (): CookieJar => (jar ??= new CookieJar(undefined, { looseMode: true, rejectPublicSuffixes: false }));
	return {
		auth,
		cookies: () => (jar?.serializeSync()?.cookies ?? []).flatMap((one) => Cookie.fromJSON(one) ?? []),
		adopt(other) {
			for (const cookie of (other as CookieSession).cookies()) opened().store.putCookie(cookie, () => {});
		},
		save: () => jar?.serializeSync()?.cookies ?? [],
		load(saved) {
			for (const one of saved) {
				const cookie = Cookie.fromJSON(one);
				if (cookie) opened().store.putCookie(cookie, () => {});
			}
		},
		cookiesFor: (url) => jar?.getCookieStringSync(url) ?? '',
		store(url, lines) {
			for (const line of lines) {
				// a cookie that a browser would refuse is refused here too
				opened().setCookieSync(line, url, { ignoreError: true });
			}
		}
	};
}
