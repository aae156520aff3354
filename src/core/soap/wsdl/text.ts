import { shortened } from '../../model/shortened.ts';
import { PLAIN_ENTITY, type XmlElement } from '../tree.ts';
import { WSDL } from './types.ts';

const WSDL2 = 'http://www.w3.org/ns/wsdl';
const HTML = 'it is an HTML page, perhaps one for signing in or an error: fetch the definition itself';

/** What a text is when it is no definition, in words. */
export function whatItIs(root: XmlElement, wanted: string): string {
	if (root.namespace === WSDL2)
		return 'it is WSDL 2.0, and WSDL 1.1 is read here: ask for the 1.1 form, which most servers give at ?wsdl';
	if (root.local.toLowerCase() === 'html') return HTML;
	if (root.local === 'definitions' && root.namespace !== WSDL)
		return `its root is definitions in the namespace ${root.namespace || '(none)'}, and ${WSDL} is the one of WSDL 1.1`;
	return `its root is ${root.local}, and ${wanted} is wanted`;
}

/** Comments before the XML declaration are against XML 1.0 section 2.8, and seen in the wild; lines stay where they are. */
const withoutProlog = (text: string): string =>
	text.replace(/^\uFEFF?(\s|<!--[\s\S]*?-->)*<\?xml[\s\S]*?\?>/, (found) => found.replace(/[^\n]/g, ' '));

/** Plain entities of a document type filled in, so that pieces of the text stand for themselves; others are left to be refused. */
function withoutEntities(text: string): string {
	const type = /<!DOCTYPE[^[>]*(\[[\s\S]*?\]\s*)?>/.exec(text)?.[0];
	if (!type) return text;
	const entities = new Map(
		[...type.matchAll(PLAIN_ENTITY)].map(([, name, double, single]) => [name!, double ?? single ?? ''])
	);
	const filled = text.replace(/&([\w.:-]+);/g, (found, name: string) => entities.get(name) ?? found);
	const rest = /&(?!(?:amp|lt|gt|quot|apos|#\w+);)/.test(filled.replace(type, ''));
	return rest ? text : filled.replace(/<!DOCTYPE[^[>]*(\[[\s\S]*?\]\s*)?>/, (found) => found.replace(/[^\n]/g, ' '));
}

/** A text of XML as it can be taken apart: what stands in for something is filled in, and every piece keeps its place. */
export const plainText = (text: string): string => withoutEntities(withoutProlog(text));

/** Why a text that cannot be parsed is no definition, in words. */
export function whyUnreadable(file: string, text: string, cause: Error): string {
	const start = text.trim();
	if (!start) return 'it is empty';
	if (/^<!doctype html|^<html/i.test(start)) return HTML;
	return start.startsWith('<')
		? cause.message.replace(`${file}:`, 'at ')
		: `it is not XML; it starts with: ${shortened(start, 40)}`;
}
