import { canonical } from '../../diff/index.ts';
import type { Json } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import type { RelationKind } from '../relation.ts';
import { byKey, EMPTY, list } from './values.ts';

export const unique: RelationKind = {
	name: 'unique',
	towards: (value) => value,
	needsItems: true,
	label: 'has no item twice',
	list: true,
	doc: 'No item of the list stands in it twice; with a name, no item has the same value under that name.',
	schema: { type: ['boolean', 'string'] },
	example: { value: [{ id: 1 }, { id: 2 }], expected: 'id' },
	judge(value, expected) {
		const seen = new Map<string, number>();
		let twice: string | undefined;
		byKey(list(value), expected).forEach((item, index) => {
			const key = canonical((item ?? null) as Json);
			if (seen.has(key)) twice ??= `items ${seen.get(key)} and ${index}: ${show(item)}`;
			else seen.set(key, index);
		});
		const holds = (twice === undefined) === (expected !== false);
		return { holds, ...(twice ? { received: twice } : seen.size === 0 && holds ? { received: EMPTY } : {}) };
	}
};
