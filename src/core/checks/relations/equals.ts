import { same } from '../../model/json.ts';
import type { RelationKind } from '../relation.ts';

export const equals: RelationKind = {
	name: 'equals',
	label: 'equals',
	doc: 'The same value and type; the order of keys in an object does not matter.',
	schema: {},
	example: { value: { a: 1, b: [2] }, expected: { b: [2], a: 1 } },
	blank: true,
	judge: (value, expected) => ({ holds: same(value, expected) })
};
