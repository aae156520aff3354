import { attributeOf, childOf, childrenOf, splitName, type XmlElement } from '../tree.ts';
import { simple, textTypeOf } from './builtin.ts';
import { docOf, GROUPS_DEEP, keyOf, refer, type SchemaContext } from './context.ts';
import { readSimple } from './simple.ts';
import { XSD, type AttributeUse, type SchemaDocument, type SimpleType } from './types.ts';

/** The attributes that a type, what derives one, or a group of them declares. */
export interface DeclaredAttributes {
	uses: AttributeUse[];
	/** Local names of those that a restriction prohibits. */
	prohibited: string[];
	/** Others are welcome. */
	any: boolean;
}

/** The attributes that a node declares, groups resolved (XSD 1.0 part 1 section 3.2). */
export function attributesOf(
	context: SchemaContext,
	node: XmlElement,
	document: SchemaDocument,
	deep = 0
): DeclaredAttributes {
	const declared: DeclaredAttributes = {
		uses: [],
		prohibited: [],
		any: childOf(node, XSD, 'anyAttribute') !== undefined
	};
	for (const child of childrenOf(node, XSD, 'attribute', 'attributeGroup')) {
		if (child.local === 'attribute') {
			const use = attributeUse(context, child, document);
			if (attributeOf(child, 'use') === 'prohibited') declared.prohibited.push(use.local);
			else declared.uses.push(use);
			continue;
		}
		const name = refer(document, child, attributeOf(child, 'ref') ?? '');
		const found = context.index.get(keyOf('attributeGroup', name));
		if (!found) context.missing.add(name);
		else if (deep < GROUPS_DEEP) {
			const inner = attributesOf(context, found.node, found.document, deep + 1);
			declared.uses.push(...inner.uses);
			declared.any ||= inner.any;
		}
	}
	return declared;
}

function attributeUse(context: SchemaContext, child: XmlElement, document: SchemaDocument): AttributeUse {
	const ref = attributeOf(child, 'ref');
	const name = ref === undefined ? undefined : refer(document, child, ref);
	const found = name === undefined ? undefined : context.index.get(keyOf('attribute', name));
	const given = found?.node ?? child;
	const usual = attributeOf(child, 'default') ?? attributeOf(given, 'default');
	const fixed = attributeOf(child, 'fixed') ?? attributeOf(given, 'fixed');
	const { namespace, local } = name === undefined ? ownName(child, document) : splitName(name);
	return {
		local,
		namespace,
		type: typeOfAttribute(context, given, found?.document ?? document, local),
		required: attributeOf(child, 'use') === 'required',
		...(usual === undefined ? {} : { default: usual }),
		...(fixed === undefined ? {} : { fixed }),
		doc: docOf(child) || docOf(given)
	};
}
function ownName(child: XmlElement, document: SchemaDocument): { namespace: string; local: string } {
	const form = attributeOf(child, 'form') ?? attributeOf(document.element, 'attributeFormDefault');
	return { namespace: form === 'qualified' ? document.namespace : '', local: attributeOf(child, 'name') ?? '' };
}
function typeOfAttribute(
	context: SchemaContext,
	given: XmlElement,
	document: SchemaDocument,
	local: string
): SimpleType {
	const own = childOf(given, XSD, 'simpleType');
	if (own) return readSimple(context, { node: own, document }, '');
	const typed = attributeOf(given, 'type');
	// xml:lang is declared in a schema that few bring along
	if (typed === undefined) return simple(local === 'lang' ? 'language' : 'string', '');
	return textTypeOf(context.type(refer(document, given, typed)));
}
