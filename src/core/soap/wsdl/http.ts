import type { ElementDeclaration, SchemaSet } from '../schema/index.ts';
import { attributeOf, childOf, childrenOf, elementsOf, readName, type XmlElement } from '../tree.ts';
import { docOf, type Components } from './components.ts';
import { MIME, WSDL, type PlainOperation } from './types.ts';

const HTTP = 'http://schemas.xmlsoap.org/wsdl/http/';
const FORM = 'application/x-www-form-urlencoded';

/** The operations of HTTP bindings, in the order of services and ports. */
export const plainOperationsOf = (components: Components): PlainOperation[] =>
	components.documents.flatMap(({ root }) =>
		childrenOf(root, WSDL, 'service').flatMap((service) =>
			childrenOf(service, WSDL, 'port').flatMap((port) => operationsOfPort(components, service, port))
		)
	);

const httpPart = (node: XmlElement, local: string): XmlElement | undefined =>
	elementsOf(node).find((one) => one.namespace === HTTP && one.local === local);

function operationsOfPort(components: Components, service: XmlElement, port: XmlElement): PlainOperation[] {
	const binding = components.lookUp('binding', port, attributeOf(port, 'binding'))?.node;
	const extension = binding && httpPart(binding, 'binding');
	const portType = binding && components.lookUp('portType', binding, attributeOf(binding, 'type'))?.node;
	if (!binding || !extension || !portType) return [];
	const place = httpPart(port, 'address');
	const shape = {
		service: attributeOf(service, 'name') ?? '',
		method: (attributeOf(extension, 'verb') ?? 'GET').toUpperCase(),
		address: (place && attributeOf(place, 'location')) ?? ''
	};
	return childrenOf(binding, WSDL, 'operation').flatMap((bound) => {
		const abstract = childrenOf(portType, WSDL, 'operation').find(
			(one) => attributeOf(one, 'name') === attributeOf(bound, 'name')
		);
		return abstract ? [readOperation(components, shape, bound, abstract)] : [];
	});
}

function readOperation(
	{ lookUp, schemas }: Components,
	shape: Pick<PlainOperation, 'service' | 'method' | 'address'>,
	bound: XmlElement,
	abstract: XmlElement
): PlainOperation {
	const name = attributeOf(bound, 'name') ?? '';
	const given = childOf(abstract, WSDL, 'input');
	const message = given && lookUp('message', given, attributeOf(given, 'message'));
	const how = howOf(childOf(bound, WSDL, 'input'));
	const extension = httpPart(bound, 'operation');
	const location = ((extension && attributeOf(extension, 'location')) ?? '').trim();
	return {
		...shape,
		key: `${shape.service}.${name}`,
		name,
		// section 4.6: the names of parts in parentheses
		location: how === 'path' ? location.replace(/\(([^()]+)\)/g, '{$1}') : location,
		how,
		parts: message ? partsOf(schemas, message.node) : [],
		doc: docOf(abstract)
	};
}

function howOf(input: XmlElement | undefined): PlainOperation['how'] {
	if (!input) return 'other';
	if (httpPart(input, 'urlReplacement')) return 'path';
	if (httpPart(input, 'urlEncoded')) return 'query';
	const isForm = elementsOf(input).some((one) => one.namespace === MIME && attributeOf(one, 'type') === FORM);
	return isForm ? 'form' : 'other';
}

const partsOf = (schemas: SchemaSet, message: XmlElement): ElementDeclaration[] =>
	childrenOf(message, WSDL, 'part').map((part) => {
		const element = attributeOf(part, 'element');
		const declared = element === undefined ? undefined : schemas.element(readName(part, element));
		const typeName = declared?.typeName ?? readName(part, attributeOf(part, 'type') ?? '');
		const plain = { nillable: false, abstract: false, doc: '', global: false };
		return { ...plain, ...(declared ?? {}), local: attributeOf(part, 'name') ?? '', namespace: '', typeName };
	});
