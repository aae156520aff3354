import { same } from '../../model/json.ts';
import type { RelationKind } from '../relation.ts';
import { list, listProblem, towardsAny } from './values.ts';

export const oneOf: RelationKind = {
	name: 'oneOf',
	label: 'is one of',
	doc: 'One of the listed values.',
	schema: { type: ['array', 'string'] },
	example: { value: 'held', expected: ['held', 'confirmed'] },
	towards: towardsAny,
	problem: listProblem,
	judge: (value, expected) => ({ holds: list(expected).some((one) => same(one, value)) })
};
