import { same, type Json } from '../../model/json.ts';
import type { RelationKind } from '../relation.ts';
import { list, listProblem, towards } from './values.ts';

export const oneOf: RelationKind = {
	name: 'oneOf',
	label: 'is one of',
	doc: 'One of the listed values.',
	schema: { type: ['array', 'string'] },
	example: { value: 'held', expected: ['held', 'confirmed'] },
	// each of them may have a type of its own
	towards: (value, expected) =>
		(Array.isArray(expected) ? expected : [])
			.map((one) => towards(value, one))
			.find((one, at) => same(one, (expected as Json[])[at])) ?? value,
	problem: listProblem,
	judge: (value, expected) => ({ holds: list(expected).some((one) => same(one, value)) })
};
