import { isObject, type Json } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import type { RelationKind, RelationTools } from '../relation.ts';
import { EMPTY, list } from './values.ts';

/** A field that relations ask for and no item has: what holds for none of them says nothing then. */
function fieldOfNone(relations: Json, all: unknown[], tools: RelationTools): string | undefined {
	if (!isObject(relations)) return undefined;
	return Object.keys(relations).find((name) => all.every((item) => tools.fieldOf(item, name) === undefined));
}

const items = (
	name: string,
	label: string,
	doc: string,
	fits: (held: number, of: number) => boolean,
	pick: boolean
): RelationKind => ({
	name,
	label,
	doc,
	schema: { $ref: '#/$defs/relations' },
	list: true,
	// the relations inside do it, each its own way
	towards: (value) => value,
	...(name === 'every' ? { needsItems: true } : {}),
	example: { value: name === 'none' ? [1, 2] : [5, 6], expected: { above: 4 } },
	problem: (expected, inner) => (isObject(expected) ? inner(expected) : 'relations are wanted, such as { above: 4 }'),
	judge(value, expected, tools) {
		let held = 0;
		let odd: string | undefined;
		let at: number | undefined;
		list(value).forEach((item, index) => {
			const holds = tools.inner(expected, item).holds;
			if (holds) held++;
			if (holds !== pick && odd === undefined) {
				odd = `item ${index}: ${show(item)}`;
				at = index;
			}
		});
		const of = list(value).length;
		const holds = fits(held, of);
		if (holds && of === 0) return { holds, received: EMPTY };
		const lacking = holds && name === 'none' ? fieldOfNone(expected, list(value), tools) : undefined;
		if (lacking !== undefined) return { holds, received: `${show(value)}; no item has ${lacking}` };
		return { holds, ...(holds || name === 'any' || odd === undefined ? {} : { received: odd, at: at! }) };
	}
});

/** Every item of a list holds to relations. */
export const every = items(
	'every',
	'every item',
	'Every item of the list holds to the relations inside.',
	(held, of) => held === of,
	true
);
/** At least one item of a list does. */
export const any = items(
	'any',
	'any item',
	'At least one item of the list holds to the relations inside.',
	(held) => held > 0,
	true
);
/** No item of a list does. */
export const none = items(
	'none',
	'no item',
	'No item of the list holds to the relations inside.',
	(held) => held === 0,
	false
);
