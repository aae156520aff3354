import { escapeXml } from '../values/index.ts';
import type { Json } from '../model/json.ts';
import { isObject, type JsonObject } from '../model/json.ts';
import { ENVELOPE, type SoapValues, type WrittenEnvelope } from './envelope.ts';
import { modelOf, type SoapModel } from './model.ts';
import type { FoundOperation } from './registry.ts';
import { writeEnvelope } from './write/index.ts';
import type { SoapMessage, SoapOperation, SoapVersion } from './wsdl/index.ts';

/** A fault that is answered (SOAP 1.1 section 4.4, SOAP 1.2 part 1 section 5.4). */
export interface AnsweredFault {
	/** Without prefix: `Client` and `Server`, or `Sender` and `Receiver`; those of the other version are translated. */
	code: string;
	reason: string;
	/** What is said more exactly by a name of another standard. */
	subcode?: { namespace: string; local: string };
	/** Values of one of the faults that the operation declares, by the name of its element. */
	detail?: JsonObject;
}

const models = new WeakMap<SoapMessage | object, SoapModel>();
const kept = (key: object, make: () => SoapModel): SoapModel => {
	let model = models.get(key);
	if (!model) models.set(key, (model = make()));
	return model;
};
const NOTHING: SoapMessage = { body: [], headers: [], attachments: [] };

/** What is to be known for writing the answer of an operation; its `input` is what is answered. */
export const answerModel = ({ definition, operation }: FoundOperation): SoapModel =>
	kept(operation.output ?? operation, () =>
		modelOf(definition, { ...operation, input: operation.output ?? NOTHING } satisfies SoapOperation)
	);

/** Writes the answer of an operation by its schema. */
export const writeAnswer = (found: FoundOperation, values: SoapValues): WrittenEnvelope =>
	writeEnvelope(answerModel(found), values);

const CODES: Record<SoapVersion, Record<string, string>> = {
	'1.1': { Sender: 'Client', Receiver: 'Server' },
	'1.2': { Client: 'Sender', Server: 'Receiver' }
};

/** A fault as an envelope; of a detail that the operation declares the element is written by its schema. */
export function writeFault(found: FoundOperation, { code, reason, detail, subcode }: AnsweredFault): WrittenEnvelope {
	const { version } = found.operation;
	const own = escapeXml(CODES[version][code] ?? code);
	const entries: string[] = [];
	const problems: WrittenEnvelope['problems'] = [];
	for (const [name, value] of Object.entries(detail ?? {})) {
		const declared = found.operation.faults.find(({ local }) => local === name);
		if (!declared) {
			const known = found.operation.faults.map(({ local }) => local).join(', ') || 'none';
			problems.push({
				path: ['detail', name],
				message: `it declares no fault ${name}; declared: ${known}`,
				unknown: true
			});
			continue;
		}
		const model = kept(declared, () =>
			modelOf(found.definition, { ...found.operation, style: 'document', input: { ...NOTHING, body: [declared] } })
		);
		const written = writeEnvelope(model, { values: (value ?? {}) as Json });
		problems.push(...written.problems);
		entries.push(pieceOf(written.text));
	}
	const inner = entries.join('\n');
	const more = subcode
		? { name: `sub:${subcode.local}`, own: ` xmlns:sub="${escapeXml(subcode.namespace)}"` }
		: undefined;
	const fault =
		version === '1.1'
			? `<faultcode${more?.own ?? ''}>${more?.name ?? `env:${own}`}</faultcode><faultstring>${escapeXml(reason)}</faultstring>${inner && `<detail>${inner}</detail>`}`
			: `<env:Code><env:Value>env:${own}</env:Value>${more ? `<env:Subcode><env:Value${more.own}>${more.name}</env:Value></env:Subcode>` : ''}</env:Code><env:Reason><env:Text xml:lang="en">${escapeXml(reason)}</env:Text></env:Reason>${inner && `<env:Detail>${inner}</env:Detail>`}`;
	return {
		text: `<?xml version="1.0" encoding="UTF-8"?>\n<env:Envelope xmlns:env="${ENVELOPE[version]}"><env:Body><env:Fault>${fault}</env:Fault></env:Body></env:Envelope>`,
		problems
	};
}

/** What the body of a written envelope holds, with the prefixes that its envelope declares. */
function pieceOf(text: string): string {
	const declared = /<env:Envelope([^>]*)>/.exec(text)?.[1] ?? '';
	const inner = /<env:Body>([\s\S]*)<\/env:Body>/.exec(text)?.[1]?.trim() ?? '';
	const namespaces = declared.replace(/\s+xmlns:env="[^"]*"/, '').trim();
	return namespaces ? inner.replace(/^<([^\s/>]+)/, (open) => `${open} ${namespaces}`) : inner;
}

/** Reads a fault as it is written in a file. */
export function parseAnsweredFault(value: unknown): AnsweredFault | undefined {
	if (!isObject(value)) return undefined;
	return {
		code: String(value.code ?? 'Server'),
		reason: String(value.reason ?? 'It failed'),
		...(isObject(value.detail) ? { detail: value.detail as JsonObject } : {})
	};
}
