import type { Json } from '../../model/json.ts';
import type { RelationKind, Verdict } from '../relation.ts';
import { expression } from './values.ts';

/** A relation that holds or does not, and takes true or false. */
export const flag = (
	name: string,
	label: string,
	doc: string,
	is: (value: unknown) => Verdict,
	example: Json,
	more: Partial<RelationKind> = {}
): RelationKind => ({
	name,
	label,
	doc,
	schema: { type: 'boolean' },
	example: { value: example, expected: true },
	towards: (value) => value,
	...more,
	problem: (expected) =>
		typeof expected === 'boolean' || expression(expected) ? undefined : 'true or false is wanted',
	judge(value, expected) {
		const verdict = is(value);
		return { ...verdict, holds: verdict.holds === (expected !== false) };
	}
});
