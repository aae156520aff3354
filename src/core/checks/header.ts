import type { CheckKind, JudgeTools } from './kind.ts';

type Named = 'header' | 'cookie' | 'query' | 'path';
const valueOf: Record<Named, (tools: JudgeTools, name: string) => string | undefined> = {
	header: ({ view }, name) => view.header(name),
	cookie: ({ view }, name) => view.cookie(name),
	query: ({ asked }, name) => asked?.query[name],
	path: ({ asked }, name) => asked?.path[name]
};

const named = <Key extends Named>(key: Key, doc: string, example: string): CheckKind<Key> => ({
	key,
	label: key,
	doc,
	example: { [key]: example, present: true },
	form: 'selector',
	problem: (value) => (typeof value === 'string' && value.trim() ? undefined : `the name of the ${key} is wanted`),
	look(tools, name = '') {
		const value = valueOf[key](tools, name);
		return { found: value !== undefined, value, text: true };
	}
});

/** A header field (RFC 9110 section 5). */
export const header = named(
	'header',
	'A header field of the reply; several of one name are joined by a comma.',
	'Content-Type'
);
/** A cookie that is set (RFC 6265). */
export const cookie = named('cookie', 'A cookie that the reply sets.', 'session');
/** A parameter of the query of a request that comes in. */
export const query = named('query', 'A parameter behind the question mark of a request that comes in.', 'boat');
/** A value in the path of a request that comes in. */
export const path = named('path', 'A value of the {names} in the path of a request that comes in.', 'number');
