import type { Session } from '#core/run/index.ts';
import { CookieJar } from 'tough-cookie';

export interface CookieSession extends Session {
	store(url: string, lines: string[]): void;
}

/** Cookies as a browser would keep them (RFC 6265), for as long as a scenario lives. */
export function openSession(): CookieSession {
	let jar: CookieJar | undefined;
	const auth = new Map<string, unknown>();
	return {
		auth,
		cookiesFor: (url) => jar?.getCookieStringSync(url) ?? '',
		store(url, lines) {
			for (const line of lines) {
				jar ??= new CookieJar(undefined, { looseMode: true, rejectPublicSuffixes: false });
				// a cookie that a browser would refuse is refused here too
				jar.setCookieSync(line, url, { ignoreError: true });
			}
		}
	};
}
