import { attributeOf, childOf, childrenOf, elementsOf, type XmlElement } from '../tree.ts';
import { actionOf } from './actions.ts';
import { docOf, type Components, type Named } from './components.ts';
import { EMPTY_MESSAGE, faultOf, messageOf } from './messages.ts';
import { wantsOf } from './policies.ts';
import { soapVersionOf, WSDL, type SoapMessage, type SoapOperation } from './types.ts';

const HTTP_TRANSPORTS = ['http://schemas.xmlsoap.org/soap/http', 'http://www.w3.org/2003/05/soap/bindings/HTTP/', ''];

const soapPart = (node: XmlElement, local: string): XmlElement | undefined =>
	elementsOf(node).find((one) => soapVersionOf(one) && one.local === local);

/** A binding as a port offers it. */
interface Offer {
	service: string;
	port: string;
	address: string;
	binding: Named;
	/** What policies of the port ask for. */
	wants: string[];
}

/** The operations that are called by SOAP over HTTP, in the order of services and ports. */
export function operationsOf(components: Components): SoapOperation[] {
	const offers = [...offersOf(components)];
	const offered = new Set(offers.map(({ binding }) => binding.node));
	// what no service offers can be called all the same, at an address of one's own
	for (const binding of components.bindings)
		if (!offered.has(binding.node))
			offers.push({
				service: attributeOf(binding.node, 'name') ?? '',
				...{ port: '', address: '', binding },
				wants: wantsOf(binding.node, components.documents)
			});
	const operations: SoapOperation[] = [];
	for (const offer of offers) readOffer(components, offer, operations);
	return operations;
}

function* offersOf(components: Components): Generator<Offer> {
	for (const { path, root } of components.documents)
		for (const service of childrenOf(root, WSDL, 'service')) {
			const versions = new Set<string>();
			for (const node of childrenOf(service, WSDL, 'port')) {
				const location = soapPart(node, 'address');
				const binding = location && components.find('binding', { node, path }, attributeOf(node, 'binding'));
				if (!binding) continue;
				// a second port of the same version is another service to whoever calls: named by both
				const version = soapVersionOf(location)!;
				const name = attributeOf(service, 'name') ?? '';
				const port = attributeOf(node, 'name') ?? '';
				yield {
					service: versions.has(version) ? `${name}-${port}` : name,
					port,
					address: attributeOf(location, 'location') ?? '',
					binding,
					wants: wantsOf(node, components.documents)
				};
				versions.add(version);
			}
		}
}

function readOffer(components: Components, offer: Offer, operations: SoapOperation[]): void {
	const { binding } = offer;
	const soap = soapPart(binding.node, 'binding');
	if (!soap) return;
	const transport = attributeOf(soap, 'transport') ?? '';
	if (!HTTP_TRANSPORTS.includes(transport)) {
		const name = attributeOf(binding.node, 'name');
		return components.problem(
			binding.path,
			soap,
			`the binding ${name} goes over ${transport}; calls go over HTTP here`
		);
	}
	const portType = components.find('portType', binding, attributeOf(binding.node, 'type'));
	if (!portType) return;
	const wants = [...wantsOf(binding.node, components.documents), ...offer.wants];
	for (const bound of childrenOf(binding.node, WSDL, 'operation')) {
		const abstract = abstractOf(bound, portType);
		if (!abstract) {
			const name = attributeOf(bound, 'name') ?? '';
			components.problem(binding.path, bound, `the operation ${name} is bound and its port type does not have it`);
			continue;
		}
		const read = readOperation(components, { offer, soap, portType, bound, abstract, wants });
		const alike = ({ service, version, name }: SoapOperation) =>
			service === read.service && version === read.version && name === read.name;
		const before = operations.filter(alike).length;
		operations.push(before > 0 ? { ...read, key: `${read.key}-${before + 1}` } : read);
	}
}

/** The operation of the port type that a binding means; of several with one name the one whose input has the same name. */
function abstractOf(bound: XmlElement, portType: Named): XmlElement | undefined {
	const inputOf = (node: XmlElement) => attributeOf(childOf(node, WSDL, 'input') ?? node, 'name');
	const name = attributeOf(bound, 'name') ?? '';
	const all = childrenOf(portType.node, WSDL, 'operation').filter((one) => attributeOf(one, 'name') === name);
	return all.length > 1 ? (all.find((one) => inputOf(one) === inputOf(bound)) ?? all[0]) : all[0];
}

interface BoundOperation {
	offer: Offer;
	/** The extension of the binding. */
	soap: XmlElement;
	portType: Named;
	/** The operation in the binding. */
	bound: XmlElement;
	/** The operation in the port type. */
	abstract: XmlElement;
	wants: string[];
}

function readOperation(components: Components, given: BoundOperation): SoapOperation {
	const { offer, soap, portType, bound, abstract } = given;
	const name = attributeOf(bound, 'name') ?? '';
	const extension = soapPart(bound, 'operation');
	const action = (extension && attributeOf(extension, 'soapAction')) ?? '';
	const rpc = ((extension && attributeOf(extension, 'style')) ?? attributeOf(soap, 'style')) === 'rpc';
	const body = soapPart(childOf(bound, WSDL, 'input') ?? bound, 'body') ?? bound;
	const side = (local: 'input' | 'output'): SoapMessage | undefined => {
		const message = childOf(abstract, WSDL, local);
		if (!message) return undefined;
		const found = components.find('message', { node: message, path: portType.path }, attributeOf(message, 'message'));
		if (!found) return EMPTY_MESSAGE;
		const wrapper = local === 'input' ? name : `${name}Response`;
		return messageOf(components, found, childOf(bound, WSDL, local), rpc ? wrapper : undefined);
	};
	const input = side('input') ?? EMPTY_MESSAGE;
	const faults = childrenOf(abstract, WSDL, 'fault').flatMap((node) => {
		const message = components.find('message', { node, path: portType.path }, attributeOf(node, 'message'));
		return message ? faultOf(components, message) : [];
	});
	return {
		key: `${offer.service}.${name}`,
		name,
		service: offer.service,
		port: offer.port,
		version: soapVersionOf(soap)!,
		address: offer.address,
		action,
		addressingAction: actionOf(components, abstract, portType, 'input', action),
		answerAction: actionOf(components, abstract, portType, 'output', ''),
		style: rpc ? 'rpc' : 'document',
		use: attributeOf(body, 'use') === 'encoded' ? 'encoded' : 'literal',
		namespace: attributeOf(body, 'namespace') ?? '',
		input,
		output: side('output'),
		faults,
		doc: docOf(abstract),
		wants: [...new Set([...given.wants, ...wantsOf(bound, components.documents)])]
	};
}
