import { select, selectorProblem } from '../selectors/index.ts';
import { hasExpression } from '../values/index.ts';
import type { CheckKind } from './kind.ts';

export const body: CheckKind = {
	key: 'body',
	label: 'body',
	doc: 'A value of the body by its selector; without a selector the whole body.',
	example: { body: '$.reference', matches: '^RW-' },
	form: 'selector',
	problem(value) {
		if (value === null || value === '') return undefined;
		if (typeof value !== 'string') return 'a selector is wanted, such as $.reference';
		return hasExpression(value) ? undefined : selectorProblem(value);
	},
	async look({ view }, selector) {
		if (!selector) return { found: view.reply.body.length > 0, value: view.body() };
		const selected = await select(selector, view);
		if (selected.found) return { ...selected };
		return { found: false, value: undefined, ...(selected.items ? { items: selected.items } : {}) };
	}
};
