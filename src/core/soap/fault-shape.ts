import { ENVELOPE, XML_NAMESPACE } from './envelope.ts';
import { elementsOf, nameOf, readName, splitName, type XmlElement } from './tree.ts';
import type { SoapOperation, SoapVersion } from './wsdl/index.ts';

/** Something that is said of a part of a fault. */
export interface Said {
	message: string;
	element: XmlElement;
}

/** The five codes of SOAP 1.2 part 1 section 5.4.6. */
const CODES = ['VersionMismatch', 'MustUnderstand', 'DataEncodingUnknown', 'Sender', 'Receiver'];

/** What a fault consists of, in order (SOAP 1.1 section 4.4, SOAP 1.2 part 1 section 5.4). */
const PARTS: Record<SoapVersion, { name: string; needed: boolean }[]> = {
	'1.1': [
		{ name: 'faultcode', needed: true },
		{ name: 'faultstring', needed: true },
		{ name: 'faultactor', needed: false },
		{ name: 'detail', needed: false }
	],
	'1.2': [
		{ name: 'Code', needed: true },
		{ name: 'Reason', needed: true },
		{ name: 'Node', needed: false },
		{ name: 'Role', needed: false },
		{ name: 'Detail', needed: false }
	]
};

const partsIn = (fault: XmlElement, version: SoapVersion): XmlElement[] => {
	// BP 1.1 R1001: what a fault of 1.1 consists of is in no namespace
	const namespace = version === '1.1' ? '' : ENVELOPE['1.2'];
	return elementsOf(fault).filter((one) => one.namespace === namespace);
};

/** What in a fault is not as its version of SOAP has it. */
export function faultShape(fault: XmlElement, version: SoapVersion): Said[] {
	const said: Said[] = [];
	const say = (message: string, element = fault) => void said.push({ message, element });
	const own = partsIn(fault, version);
	const known = PARTS[version];
	for (const one of elementsOf(fault))
		if (!own.includes(one) || !known.some(({ name }) => name === one.local))
			say(
				`a fault of SOAP ${version} has no ${one.local}${one.namespace && !own.includes(one) ? ` in the namespace ${one.namespace}` : ''}`,
				one
			);
	for (const { name, needed } of known)
		if (needed && !own.some(({ local }) => local === name)) say(`the fault has no ${name}`);
	const order = own.map(({ local }) => known.findIndex(({ name }) => name === local)).filter((at) => at >= 0);
	if (order.some((at, index) => index > 0 && at <= order[index - 1]!))
		say(`the parts of a fault are in this order: ${known.map(({ name }) => name).join(', ')}`);
	if (version === '1.2') modernShape(own, say);
	return said;
}

function modernShape(parts: XmlElement[], say: (message: string, element?: XmlElement) => void): void {
	const inside = (element: XmlElement | undefined, local: string) =>
		element && elementsOf(element).find((one) => one.local === local && one.namespace === ENVELOPE['1.2']);
	const code = parts.find(({ local }) => local === 'Code');
	const value = inside(code, 'Value');
	if (code && !value) say('the Code of the fault has no Value', code);
	if (value) {
		const { namespace, local } = splitName(readName(value, textOf(value).trim()));
		if (namespace !== ENVELOPE['1.2'] || !CODES.includes(local))
			say(`${textOf(value).trim() || 'nothing'} is no code of SOAP 1.2: ${CODES.join(', ')} are`, value);
	}
	const reason = parts.find(({ local }) => local === 'Reason');
	const text = inside(reason, 'Text');
	if (reason && !text) say('the Reason of the fault has no Text', reason);
	if (text && !text.attributes.some(({ local, namespace }) => local === 'lang' && namespace === XML_NAMESPACE))
		say('the Text of a Reason has to say its language: xml:lang', text);
}

const textOf = (element: XmlElement): string =>
	element.children.filter((one): one is string => typeof one === 'string').join('');

/** Its detail, when there is one. */
const detailOf = (fault: XmlElement): XmlElement | undefined =>
	elementsOf(fault).find(({ local }) => local === 'detail' || local === 'Detail');

/** What a fault says, for people: `Client: too long`. */
function spoken(fault: XmlElement): string {
	const deep = (element: XmlElement): XmlElement[] => [element, ...elementsOf(element).flatMap(deep)];
	const all = deep(fault);
	const first = (...names: string[]) => all.find(({ local }) => names.includes(local));
	const code = first('faultcode', 'Value');
	const reason = first('faultstring', 'Text');
	return [code && textOf(code).trim().replace(/^.*:/, ''), reason && textOf(reason).trim()].filter(Boolean).join(': ');
}

/**
 * Elements of a fault's detail that the operation declares, and what it says otherwise than declared: a fault that the
 * operation does not declare does not fit, though any service may send one.
 */
export function declaredDetail(fault: XmlElement, operation: SoapOperation): { declared: XmlElement[]; said: Said[] } {
	const detail = detailOf(fault);
	const inside = detail ? elementsOf(detail) : [];
	const names = operation.faults.map(({ namespace, local }) => nameOf(namespace, local));
	const declared = inside.filter(({ namespace, local }) => names.includes(nameOf(namespace, local)));
	if (declared.length > 0) return { declared, said: [] };
	const known = [...new Set(operation.faults.map(({ local }) => local))].join(', ') || 'none';
	const held = inside.length > 0 ? `, with ${inside.map(({ local }) => local).join(', ')} in its detail` : '';
	const words = spoken(fault);
	return {
		declared,
		said: [
			{
				message: `the answer is a fault that ${operation.name} does not declare${words ? ` (${words})` : ''}${held}; declared: ${known}`,
				element: fault
			}
		]
	};
}

/** What the status of an answer says otherwise than its envelope (BP 1.1 and 1.2 R1124 and R1126, SOAP 1.2 part 2 section 7.5.2). */
export function statusFault(status: number, isFault: boolean, version: SoapVersion): string | undefined {
	if (!isFault)
		return status >= 200 && status < 300
			? undefined
			: `status ${status} goes with a fault, and the envelope holds none`;
	if (version === '1.1') return status === 500 ? undefined : `a fault is sent with status 500, and this is ${status}`;
	return status >= 400 ? undefined : `a fault is sent with status 400 or 500, and this is ${status}`;
}
