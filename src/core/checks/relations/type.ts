import { typeName } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import type { RelationKind } from '../relation.ts';
import { expression } from './values.ts';

const TYPES = ['null', 'boolean', 'number', 'integer', 'string', 'array', 'object'];

export const type: RelationKind = {
	name: 'type',
	label: 'has the type',
	doc: 'null, boolean, number, integer, string, array or object.',
	schema: { enum: TYPES },
	example: { value: 3, expected: 'integer' },
	problem: (expected) =>
		TYPES.includes(String(expected)) || expression(expected) ? undefined : `one of ${TYPES.join(', ')} is wanted`,
	judge(value, expected) {
		const is = typeName(value);
		const holds = is === expected || (expected === 'integer' && (typeof value === 'bigint' || Number.isInteger(value)));
		return { holds, received: `${is} ${show(value)}` };
	}
};
