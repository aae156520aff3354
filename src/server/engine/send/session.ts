import type { Session } from '#core/run/index.ts';
import type { Cookie, CookieJar } from 'tough-cookie';

export interface CookieSession extends Session {
	cookies(): Cookie[];
	/** The cookies as plain data, and back. */
	save(): unknown[];
	load(saved: unknown[]): Promise<void>;
	/** Keeps what `Set-Cookie` lines of a reply set. */
	store(url: string, lines: string[]): Promise<void>;
}

type Library = typeof import('tough-cookie');
/** Loaded with the first cookie: most runs see none. */
let library: Library | undefined;
const ready = async (): Promise<Library> => (library ??= await import('tough-cookie'));

/** Cookies as a browser would keep them (RFC 6265), for as long as a scenario lives. */
export function openSession(): CookieSession {
	let jar: CookieJar | undefined;
	const auth = new Map<string, unknown>();
	const opened = ({ CookieJar }: Library): CookieJar =>
		(jar ??= new CookieJar(undefined, { looseMode: true, rejectPublicSuffixes: false }));
	return {
		auth,
		cookies: () => (jar?.serializeSync()?.cookies ?? []).flatMap((one) => library!.Cookie.fromJSON(one) ?? []),
		adopt(other) {
			// where there is a cookie, the library is loaded
			for (const cookie of (other as CookieSession).cookies()) opened(library!).store.putCookie(cookie, () => {});
		},
		save: () => jar?.serializeSync()?.cookies ?? [],
		async load(saved) {
			if (saved.length === 0) return;
			const { Cookie } = await ready();
			for (const one of saved) {
				const cookie = Cookie.fromJSON(one);
				if (cookie) opened(library!).store.putCookie(cookie, () => {});
			}
		},
		cookiesFor: (url) => jar?.getCookieStringSync(url) ?? '',
		async store(url, lines) {
			const kept = opened(await ready());
			// a cookie that a browser would refuse is refused here too
			for (const line of lines) kept.setCookieSync(line, url, { ignoreError: true });
		}
	};
}
