import { isObject } from '../../model/json.ts';
import type { RelationKind } from '../relation.ts';
import { amount, sizeOf } from './values.ts';

export const count: RelationKind = {
	name: 'count',
	label: 'has the count',
	list: true,
	towards: (value) => value,
	doc: 'The number of items, entries or characters; a number, or relations such as { atLeast: 1 }.',
	schema: { anyOf: [{ type: ['number', 'string'] }, { $ref: '#/$defs/relations' }] },
	example: { value: [1, 2, 3], expected: 3 },
	problem: (expected, inner) => (isObject(expected) ? inner(expected) : undefined),
	judge(value, expected, tools) {
		const n = sizeOf(value);
		const holds = isObject(expected) ? tools.inner(expected, n).holds : n == amount(expected);
		return { holds, received: String(n) };
	}
};
