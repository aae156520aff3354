import { XSD, type ElementDeclaration, type Particle } from '../schema/index.ts';
import { attributeOf, childOf, childrenOf, elementsOf, nameOf, readName, splitName, type XmlElement } from '../tree.ts';
import { shownName, type Components, type Named } from './components.ts';
import { MIME, soapVersionOf, WSDL, type SoapMessage } from './types.ts';

/** A message of which nothing is known. */
export const EMPTY_MESSAGE: Readonly<SoapMessage> = { body: [], headers: [], attachments: [] };
const UNTYPED = { typeName: '', nillable: false, abstract: false, doc: '', global: false };

interface Part {
	name: string;
	element: string | undefined;
	type: string | undefined;
	node: XmlElement;
}
const partsOf = (message: Named): Part[] =>
	childrenOf(message.node, WSDL, 'part').map((node) => ({
		name: attributeOf(node, 'name') ?? '',
		element: attributeOf(node, 'element'),
		type: attributeOf(node, 'type'),
		node
	}));

/** A part of a message as an element: the one that it names, or one of its name and type. */
function declared({ schemas, problem }: Components, at: Named, part: Part): ElementDeclaration {
	if (part.element === undefined)
		return { ...UNTYPED, local: part.name, namespace: '', typeName: readName(part.node, part.type ?? '') };
	const name = readName(part.node, part.element);
	const found = schemas.element(name);
	if (found) return found;
	problem(at.path, part.node, `the part ${part.name} is of the element ${shownName(name)}, which no schema defines`);
	return { ...UNTYPED, ...splitName(name), typeName: nameOf(XSD, 'anyType') };
}

/** The element of the only part of a fault's message. */
export function faultOf(components: Components, message: Named): ElementDeclaration[] {
	return partsOf(message)
		.slice(0, 1)
		.map((part) => declared(components, message, part));
}

/** Extensions of SOAP in what a binding says of a message, those within MIME included. */
const soapIn = (inside: XmlElement[], local: string): XmlElement[] =>
	inside.filter((one) => soapVersionOf(one) && one.local === local);

function attachmentsIn(mimeParts: XmlElement[]): SoapMessage['attachments'] {
	const types = new Map<string, string[]>();
	for (const one of mimeParts) {
		if (one.namespace !== MIME || one.local !== 'content') continue;
		const part = attributeOf(one, 'part') ?? '';
		types.set(part, [...(types.get(part) ?? []), attributeOf(one, 'type') ?? '*/*']);
	}
	return [...types].map(([part, types]) => ({ part, types }));
}

/**
 * A message as it stands in an envelope.
 * @param extension what the binding says of it
 * @param wrapper the name of the element around the parts of an RPC call; undefined for document style
 */
export function messageOf(
	components: Components,
	message: Named,
	extension: XmlElement | undefined,
	wrapper: string | undefined
): SoapMessage {
	const inMime = extension && childOf(extension, MIME, 'multipartRelated');
	const mimeParts = inMime ? childrenOf(inMime, MIME, 'part').flatMap(elementsOf) : [];
	const inside = [...(extension ? elementsOf(extension) : []), ...mimeParts];
	const [body] = soapIn(inside, 'body');
	const attachments = attachmentsIn(mimeParts);
	const headers: ElementDeclaration[] = [];
	const elsewhere = new Set(attachments.map(({ part }) => part));
	for (const header of soapIn(inside, 'header')) {
		const from = components.find('message', { node: header, path: message.path }, attributeOf(header, 'message'));
		if (!from) continue;
		const name = attributeOf(header, 'part') ?? '';
		if (from.node === message.node) elsewhere.add(name);
		const parts = partsOf(from).filter((part) => part.name === name);
		headers.push(...parts.map((part) => declared(components, from, part)));
	}
	const only = body && attributeOf(body, 'parts')?.split(/\s+/).filter(Boolean);
	const elements = partsOf(message)
		.filter(({ name }) => (!only || only.includes(name)) && !elsewhere.has(name))
		.map((part) => declared(components, message, part));
	const children = wrapper === undefined ? elements : [around(elements, wrapper, body)];
	return { body: children, headers, attachments };
}

/** The element around the parts of an RPC call (SOAP 1.1 section 7.1). */
function around(elements: ElementDeclaration[], local: string, body: XmlElement | undefined): ElementDeclaration {
	const items = elements.map((element): Particle => ({ kind: 'element', min: 1, max: 1, element }));
	return {
		...UNTYPED,
		local,
		namespace: (body && attributeOf(body, 'namespace')) ?? '',
		made: {
			kind: 'complex',
			name: '',
			base: '',
			abstract: false,
			mixed: false,
			content: { kind: 'sequence', min: 1, max: 1, items },
			attributes: [],
			anyAttribute: false,
			doc: ''
		}
	};
}
