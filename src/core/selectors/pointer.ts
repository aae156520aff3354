import type { Json } from '../model/json.ts';
import { asRead, dataOf } from './data.ts';
import type { Selected } from '../model/selected.ts';
import type { SelectorKind } from './kind.ts';

const PREFIX = 'pointer:';

export const pointer: SelectorKind = {
	name: 'pointer',
	doc: 'One value of a JSON body, or of another one that is read as a list, by a JSON Pointer (RFC 6901).',
	example: 'pointer:/items/0/reference',
	fits: (selector) => selector.startsWith(PREFIX),
	problem(selector) {
		const path = selector.slice(PREFIX.length);
		if (path !== '' && !path.startsWith('/')) return 'a pointer is empty, or starts with a slash: pointer:/items/0';
		return /~(?![01])/.test(path) ? '~ is written ~0, and a slash inside a name ~1' : undefined;
	},
	select(selector, view) {
		const data = dataOf(view);
		return data instanceof Promise
			? data.then((value) => asRead(view, pointed(selector, value)))
			: pointed(selector, data);
	}
};

function pointed(selector: string, data: Json): Selected {
	let at: unknown = data;
	for (const part of selector.slice(PREFIX.length).split('/').slice(1)) {
		const key = part.replace(/~1/g, '/').replace(/~0/g, '~');
		const fits = Array.isArray(at) ? /^(0|[1-9]\d*)$/.test(key) : typeof at === 'object' && at !== null;
		if (!fits || !Object.hasOwn(at as object, key)) return { found: false };
		at = (at as Record<string, unknown>)[key];
	}
	return { found: true, value: at as Json };
}
