import { didYouMean } from '../../messages.ts';
import { isObject, same, type Json } from '../../model/json.ts';
import type { RelationKind, RelationTools, Verdict } from '../relation.ts';
import { equals } from './equals.ts';
import { not } from './not.ts';
import { oneOf } from './one-of.ts';
import { contains } from './contains.ts';
import { matches } from './matches.ts';
import { type } from './type.ts';
import { present } from './present.ts';
import { empty } from './empty.ts';
import { count } from './count.ts';
import { near } from './near.ts';
import { sameItems } from './same-items.ts';
import { below, above, atMost, atLeast } from './numeric.ts';
import { before, after } from './time.ts';
import { unique } from './unique.ts';
import { sorted } from './sorted.ts';
import { every, any, none } from './items.ts';

export { towards } from './values.ts';

/** In the order in which they are offered. */
export const relationKinds: readonly RelationKind[] = [
	equals,
	not,
	oneOf,
	contains,
	matches,
	type,
	present,
	empty,
	count,
	near,
	sameItems,
	below,
	above,
	atMost,
	atLeast,
	before,
	after,
	unique,
	sorted,
	every,
	any,
	none
];

const byName = new Map(relationKinds.map((kind) => [kind.name, kind]));
/** The names of all relations, in the order in which they are offered. */
export const relationNames: readonly string[] = relationKinds.map((kind) => kind.name);
/** A relation by its name; undefined for one that nobody knows. */
export const relationOf = (name: string): RelationKind | undefined => byName.get(name);

/** What is wrong with a map of relations, or undefined. */
export function relationsProblem(relations: Record<string, unknown>): string | undefined {
	const names = Object.keys(relations);
	if (names.length === 0) return 'a relation is missing, such as { above: 4 }';
	for (const name of names) {
		const kind = byName.get(name);
		// inside a list, other names are fields of the item; one that is like a relation's is a slip
		if (!kind) {
			const meant = isObject(relations[name]) ? '' : didYouMean(name, [...byName.keys()]);
			if (meant.startsWith(': did'))
				return `${name} is no relation${meant} A field takes relations of its own: { ${name}: { equals: … } }`;
			continue;
		}
		const problem = kind.problem?.(relations[name], relationsProblem);
		if (problem) return `${name}: ${problem}`;
	}
	return undefined;
}

/**
 * Judges all relations of a map on one value. A name that is no relation is a field of the item:
 * `{ state: { equals: free } }` looks at the item's `state`.
 */
function judgeAll(relations: Json, value: unknown, tools: RelationTools): Verdict {
	if (!isObject(relations)) return { holds: same(value, relations) };
	for (const [name, expected] of Object.entries(relations)) {
		const kind = byName.get(name);
		if (kind) {
			if (value === undefined && !kind.nothing) return { holds: false };
			if (!kind.judge(value, expected as Json, tools).holds) return { holds: false };
		} else {
			const field = isObject(value) && Object.hasOwn(value, name) ? value[name] : undefined;
			if (!judgeAll(expected as Json, field, tools).holds) return { holds: false };
		}
	}
	return { holds: true };
}

/** The tools that relations get, over a clock. */
export function relationTools(now: () => number): RelationTools {
	const tools: RelationTools = {
		now,
		isRelation: (name) => byName.has(name),
		inner: (relation, value) => judgeAll(relation, value, tools)
	};
	return tools;
}
