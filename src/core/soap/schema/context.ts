import { attributeOf, childOf, childrenOf, elementsOf, nameOf, readName, textIn, type XmlElement } from '../tree.ts';
import { XSD, type ElementDeclaration, type SchemaDocument, type Type } from './types.ts';

/** How deep groups stand in each other. */
export const GROUPS_DEEP = 50;

/** A component of a schema, and the document that it stands in. */
export interface Found {
	node: XmlElement;
	document: SchemaDocument;
}
const KINDS = ['element', 'simpleType', 'complexType', 'group', 'attributeGroup', 'attribute'];
/** Both kinds of type share one set of names (XSD 1.0 part 1 section 2.5). */
type ComponentKind = 'element' | 'type' | 'group' | 'attributeGroup' | 'attribute';

/** What the readers of components share: an index of them by name, and what was read of it. */
export interface SchemaContext {
	/** By `kind name`, see `keyOf`. */
	index: Map<string, Found>;
	/** What was redefined, by the same keys. */
	originals: Map<string, Found>;
	/** Names that something refers to and that nothing defines. */
	missing: Set<string>;
	types: Map<string, Type>;
	elements: Map<string, ElementDeclaration>;
	/** Types that stand in their element. */
	ownTypes: Map<XmlElement, Type>;
	/** Names of types that are read at present: one that comes up again speaks of itself. */
	reading: Set<string>;
	/** A type by name; any content where there is none. */
	type(name: string): Type;
	/** @param name empty for a type that stands where it is used */
	readType(found: Found, name: string): Type;
}

/** By which the index knows a component. */
export const keyOf = (kind: ComponentKind, name: string): string => `${kind} ${name}`;

/** All components by name; a redefinition goes before what it redefines. */
export function indexOf(documents: SchemaDocument[]): Pick<SchemaContext, 'index' | 'originals'> {
	const index = new Map<string, Found>();
	const originals = new Map<string, Found>();
	for (const document of [...documents].sort((a, b) => Number(b.redefined ?? false) - Number(a.redefined ?? false))) {
		const add = (node: XmlElement) => {
			const name = attributeOf(node, 'name');
			if (!name || !KINDS.includes(node.local)) return;
			const kind = node.local.endsWith('Type') ? 'type' : (node.local as ComponentKind);
			const at = keyOf(kind, nameOf(document.namespace, name));
			const before = index.get(at);
			if (before?.document.redefined) originals.set(at, before);
			if (!before || before.document.redefined) index.set(at, { node, document });
		};
		for (const child of elementsOf(document.element)) {
			if (child.namespace !== XSD) continue;
			if (child.local === 'redefine') elementsOf(child).forEach(add);
			else add(child);
		}
	}
	return { index, originals };
}

/** Names of the components of a kind. */
export const namesOf = ({ index }: SchemaContext, kind: ComponentKind): string[] =>
	[...index.keys()].filter((at) => at.startsWith(`${kind} `)).map((at) => at.slice(kind.length + 1));

/** The name that an attribute such as `type` or `ref` refers to. */
export function refer(document: SchemaDocument, node: XmlElement, text: string): string {
	const name = readName(node, text);
	// a schema without a namespace of its own speaks in that of whoever includes it
	return name.startsWith('{') || attributeOf(document.element, 'targetNamespace')
		? name
		: nameOf(document.namespace, name);
}

/** What annotations of a component say, on one line. */
export function docOf(node: XmlElement): string {
	const annotation = childOf(node, XSD, 'annotation');
	if (!annotation) return '';
	const texts = childrenOf(annotation, XSD, 'documentation').map((one) => textIn(one).replace(/\s+/g, ' ').trim());
	return texts.join(' ').trim();
}

/** Whether an `xs:boolean` is true. */
export const isTrue = (text: string | undefined): boolean => text === 'true' || text === '1';
