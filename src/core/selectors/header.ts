import type { SelectorKind } from './kind.ts';

export const header: SelectorKind = {
	name: 'header',
	doc: 'A header field of the reply; several of one name are joined by a comma.',
	example: 'header:Location',
	fits: (selector) => selector.startsWith('header:'),
	problem: (selector) => (selector.length > 7 ? undefined : 'the name is missing: header:Name'),
	select(selector, view) {
		const value = view.header(selector.slice(7).trim());
		return value === undefined ? { found: false } : { found: true, value, text: true };
	}
};
