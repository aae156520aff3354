import type { CheckKind } from './kind.ts';

const named = (key: 'header' | 'cookie', doc: string, example: string): CheckKind => ({
	key,
	label: key,
	doc,
	example: { [key]: example, present: true },
	form: 'selector',
	problem: (value) => (typeof value === 'string' && value.trim() ? undefined : `the name of the ${key} is wanted`),
	look({ view }, name = '') {
		const value = key === 'header' ? view.header(name) : view.cookie(name);
		return { found: value !== undefined, value };
	}
});

export const header = named(
	'header',
	'A header field of the reply; several of one name are joined by a comma.',
	'Content-Type'
);
export const cookie = named('cookie', 'A cookie that the reply sets.', 'session');
