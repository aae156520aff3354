import { HeronError } from '../errors.ts';
import { didYouMean } from '../messages.ts';
import { isObject, type JsonObject } from '../model/json.ts';
import { parseSoap } from '../soap/index.ts';
import { escapeXml, utf8 } from '../values/index.ts';
import type { BodyKind } from './kind.ts';
import { soapType } from './soap.ts';

const FIELDS = ['values', 'headers', 'envelope', 'fault'];
/** What whoever answers adds by himself. */
const ADDED = ['operation', 'version', 'definition'];
const FAULT_FIELDS = ['code', 'reason', 'detail'];

/** The answer of an operation of a WSDL: for what is answered, not for what is sent. */
export const soapAnswer: BodyKind<'soap'> = {
	key: 'soap',
	label: 'SOAP',
	doc: 'The answer of the operation that is asked: values, which are written by its schema; a fault; or the envelope itself.',
	example: { values: { toll: '12.50', currency: 'GBP' } },
	fresh: { values: {} },
	schema: {
		type: 'object',
		properties: {
			values: { description: 'Elements by name, as for a call.' },
			headers: { type: 'object', description: 'Entries of the header by name.' },
			envelope: { type: 'string', description: 'The whole message in place of values.' },
			fault: {
				type: 'object',
				properties: { code: { type: 'string' }, reason: { type: 'string' }, detail: { type: 'object' } },
				additionalProperties: false
			}
		},
		additionalProperties: false
	},
	check(value, report) {
		if (!isObject(value)) return report([], 'values, a fault or an envelope are wanted');
		for (const key of Object.keys(value))
			if (![...FIELDS, ...ADDED].includes(key)) report([key], `unknown key "${key}"${didYouMean(key, FIELDS)}`);
		if (value.headers !== undefined && !isObject(value.headers)) report(['headers'], 'entries by name are wanted');
		if (value.envelope !== undefined && typeof value.envelope !== 'string')
			report(['envelope'], 'the text of the envelope is wanted');
		if (value.fault === undefined) return;
		if (!isObject(value.fault))
			return report(['fault'], 'a fault is wanted, such as { code: Client, reason: No such lock }');
		for (const key of Object.keys(value.fault))
			if (!FAULT_FIELDS.includes(key)) report(['fault', key], `unknown key "${key}"${didYouMean(key, FAULT_FIELDS)}`);
	},
	async build(value, { evaluator, scope, wsdls }) {
		const { operation: name, version, definition, values, headers, envelope } = parseSoap(value);
		const found = wsdls.find(name, version, definition);
		const contentType = soapType({ ...found.operation, action: '' });
		if (envelope !== undefined) return { bytes: utf8(await evaluator.text(envelope, scope, escapeXml)), contentType };
		// schemas and patterns are much code: who answers no envelope needs none of it
		const { parseAnsweredFault, writeAnswer, writeFault } = await import('../soap/answer.ts');
		const fault = isObject(value) ? parseAnsweredFault(value.fault) : undefined;
		const written = fault
			? writeFault(found, parseAnsweredFault(await evaluator.deep(fault as unknown as JsonObject, scope))!)
			: writeAnswer(found, {
					values: await evaluator.deep(values, scope),
					...(headers ? { headers: (await evaluator.deep(headers, scope)) as JsonObject } : {})
				});
		const lost = written.problems.find(({ unknown }) => unknown);
		if (lost) throw new HeronError('definition.value', { name, detail: lost.message });
		return { bytes: utf8(written.text), contentType };
	}
};
