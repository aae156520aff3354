import { lookUp } from '../model/lookup.ts';
import type { CheckKind } from './kind.ts';

/** SOAP 1.1 section 4.4 and SOAP 1.2 part 1 section 5.4. */
const PATHS: Record<string, string> = {
	code: "//*[local-name()='Fault']/*[local-name()='faultcode']|//*[local-name()='Fault']/*[local-name()='Code']/*[local-name()='Value']",
	subcode: "//*[local-name()='Fault']/*[local-name()='Code']/*[local-name()='Subcode']/*[local-name()='Value']",
	reason:
		"//*[local-name()='Fault']/*[local-name()='faultstring']|//*[local-name()='Fault']/*[local-name()='Reason']/*[local-name()='Text']",
	detail: "//*[local-name()='Fault']/*[local-name()='detail' or local-name()='Detail']"
};
const PARTS = Object.keys(PATHS);

export const fault: CheckKind<'fault'> = {
	key: 'fault',
	whole: () => true,
	label: 'fault',
	doc: 'A part of the SOAP fault that the reply holds: code, subcode, reason or detail. The prefix of a code is left out.',
	example: { fault: 'code', equals: 'Client' },
	form: 'selector',
	places: PARTS,
	problem: (value) => (PARTS.includes(String(value)) ? undefined : `one of ${PARTS.join(', ')} is wanted`),
	async look({ view }, part = 'code') {
		const found = await view.xpath(lookUp(PATHS, part) ?? PATHS.code!);
		const [first] = Array.isArray(found) ? found : [];
		if (first === undefined) return { found: false, value: undefined };
		const text = first.trim();
		return { found: true, text: true, value: part.endsWith('code') ? text.replace(/^[^:]*:/, '') : text };
	}
};
