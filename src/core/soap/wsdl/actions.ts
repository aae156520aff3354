import { attributeOf, childOf, type XmlElement } from '../tree.ts';
import type { Components, Named } from './components.ts';
import { WSDL } from './types.ts';

/** WS-Addressing 1.0 Metadata, and WSDL Binding before it. */
const ADDRESSING_METADATA = [
	'http://www.w3.org/2007/05/addressing/metadata',
	'http://www.w3.org/2006/05/addressing/wsdl',
	'http://www.w3.org/2006/02/addressing/wsdl'
];

/**
 * What WS-Addressing calls a message: said by the port type, else by SOAP, else made of names (WS-Addressing 1.0 Metadata
 * sections 4.4.1, 4.4.3 and 4.4.4).
 */
export function actionOf(
	{ documents }: Components,
	operation: XmlElement,
	portType: Named,
	side: 'input' | 'output',
	soapAction: string
): string {
	const given = childOf(operation, WSDL, side);
	const said = given?.attributes.find(
		({ local, namespace }) => local === 'Action' && ADDRESSING_METADATA.includes(namespace)
	);
	if (said) return said.value;
	if (soapAction) return soapAction;
	const namespace = documents.find(({ path }) => path === portType.path)?.namespace ?? '';
	const between = /^urn:/i.test(namespace) ? ':' : '/';
	const name = attributeOf(operation, 'name') ?? '';
	// WSDL 1.1 section 2.4.5
	const asks = childOf(operation, WSDL, 'output') ? `${name}Request` : name;
	const usual = side === 'input' ? asks : `${name}Response`;
	const message = (given && attributeOf(given, 'name')) ?? usual;
	return [namespace.replace(/\/$/, ''), attributeOf(portType.node, 'name') ?? '', message].join(between);
}
