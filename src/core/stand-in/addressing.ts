import { lookUp } from '../model/lookup.ts';
import { inHeader } from '../bodies/index.ts';
import { headerValue } from '../model/reply.ts';
import {
	attributeOf,
	elementsOf,
	escapeAttribute,
	escapeText,
	openEnvelope,
	readFault,
	standAlone,
	textIn,
	type FoundOperation,
	type XmlElement
} from '../soap/index.ts';
import { latin1, latin1Bytes, utf8, uuidOf } from '../values/index.ts';
import type { Reading } from './asked.ts';
import type { Outgoing } from './ports.ts';
import type { Made, Work } from './work.ts';

/** WS-Addressing 1.0, and the submission that came before it, with what stands for *in the same connection*. */
const ANONYMOUS: Record<string, string> = {
	'http://www.w3.org/2005/08/addressing': 'http://www.w3.org/2005/08/addressing/anonymous',
	'http://schemas.xmlsoap.org/ws/2004/08/addressing': 'http://schemas.xmlsoap.org/ws/2004/08/addressing/role/anonymous'
};
const NONE = 'http://www.w3.org/2005/08/addressing/none';

/** An answer, and where it goes when it does not go back in its connection. */
export interface Addressed {
	made: Made;
	/** As a call of its own, or nowhere at all. */
	elsewhere?: { to: string; outgoing?: Outgoing };
}

/**
 * An answer to a message of WS-Addressing: it says to which message it relates, and goes where ReplyTo or FaultTo have it
 * (Core section 3.4, SOAP Binding section 5.1). What is asked without WS-Addressing is answered without it.
 */
export function addressed(made: Made, found: FoundOperation, reading: Reading, { ports }: Work): Addressed {
	const text = reading.view.message;
	const entries = openEnvelope(text).header.filter(({ namespace }) => lookUp(ANONYMOUS, namespace));
	const namespace = entries[0]?.namespace ?? '';
	const entry = (local: string) => entries.find((one) => one.local === local);
	const envelope = latin1(made.body);
	// what the file wrote itself stays as it is
	if (entries.length === 0 || !/<(?:[\w.-]+:)?Envelope\b/.test(envelope) || /<(?:[\w.-]+:)?RelatesTo\b/.test(envelope))
		return { made };
	const failed = readFault(new TextDecoder().decode(made.body)) !== undefined;
	const target = (failed && entry('FaultTo')) || entry('ReplyTo');
	const part = (local: string) =>
		target && elementsOf(target).find((one) => one.local === local && one.namespace === namespace);
	const address = part('Address');
	const to = address ? textIn(address).trim() : '';
	const elsewhere = to !== '' && to !== lookUp(ANONYMOUS, namespace);
	const field = (name: string, value: string) =>
		`<wsa:${name} xmlns:wsa="${namespace}">${escapeText(value)}</wsa:${name}>`;
	const id = entry('MessageID');
	const parameters = part('ReferenceParameters');
	const header = [
		...(elsewhere ? [field('To', to)] : []),
		field('Action', failed ? `${namespace}/soap/fault` : found.operation.answerAction),
		field('MessageID', `urn:uuid:${uuidOf(ports.randomBytes(16))}`),
		...(id ? [field('RelatesTo', textIn(id).trim())] : []),
		...(elsewhere && parameters ? elementsOf(parameters) : []).map((one) => referenceParameter(one, text, namespace))
	];
	const body = latin1Bytes(
		inHeader(
			envelope,
			header.map((one) => latin1(utf8(one)))
		)
	);
	const whole = { ...made, body };
	if (!elsewhere) return { made: whole };
	if (to === NONE) return { made: whole, elsewhere: { to } };
	const type = headerValue(made.headers, 'content-type') ?? 'text/xml; charset=utf-8';
	const action: [string, string][] = found.operation.version === '1.1' ? [['SOAPAction', '""']] : [];
	return {
		made: whole,
		elsewhere: { to, outgoing: { method: 'POST', url: to, headers: [['Content-Type', type], ...action], body } }
	};
}

/** What the caller wanted to have back, as it was given (SOAP Binding section 3.3). */
function referenceParameter(element: XmlElement, text: string, namespace: string): string {
	if (attributeOf(element, 'IsReferenceParameter', namespace)) return standAlone(element, text);
	return standAlone(element, text).replace(
		/^<[^\s/>]+/,
		// a prefix that the element has not bound to something else
		(open) => `${open} xmlns:_rp="${escapeAttribute(namespace)}" _rp:IsReferenceParameter="true"`
	);
}
