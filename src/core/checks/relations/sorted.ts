import { isObject } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import type { RelationKind } from '../relation.ts';
import { byKey, compare, EMPTY, expression, isNumberText, list, towards } from './values.ts';

export const sorted: RelationKind = {
	name: 'sorted',
	towards: (value) => value,
	needsItems: true,
	label: 'is sorted',
	list: true,
	doc: 'Each item is not smaller than the one before it (true or ascending), or not larger (descending); by: NAME sorts by that name.',
	schema: { anyOf: [{ type: ['boolean', 'string'] }, { type: 'object' }] },
	example: { value: [{ n: 1 }, { n: 2 }], expected: { by: 'n' } },
	problem(expected) {
		const order = isObject(expected) ? (expected.order ?? 'ascending') : expected;
		const known = order === true || order === 'ascending' || order === 'descending' || expression(expected);
		return known ? undefined : 'true, ascending, descending or { by: NAME, order: descending } is wanted';
	},
	judge(value, expected, tools) {
		const order = isObject(expected) ? expected.order : expected;
		const found = byKey(list(value), isObject(expected) ? (expected.by ?? true) : true);
		// by size where all of them are numbers
		const numbers = tools.text && found.every((one) => typeof one === 'string' && isNumberText(one));
		const values = numbers ? found.map((one) => towards(one, 0)) : found;
		for (let i = 1; i < values.length; i++) {
			const way = compare(values[i - 1], values[i]);
			if (order === 'descending' ? way < 0 : way > 0) {
				return { holds: false, received: `${show(values[i - 1])} before ${show(values[i])} at item ${i}` };
			}
		}
		return { holds: true, ...(values.length === 0 ? { received: EMPTY } : {}) };
	}
};
