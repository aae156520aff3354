import { unescapeAddress } from '../../values/index.ts';
import { XSD } from '../schema/index.ts';
import { needsNoFile } from '../shipped.ts';
import { attributeOf, childrenOf, type XmlElement } from '../tree.ts';
import { WSDL } from './types.ts';

/** The name of the file that an address is kept in: `…/toll?xsd=types` is `toll-xsd-types.xsd`. */
export function fileOfAddress(address: string): string {
	const [path = '', query = ''] = address.replace(/#.*$/, '').split('?');
	const last = unescapeAddress(path.replace(/\/+$/, '').split('/').at(-1) ?? '') || 'definition';
	const asked = /^(single)?wsdl2?$/i.test(query) ? '' : query;
	const plain = (asked ? `${last}-${unescapeAddress(asked)}` : last)
		.replace(/[^\w.-]+/g, '-')
		.replace(/^[.-]+|-+$/g, '');
	const ending = /\bxsd\b/i.test(query) ? '.xsd' : '.wsdl';
	return /\.(wsdl|xsd|xml)$/i.test(plain) ? plain : `${plain || 'definition'}${ending}`;
}
const isAddress = (location: string): boolean => /^[a-z][a-z0-9+.-]*:\/\//i.test(location);

/** The path of what a file names, without leaving the folder of definitions. */
export function resolveLocation(from: string, location: string): string {
	const folder = from.includes('/') ? from.slice(0, from.lastIndexOf('/') + 1) : '';
	if (isAddress(location) || location.includes('?')) return folder + fileOfAddress(location);
	const parts = (folder + location.replace(/#.*$/, '')).split('/');
	const out: string[] = [];
	// definitions/NAME/ is never left
	const least = from.startsWith('definitions/') ? 2 : 0;
	for (const part of parts) {
		if (part === '..') out.splice(Math.max(least, out.length - 1));
		else if (part !== '.' && part !== '') out.push(part);
	}
	return out.join('/');
}

/** Whether a text of WSDL defines services. */
export const offersService = (text: string): boolean => /<(?:[\w.-]+:)?service\b/.test(text);

/** What a schema names: imports, includes and redefinitions. */
export const importsOf = (element: XmlElement): XmlElement[] =>
	childrenOf(element, XSD, 'import', 'include', 'redefine');

/** All that a file of definitions names: locations as they are written, each with the place. */
export function locationsIn(root: XmlElement): { node: XmlElement; location: string }[] {
	const schemas =
		root.local === 'schema'
			? [root]
			: childrenOf(root, WSDL, 'types').flatMap((types) => childrenOf(types, XSD, 'schema'));
	const named = [
		...childrenOf(root, WSDL, 'import').map((node) => ({ node, location: attributeOf(node, 'location') })),
		...schemas
			.flatMap(importsOf)
			.filter((node) => node.local !== 'import' || !needsNoFile(attributeOf(node, 'namespace')))
			.map((node) => ({ node, location: attributeOf(node, 'schemaLocation') }))
	];
	return named.filter((one): one is { node: XmlElement; location: string } => !!one.location?.trim());
}
