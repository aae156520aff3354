import { canonical } from '../../diff/index.ts';
import type { Json } from '../../model/json.ts';
import { show } from '../../model/show.ts';
import type { RelationKind } from '../relation.ts';
import { list, listProblem, towardsAny } from './values.ts';

export const sameItems: RelationKind = {
	name: 'sameItems',
	towards: (value, expected) => (Array.isArray(value) ? value.map((one) => towardsAny(one, expected)) : value),
	label: 'has the same items as',
	doc: 'A list with the same items, each as often, in any order.',
	schema: { type: ['array', 'string'] },
	example: { value: [2, 1, 2], expected: [1, 2, 2] },
	list: true,
	problem: listProblem,
	judge(value, expected) {
		const left = new Map<string, { item: unknown; times: number }>();
		const count = (item: unknown, by: number) => {
			const key = canonical(item as Json);
			const times = (left.get(key)?.times ?? 0) + by;
			if (times === 0) left.delete(key);
			else left.set(key, { item, times });
		};
		for (const item of list(value)) count(item, 1);
		for (const item of list(expected)) count(item, -1);
		const odd = (by: number) =>
			[...left.values()].filter(({ times }) => times * by > 0).map(({ item }) => show(item, 60));
		const words = [
			odd(1).length > 0 ? `too many: ${odd(1).slice(0, 5).join(', ')}` : '',
			odd(-1).length > 0 ? `missing: ${odd(-1).slice(0, 5).join(', ')}` : ''
		];
		return { holds: left.size === 0, ...(left.size > 0 ? { received: words.filter(Boolean).join('; ') } : {}) };
	}
};
