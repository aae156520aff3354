import { isPlural, select, selectorProblem, type Selected } from '../selectors/index.ts';
import { hasExpression } from '../values/index.ts';
import type { CheckKind, Subject } from './kind.ts';

export const body: CheckKind<'body'> = {
	key: 'body',
	whole: () => true,
	placed: true,
	label: 'body',
	doc: 'A value of the body by its selector; without a selector the whole body.',
	example: { body: '$.reference', matches: '^RW-' },
	form: 'selector',
	problem(value) {
		if (value === null || value === '') return undefined;
		if (typeof value !== 'string') return 'a selector is wanted, such as $.reference';
		return hasExpression(value) ? undefined : selectorProblem(value);
	},
	look({ view }, selector) {
		// an empty body holds nothing, whatever is looked for in it
		const whole = !selector || selector === 'body';
		if (view.reply.body.length === 0) return { found: false, value: undefined, ...(whole ? { blank: '' } : {}) };
		const selected = select(whole ? 'body' : selector, view);
		return selected instanceof Promise
			? selected.then((one) => subjectOf(one, selector ?? ''))
			: subjectOf(selected, selector ?? '');
	}
};

function subjectOf(selected: Selected, selector: string): Subject {
	// a query that can match many, and matches none, has found nothing
	const none = selected.found && Array.isArray(selected.value) && selected.value.length === 0;
	if (none && isPlural(selector)) return { found: false, value: undefined, items: [], blank: [] };
	if (selected.found) return { ...selected };
	return { found: false, value: undefined, ...(selected.items ? { items: selected.items } : {}) };
}
