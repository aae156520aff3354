import type { SelectorKind } from './kind.ts';

export const cookie: SelectorKind = {
	name: 'cookie',
	doc: 'The value of a cookie that the reply sets.',
	example: 'cookie:session',
	fits: (selector) => selector.startsWith('cookie:'),
	problem: (selector) => (selector.length > 7 ? undefined : 'the name is missing: cookie:name'),
	select(selector, view) {
		const value = view.cookie(selector.slice(7).trim());
		return value === undefined ? { found: false } : { found: true, value, text: true };
	}
};
