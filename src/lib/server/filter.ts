import type { RunFilter } from '#server/store/index.ts';

/** A whole number of an address; what is none, or beyond the limit, is as if it were not there. */
export function wholeIn(url: URL, name: string, usual: number, most: number): number {
	const given = Number(url.searchParams.get(name) ?? usual);
	return Number.isInteger(given) && given >= 1 ? Math.min(given, most) : usual;
}

/** Which runs an address asks for; an empty value asks for runs that have none. */
export function filterOf(url: URL): RunFilter {
	const given = url.searchParams;
	const filter: RunFilter = {};
	for (const key of ['suite', 'environment', 'branch', 'title', 'words'] as const) {
		const value = given.get(key);
		if (value !== null) filter[key] = value.slice(0, 400);
	}
	const held = given.get('held');
	if (held === 'yes' || held === 'no') filter.held = held === 'yes';
	const before = Number(given.get('before') ?? NaN);
	if (Number.isFinite(before)) filter.before = before;
	return filter;
}
