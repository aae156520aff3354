import { attributeOf, childrenOf, elementsOf, splitName, type XmlElement } from '../tree.ts';
import { GROUPS_DEEP, keyOf, refer, type SchemaContext } from './context.ts';
import { declare, elementByName } from './elements.ts';
import { UNBOUNDED, XSD, type Occurs, type Particle, type SchemaDocument } from './types.ts';

function occursOf(node: XmlElement): Occurs {
	const count = (text: string | undefined) =>
		text === 'unbounded' ? UNBOUNDED : /^\d+$/.test(text ?? '') ? Number(text) : 1;
	const min = count(attributeOf(node, 'minOccurs'));
	return { min: min === UNBOUNDED ? 1 : min, max: count(attributeOf(node, 'maxOccurs')) };
}
const within = (node: XmlElement, outer: XmlElement): boolean => {
	for (let at: XmlElement | undefined = node; at; at = at.parent) if (at === outer) return true;
	return false;
};

/** The model group of a type or of what derives one: its elements and how often they come. */
export function modelOf(context: SchemaContext, at: XmlElement, document: SchemaDocument): Particle | undefined {
	const [model] = childrenOf(at, XSD, 'sequence', 'choice', 'all', 'group');
	return model && particleOf(context, model, document, 0);
}

function particleOf(
	context: SchemaContext,
	node: XmlElement,
	document: SchemaDocument,
	deep: number
): Particle | undefined {
	if (node.namespace !== XSD || deep > GROUPS_DEEP) return undefined;
	const occurs = occursOf(node);
	if (occurs.max === 0) return undefined;
	switch (node.local) {
		case 'element':
			return elementParticle(context, node, document, occurs);
		case 'any': {
			const strict = (attributeOf(node, 'processContents') ?? 'strict') === 'strict';
			const namespaces = attributeOf(node, 'namespace') ?? '##any';
			return { kind: 'any', ...occurs, namespaces, strict, home: document.namespace };
		}
		case 'group': {
			const inner = groupOf(context, node, document, deep);
			if (!inner) return undefined;
			return occurs.min === 1 && occurs.max === 1 ? inner : { kind: 'sequence', ...occurs, items: [inner] };
		}
		case 'sequence':
		case 'choice':
		case 'all': {
			const items = elementsOf(node)
				.map((child) => particleOf(context, child, document, deep + 1))
				.filter((one) => one !== undefined);
			return { kind: node.local, ...occurs, items };
		}
		default:
			return undefined;
	}
}

function elementParticle(context: SchemaContext, node: XmlElement, document: SchemaDocument, occurs: Occurs): Particle {
	const ref = attributeOf(node, 'ref');
	if (ref === undefined) return { kind: 'element', ...occurs, element: declare(node, document, false) };
	const name = refer(document, node, ref);
	const found = elementByName(context, name);
	if (found) return { kind: 'element', ...occurs, element: found };
	context.missing.add(name);
	return { kind: 'any', ...occurs, namespaces: splitName(name).namespace };
}

function groupOf(
	context: SchemaContext,
	node: XmlElement,
	document: SchemaDocument,
	deep: number
): Particle | undefined {
	const name = refer(document, node, attributeOf(node, 'ref') ?? '');
	const found = context.index.get(keyOf('group', name));
	if (!found) {
		context.missing.add(name);
		return undefined;
	}
	// a redefined group that names itself means what it was
	const original = context.originals.get(keyOf('group', name));
	const from = node.parent && original && within(node, found.node) ? original : found;
	const [model] = childrenOf(from.node, XSD, 'sequence', 'choice', 'all');
	return model && particleOf(context, model, from.document, deep + 1);
}
