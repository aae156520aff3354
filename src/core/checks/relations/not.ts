import { same } from '../../model/json.ts';
import type { RelationKind } from '../relation.ts';

export const not: RelationKind = {
	name: 'not',
	label: 'is not',
	doc: 'Any other value or type than the expected one.',
	schema: {},
	example: { value: 2, expected: '2' },
	judge: (value, expected) => ({ holds: !same(value, expected) })
};
