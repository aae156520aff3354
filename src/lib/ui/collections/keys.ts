/** A set of keys that is never changed: another one takes its place. */
export type Keys = ReadonlySet<string>;

export const keys = (list: Iterable<string> = []): Keys => new Set(list);

/** With some keys more, or without them. */
export function withKeys(before: Keys, some: Iterable<string>, there: boolean): Keys {
	const next = new Set(before);
	for (const key of some) {
		if (there) next.add(key);
		else next.delete(key);
	}
	return next;
}

/** What a browser keeps under a name for as long as a page is open. */
export function readKept(name: string): Keys {
	try {
		return keys(JSON.parse(sessionStorage.getItem(name) ?? '[]') as string[]);
	} catch {
		// a browser may keep nothing
		return keys();
	}
}
export function keep(name: string, some: Keys): void {
	try {
		sessionStorage.setItem(name, JSON.stringify([...some]));
	} catch {
		// it holds as long as the page is there
	}
}
