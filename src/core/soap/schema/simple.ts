import { attributeOf, childOf, childrenOf, type XmlElement } from '../tree.ts';
import { simple, textTypeOf } from './builtin.ts';
import { docOf, keyOf, refer, type Found, type SchemaContext } from './context.ts';
import { facetsOf } from './facets.ts';
import { XSD, type SchemaDocument, type SimpleType } from './types.ts';

function referredSimple(context: SchemaContext, document: SchemaDocument, node: XmlElement, text: string): SimpleType {
	const name = refer(document, node, text);
	// a redefinition speaks of what it redefines
	const original = context.reading.has(name) ? context.originals.get(keyOf('type', name)) : undefined;
	return textTypeOf(original ? readSimple(context, original, '') : context.type(name));
}

/** A simple type: a restriction, a list or a union (XSD 1.0 part 2 section 4.1). */
export function readSimple(context: SchemaContext, { node, document }: Found, name: string): SimpleType {
	const doc = docOf(node);
	const list = childOf(node, XSD, 'list');
	if (list) {
		const own = childOf(list, XSD, 'simpleType');
		const item = own
			? readSimple(context, { node: own, document }, '')
			: referredSimple(context, document, list, attributeOf(list, 'itemType') ?? '');
		return { kind: 'simple', name, builtin: 'anySimpleType', variety: 'list', item, facets: {}, doc };
	}
	const union = childOf(node, XSD, 'union');
	if (union) {
		const members = [
			...(attributeOf(union, 'memberTypes') ?? '')
				.split(/\s+/)
				.filter(Boolean)
				.map((one) => referredSimple(context, document, union, one)),
			...childrenOf(union, XSD, 'simpleType').map((one) => readSimple(context, { node: one, document }, ''))
		];
		return { kind: 'simple', name, builtin: 'anySimpleType', variety: 'union', members, facets: {}, doc };
	}
	const restriction = childOf(node, XSD, 'restriction');
	if (!restriction) return { ...simple('string', name), doc };
	return { ...restricted(context, restriction, document), name, doc };
}

/** @param base of a type of simple content, which is none itself */
export function restricted(
	context: SchemaContext,
	restriction: XmlElement,
	document: SchemaDocument,
	base?: SimpleType
): SimpleType {
	const own = childOf(restriction, XSD, 'simpleType');
	const named = attributeOf(restriction, 'base');
	const from = own
		? readSimple(context, { node: own, document }, '')
		: (base ?? (named === undefined ? simple('string', '') : referredSimple(context, document, restriction, named)));
	return { ...from, facets: facetsOf(restriction, from.facets) };
}
