import { isObject, same } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import type { RelationKind } from '../relation.ts';
import { textIn, towards } from './values.ts';

export const contains: RelationKind = {
	name: 'contains',
	label: 'contains',
	doc: 'A text that holds the expected one, a list that has the item, or an object that has the entries.',
	schema: {},
	// within a text it is looked for as it stands there
	towards: (value, expected) => (typeof value === 'string' ? value : towards(value, expected)),
	example: { value: 'canal basin', expected: 'basin' },
	judge(value, expected) {
		if (Array.isArray(value)) return { holds: value.some((item) => same(item, expected)) };
		if (isObject(value) && isObject(expected))
			return {
				holds: Object.entries(expected).every(([key, one]) => Object.hasOwn(value, key) && same(value[key], one))
			};
		if (isObject(value)) {
			if (Object.hasOwn(value, String(expected))) return { holds: true };
			return { holds: false, received: `${show(value)}; no entry has this name, and matches finds a text anywhere` };
		}
		return { holds: textIn(value).includes(textIn(expected)) };
	}
};
