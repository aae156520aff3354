import type { Difference, Path } from '../diff/index.ts';
import { writeJson, type Json } from '../model/json.ts';
import { getIn, setIn } from '../model/path.ts';

/** Differences that are alike: of one kind, at one place but for the numbers of items. */
export interface Alike {
	kind: Difference['kind'];
	/** `$.items[*].price`. */
	selector: string;
	differences: Difference[];
}

/**
 * An approved document with some differences taken over from the later one. What came into a list, left it or moved in
 * it takes the list over as it is now.
 */
export function acceptDifferences(approved: Json, later: Json, differences: Difference[]): Json {
	let next = approved;
	const lists = new Set<string>();
	for (const { kind, path, from = path, after } of differences) {
		const inList = typeof path.at(-1) === 'number';
		if (kind === 'changed') next = from.length === 0 ? after! : setIn(next, from, after!);
		else if (!inList && kind === 'added') next = setIn(next, from, after!);
		else if (!inList && kind === 'removed') next = setIn(next, path, undefined);
		else {
			const [here, there] =
				kind === 'removed' ? [path.slice(0, -1), path.slice(0, -1)] : [from.slice(0, -1), path.slice(0, -1)];
			const key = writeJson(here);
			const list = getIn(later, there);
			if (lists.has(key) || list === undefined) continue;
			lists.add(key);
			next = here.length === 0 ? list : setIn(next, here, list);
		}
	}
	return next;
}

/** Differences put together where they are alike. */
export function alike(differences: Difference[], general: (path: Path) => string): Alike[] {
	const groups = new Map<string, Alike>();
	for (const difference of differences) {
		const selector = general(difference.path);
		const key = `${difference.kind} ${selector}`;
		const group = groups.get(key) ?? { kind: difference.kind, selector, differences: [] };
		groups.set(key, group);
		group.differences.push(difference);
	}
	return [...groups.values()];
}
