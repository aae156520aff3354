import type { Json } from '../model/json.ts';
import { getIn } from '../model/path.ts';
import { xpathOf } from '../model/xml-data.ts';
import { jsonPathOf } from '../selectors/index.ts';
import type { BodyForm } from './read.ts';
import type { Path } from './tree.ts';

/** The selector of a place in the data of a body: XPath in what has elements, else JSONPath. */
export const selectorOf = (form: BodyForm, path: Path): string =>
	form === 'xml' || form === 'html' ? xpathOf(path) : jsonPathOf(path);

/** What fields of a form, and `meta`, hold their value in (HTML Living Standard, sections 4.10.18 and 4.2.5). */
const VALUES = ['@value', '@content'];

/**
 * The field of a page whose value a place is: its name, and a selector by that name, which holds when the page is set out
 * anew. Undefined for what is no field, and for one of several of its name.
 */
export function fieldOf(page: Json, path: Path): { name: string; selector: string } | undefined {
	const attribute = String(path.at(-1));
	const tag = path.slice(0, -1).findLast((key) => typeof key === 'string');
	const name = getIn(page, [...path.slice(0, -1), '@name']);
	if (!VALUES.includes(attribute) || tag === undefined || typeof name !== 'string' || !/^[^"]+$/.test(name))
		return undefined;
	let found = 0;
	const waiting: { key: string; value: Json }[] = [{ key: '', value: page }];
	for (let one = waiting.pop(); one; one = waiting.pop()) {
		const { key, value } = one;
		if (typeof value !== 'object' || value === null) continue;
		if (Array.isArray(value)) for (const item of value) waiting.push({ key, value: item });
		else {
			if (key === tag && value['@name'] === name) found++;
			for (const [inner, item] of Object.entries(value)) waiting.push({ key: inner, value: item });
		}
	}
	return found === 1 ? { name, selector: `//${tag}[@name="${name}"]/${attribute}` } : undefined;
}
