import { attributeOf, childrenOf, nameOf, type XmlElement } from '../tree.ts';
import { anyType } from './builtin.ts';
import { docOf, GROUPS_DEEP, isTrue, keyOf, refer, type SchemaContext } from './context.ts';
import { XSD, type ElementDeclaration, type SchemaDocument, type Type } from './types.ts';

/** The declaration of an element, local or global. */
export function declare(node: XmlElement, document: SchemaDocument, global: boolean): ElementDeclaration {
	const local = attributeOf(node, 'name') ?? '';
	const form = attributeOf(node, 'form') ?? attributeOf(document.element, 'elementFormDefault') ?? 'unqualified';
	const typed = attributeOf(node, 'type');
	const own = childrenOf(node, XSD, 'simpleType', 'complexType')[0];
	const substitutes = attributeOf(node, 'substitutionGroup');
	const head = substitutes === undefined ? undefined : refer(document, node, substitutes);
	const usual = attributeOf(node, 'default');
	const fixed = attributeOf(node, 'fixed');
	return {
		local,
		namespace: global || form === 'qualified' ? document.namespace : '',
		typeName: typed === undefined ? (own || head ? '' : nameOf(XSD, 'anyType')) : refer(document, node, typed),
		nillable: isTrue(attributeOf(node, 'nillable')),
		abstract: isTrue(attributeOf(node, 'abstract')),
		...(usual === undefined ? {} : { default: usual }),
		...(fixed === undefined ? {} : { fixed }),
		doc: docOf(node),
		...(own && typed === undefined ? { own: { node: own, document } } : {}),
		global,
		...(head === undefined ? {} : { substitutes: head })
	};
}

/** A global element by name. */
export function elementByName(context: SchemaContext, name: string): ElementDeclaration | undefined {
	const kept = context.elements.get(name);
	if (kept) return kept;
	const found = context.index.get(keyOf('element', name));
	if (!found) return undefined;
	const made = declare(found.node, found.document, true);
	context.elements.set(name, made);
	return made;
}

/** The type of an element: its own, the one that it names, or that of the head of its substitution group. */
export function typeOfElement(context: SchemaContext, one: ElementDeclaration, depth = 0): Type {
	if (one.made) return one.made;
	if (one.own) {
		const kept = context.ownTypes.get(one.own.node);
		if (kept) return kept;
		const read = context.readType(one.own, '');
		context.ownTypes.set(one.own.node, read);
		return read;
	}
	if (one.typeName) return context.type(one.typeName);
	const head = one.substitutes && depth < GROUPS_DEEP ? elementByName(context, one.substitutes) : undefined;
	return head ? typeOfElement(context, head, depth + 1) : anyType('');
}
