import { HeronError } from '../errors.ts';
import { memoizeByText } from '../model/kept.ts';
import type { ReplyView } from '../model/view.ts';
import { cookie } from './cookie.ts';
import { header } from './header.ts';
import { compileJsonPath, jsonpath } from './jsonpath.ts';
import type { Selected } from '../model/selected.ts';
import type { SelectorKind } from './kind.ts';
import { pointer } from './pointer.ts';
import { regex } from './regex.ts';
import { whole } from './whole.ts';
import { xpath } from './xpath.ts';

export type { Selected } from '../model/selected.ts';
export { dataOf } from './data.ts';
export { compileJsonPath, jsonpath, singularPath } from './jsonpath.ts';

/** All kinds of selector, in the order in which a text is tried. */
export const selectorKinds: readonly SelectorKind[] = [jsonpath, header, cookie, regex, pointer, whole, xpath];

const kindOf = memoizeByText((selector) => selectorKinds.find((kind) => kind.fits(selector)), 1000);

/** What is wrong with a selector, or undefined. */
export function selectorProblem(selector: string): string | undefined {
	const kind = kindOf(selector);
	if (kind) return kind.problem(selector);
	return `"${selector}" is not a selector: it should look like ${selectorKinds.map((k) => k.example).join(', ')}`;
}

/**
 * Finds a value in a reply.
 * @param whole as it stands there: an XML element with what it holds, not its text
 * @throws HeronError selector.*
 */
export function select(selector: string, view: ReplyView, whole = false): Selected | Promise<Selected> {
	const kind = kindOf(selector);
	if (!kind) throw new HeronError('selector.syntax', { selector, detail: selectorProblem(selector) ?? '' });
	return kind.select(selector, view, whole);
}

const BARE = /^[A-Za-z_]\w*$/;

/** The JSONPath of a place: `['items', 0, 'unit price']` is `$.items[0]['unit price']`. */
export const jsonPathOf = (path: readonly (string | number)[]): string =>
	'$' +
	path
		.map((key) => {
			if (typeof key === 'number') return `[${key}]`;
			return BARE.test(key) ? `.${key}` : `['${key.replace(/[\\']/g, (c) => '\\' + c)}']`;
		})
		.join('');

/** Whether a selector is a JSONPath that can match many places; it gives a list then. */
export const isPlural = (selector: string): boolean => selector.startsWith('$') && !compileJsonPath(selector).singular;
