import { xpathOf } from '../model/xml-data.ts';
import { jsonPathOf } from '../selectors/index.ts';
import type { BodyForm } from './read.ts';
import type { Path } from './tree.ts';

/** The selector of a place in the data of a body: XPath in what has elements, else JSONPath. */
export const selectorOf = (form: BodyForm, path: Path): string =>
	form === 'xml' || form === 'html' ? xpathOf(path) : jsonPathOf(path);
