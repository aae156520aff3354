import { openEnvelope } from './contract.ts';
import type { SoapVersion } from './wsdl/index.ts';
import { prettyXml } from './pretty.ts';
import { attributeOf, elementsOf, standAlone, textIn, type XmlElement } from './tree.ts';

/** A fault as the standards have it (SOAP 1.1 section 4.4, SOAP 1.2 part 1 section 5.4). */
export interface SoapFault {
	version: SoapVersion;
	/** Without prefix. */
	code: string;
	/** From the outer to the inner; SOAP 1.2, and codes with dots of 1.1. */
	subcodes: string[];
	reasons: { language: string; text: string }[];
	/** Where on the way it happened. */
	node: string;
	role: string;
	/** The entries of its detail as they stand in the text. */
	detail: string[];
}

const plain = (text: string): string => text.trim().replace(/^[^:]*:/, '');
const XML = 'http://www.w3.org/XML/1998/namespace';

/** The fault that an envelope holds; undefined when it holds none, or when it is no envelope. */
export function readFault(text: string): SoapFault | undefined {
	if (!/Fault/.test(text)) return undefined;
	let opened: ReturnType<typeof openEnvelope>;
	try {
		opened = openEnvelope(text);
	} catch {
		return undefined;
	}
	const { version, root, body } = opened;
	const fault = body.find((one) => one.local === 'Fault' && one.namespace === root.namespace);
	if (!fault) return undefined;
	const child = (at: XmlElement | undefined, local: string) => at && elementsOf(at).find((one) => one.local === local);
	const own = (local: string) => textIn(child(fault, local) ?? { ...fault, children: [] }).trim();
	const detail = child(fault, version === '1.1' ? 'detail' : 'Detail');
	const pieces = detail ? elementsOf(detail).map((one) => prettyXml(standAlone(one, text))) : [];
	if (version === '1.1') {
		const [code = '', ...subcodes] = plain(own('faultcode')).split('.');
		const string = child(fault, 'faultstring');
		const language = (string && attributeOf(string, 'lang', XML)) ?? '';
		return {
			version,
			code,
			subcodes,
			reasons: [{ language, text: own('faultstring') }],
			node: '',
			role: own('faultactor'),
			detail: pieces
		};
	}
	const codes: string[] = [];
	for (let at = child(fault, 'Code'); at; at = child(at, 'Subcode'))
		codes.push(plain(textIn(child(at, 'Value') ?? { ...at, children: [] })));
	const reason = child(fault, 'Reason');
	return {
		version,
		code: codes[0] ?? '',
		subcodes: codes.slice(1),
		reasons: (reason ? elementsOf(reason) : []).map((one) => ({
			language: attributeOf(one, 'lang', XML) ?? '',
			text: textIn(one).trim()
		})),
		node: own('Node'),
		role: own('Role'),
		detail: pieces
	};
}
