import { attributeOf, childOf, childrenOf, elementsOf, nameOf, readName, textIn, type XmlElement } from './tree.ts';
import type { ElementDeclaration, SchemaSet } from './schema/index.ts';

const WSDL = 'http://schemas.xmlsoap.org/wsdl/';
const HTTP = 'http://schemas.xmlsoap.org/wsdl/http/';
const MIME = 'http://schemas.xmlsoap.org/wsdl/mime/';
const FORM = 'application/x-www-form-urlencoded';

/** An operation that is called without an envelope (WSDL 1.1 section 4). */
export interface PlainOperation {
	/** `Service.Operation`. */
	key: string;
	name: string;
	service: string;
	method: string;
	/** The address of the port, as the definition gives it. */
	address: string;
	/** Behind the address; `{part}` where a part of the message fills the path. */
	location: string;
	/** How the parts travel; `other` for a body of another kind. */
	how: 'query' | 'path' | 'form' | 'other';
	parts: ElementDeclaration[];
	doc: string;
}

type Documents = readonly { root: XmlElement; namespace: string }[];

/** The operations of HTTP bindings, in the order of services and ports. */
export function plainOperationsOf(documents: Documents, schemas: SchemaSet): PlainOperation[] {
	const named = new Map<string, XmlElement>();
	for (const { root, namespace } of documents)
		for (const node of elementsOf(root))
			if (node.namespace === WSDL && attributeOf(node, 'name'))
				named.set(`${node.local} ${nameOf(namespace, attributeOf(node, 'name')!)}`, node);
	const find = (kind: string, at: XmlElement, text: string | undefined) =>
		named.get(`${kind} ${readName(at, text ?? '')}`);

	const partsOf = (message: XmlElement): ElementDeclaration[] =>
		childrenOf(message, WSDL, 'part').map((part) => {
			const element = attributeOf(part, 'element');
			const declared = element === undefined ? undefined : schemas.element(readName(part, element));
			const typeName = declared?.typeName ?? readName(part, attributeOf(part, 'type') ?? '');
			const plain = { nillable: false, abstract: false, doc: '', global: false };
			return { ...plain, ...(declared ?? {}), local: attributeOf(part, 'name') ?? '', namespace: '', typeName };
		});

	const operationOf = (
		node: XmlElement,
		portType: XmlElement,
		shape: Pick<PlainOperation, 'service' | 'method' | 'address'>
	): PlainOperation | undefined => {
		const name = attributeOf(node, 'name') ?? '';
		const abstract = childrenOf(portType, WSDL, 'operation').find((one) => attributeOf(one, 'name') === name);
		if (!abstract) return undefined;
		const input = childOf(node, WSDL, 'input');
		const given = childOf(abstract, WSDL, 'input');
		const message = given && find('message', given, attributeOf(given, 'message'));
		const inside = input ? elementsOf(input) : [];
		const has = (namespace: string, local: string) =>
			inside.some((one) => one.namespace === namespace && one.local === local);
		const isForm = inside.some((one) => one.namespace === MIME && attributeOf(one, 'type') === FORM);
		const extension = elementsOf(node).find((one) => one.namespace === HTTP && one.local === 'operation');
		const doc = childOf(abstract, WSDL, 'documentation');
		const how = has(HTTP, 'urlReplacement') ? 'path' : has(HTTP, 'urlEncoded') ? 'query' : isForm ? 'form' : 'other';
		const location = ((extension && attributeOf(extension, 'location')) ?? '').trim();
		return {
			...shape,
			key: `${shape.service}.${name}`,
			name,
			// section 4.6: the names of parts in parentheses
			location: how === 'path' ? location.replace(/\(([^()]+)\)/g, '{$1}') : location,
			how,
			parts: message ? partsOf(message) : [],
			doc: doc ? textIn(doc).replace(/\s+/g, ' ').trim() : ''
		};
	};

	return documents.flatMap(({ root }) =>
		childrenOf(root, WSDL, 'service').flatMap((service) =>
			childrenOf(service, WSDL, 'port').flatMap((port) => {
				const binding = find('binding', port, attributeOf(port, 'binding'));
				const place = elementsOf(port).find((one) => one.namespace === HTTP && one.local === 'address');
				const way = binding && elementsOf(binding).find((one) => one.namespace === HTTP && one.local === 'binding');
				const portType = binding && find('portType', binding, attributeOf(binding, 'type'));
				if (!binding || !way || !portType) return [];
				const shape = {
					service: attributeOf(service, 'name') ?? '',
					method: (attributeOf(way, 'verb') ?? 'GET').toUpperCase(),
					address: (place && attributeOf(place, 'location')) ?? ''
				};
				return childrenOf(binding, WSDL, 'operation').flatMap((node) => operationOf(node, portType, shape) ?? []);
			})
		)
	);
}
