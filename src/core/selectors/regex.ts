import { textOf } from '../errors.ts';
import { compilePattern } from '../values/index.ts';
import type { SelectorKind } from './kind.ts';

export const regex: SelectorKind = {
	name: 'regex',
	doc: 'The first group of a pattern in the body’s text; the whole match when the pattern has no group.',
	example: 'regex:ticket=([0-9]+)',
	fits: (selector) => selector.startsWith('regex:'),
	problem(selector) {
		try {
			compilePattern(selector.slice(6));
			return undefined;
		} catch (error) {
			return textOf(error);
		}
	},
	select(selector, view) {
		const match = compilePattern(selector.slice(6)).exec(view.text);
		const value = match && (match.groups.length > 1 ? match.groups[1] : match.groups[0]);
		return value === undefined ? { found: false } : { found: true, value, text: true };
	}
};
