import { didYouMean } from '../../messages.ts';
import { isObject, same, type Json } from '../../model/json.ts';
import { compileJsonPath, isPlural, jsonPathOf, jsonpath } from '../../selectors/index.ts';
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
import { towards } from './values.ts';

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
/** Whether a name is a path from the item on (RFC 9535); other names are fields. */
const isPlace = (name: string): boolean => /^\$($|[.[])/.test(name);
/** The names of all relations, in the order in which they are offered. */
export const relationNames: readonly string[] = relationKinds.map((kind) => kind.name);
/** A relation by its name; undefined for one that nobody knows. */
export const relationOf = (name: string): RelationKind | undefined => byName.get(name);

/** What is wrong with a map of relations, or undefined. */
export function relationsProblem(relations: Record<string, unknown>): string | undefined {
	const names = Object.keys(relations);
	if (names.length === 0) return 'a relation is missing, such as { above: 4 }';
	for (const name of names) {
		const inner = relations[name];
		const kind = byName.get(name);
		const problem = kind ? kind.problem?.(inner, relationsProblem) : fieldProblem(name, inner);
		if (!problem) continue;
		if (!kind) return problem;
		return `${name}: ${problem}${isObject(inner) ? `; a field of this name is ${jsonPathOf([name])}` : ''}`;
	}
	return undefined;
}

/** What is wrong with a field of an item and the relations for it, or undefined. */
function fieldProblem(name: string, inner: unknown): string | undefined {
	if (isPlace(name)) {
		const wrong = jsonpath.problem(name);
		if (wrong) return wrong;
		if (isPlural(name)) return `${name} can match many: take the list, and every, any or none of it`;
	} else if (!isObject(inner)) {
		// a name that is like a relation's is a slip
		const meant = didYouMean(name, relationNames);
		if (meant.startsWith(': did'))
			return `${name} is no relation${meant} A field takes relations of its own: { ${name}: { equals: … } }`;
	}
	return isObject(inner) ? relationsProblem(inner) : undefined;
}

/**
 * Judges all relations of a map on one value. A name that is no relation is a field of the item:
 * `{ state: { equals: free } }` looks at the item's `state`, and so does `{ $.state: { equals: free } }`.
 * @param sure the names can only be relations
 * @throws Error for a relation whose name is that of a field, too
 */
function judgeAll(relations: Json, value: unknown, tools: RelationTools, sure = false): Verdict {
	if (!isObject(relations)) return { holds: same(tools.text ? towards(value, relations) : value, relations) };
	for (const [name, expected] of Object.entries(relations)) {
		const kind = byName.get(name);
		if (kind) {
			if (!sure) refuseField(name, expected as Json, value);
			if (value === undefined && !kind.nothing) return { holds: false };
			const meant = tools.text ? asMeant(kind, value, expected as Json) : value;
			if (!kind.judge(meant, expected as Json, tools).holds) return { holds: false };
		} else if (!judgeAll(expected as Json, fieldOf(value, name), tools, isPlace(name)).holds) return { holds: false };
	}
	return { holds: true };
}

/** A value that is text because its format knows nothing else, as what is expected. */
export const asMeant = (kind: RelationKind, value: unknown, expected: Json): unknown =>
	kind.towards ? kind.towards(value, expected) : towards(value, expected);

/** What stands after an item's name, or where a path leads from the item. */
function fieldOf(item: unknown, name: string): unknown {
	if (isPlace(name)) {
		const found = item === undefined ? undefined : compileJsonPath(name).select(item as Json);
		return found?.found ? found.value : undefined;
	}
	return isObject(item) && Object.hasOwn(item, name) ? item[name] : undefined;
}

/** What looks at a field by the name of a relation would look at the item as a whole, and often hold. */
function refuseField(name: string, expected: Json, item: unknown): void {
	if (!isObject(item) || !Object.hasOwn(item, name)) return;
	// what has fields is an object: nothing else can be meant
	if (name === type.name && expected === 'object') return;
	throw new Error(
		`the items have a field "${name}", and ${name} is a relation: write ${jsonPathOf([name])} for the field, ` +
			`or { $: { ${name}: … } } for the item`
	);
}

/** The tools that relations get, over a clock. @param text the format of the value knows only text */
export function relationTools(now: () => number, text = false): RelationTools {
	const tools: RelationTools = {
		now,
		text,
		fieldOf: (item, name) => (byName.has(name) ? item : fieldOf(item, name)),
		inner: (relation, value) => judgeAll(relation, value, tools)
	};
	return tools;
}
