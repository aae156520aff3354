import type { SchemaSet } from '../schema/index.ts';
import { attributeOf, elementsOf, nameOf, readName, splitName, textIn, childOf, type XmlElement } from '../tree.ts';
import { WSDL, type WsdlDocument } from './types.ts';

/** A component of a definition, and the file that it stands in. */
export interface Named {
	node: XmlElement;
	path: string;
}
type ComponentKind = 'message' | 'portType' | 'binding';

/** Writes down what cannot be used, with its place. */
export type ReportProblem = (path: string, node: XmlElement | undefined, message: string) => void;

/** What is read of all files of a definition together. */
export interface Components {
	documents: readonly WsdlDocument[];
	schemas: SchemaSet;
	problem: ReportProblem;
	/** What an attribute of a component names. Nothing is reported. */
	lookUp(kind: ComponentKind, at: XmlElement, text: string | undefined): Named | undefined;
	/** The same; a problem is reported when it is not there. */
	find(kind: ComponentKind, at: Named, text: string | undefined): Named | undefined;
	bindings: Named[];
}

/** The components of all files of a definition by name. */
export function componentsOf(
	documents: readonly WsdlDocument[],
	schemas: SchemaSet,
	problem: ReportProblem
): Components {
	const named = new Map<string, Named>();
	for (const { path, root, namespace } of documents)
		for (const node of elementsOf(root))
			if (node.namespace === WSDL && attributeOf(node, 'name'))
				named.set(`${node.local} ${nameOf(namespace, attributeOf(node, 'name')!)}`, { node, path });
	const lookUp: Components['lookUp'] = (kind, at, text) => named.get(`${kind} ${readName(at, text ?? '')}`);
	return {
		documents,
		schemas,
		problem,
		lookUp,
		find(kind, at, text) {
			const found = lookUp(kind, at.node, text);
			if (!found) problem(at.path, at.node, `there is no ${kind} ${shownName(readName(at.node, text ?? ''))}`);
			return found;
		},
		bindings: [...named.values()].filter(({ node }) => node.local === 'binding')
	};
}

/** A qualified name in words. */
export function shownName(name: string): string {
	const { namespace, local } = splitName(name);
	return namespace ? `${local} of ${namespace.replace(/^\?/, 'the prefix ')}` : local;
}

/** What a component says of itself, on one line. */
export function docOf(node: XmlElement): string {
	const doc = childOf(node, WSDL, 'documentation');
	return doc ? textIn(doc).replace(/\s+/g, ' ').trim() : '';
}
