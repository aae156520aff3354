import { didYouMean } from '../../messages.ts';
import { isObject, type JsonObject } from '../../model/json.ts';
import { XML_NAMESPACE, type SoapValues, type WrittenEnvelope } from '../envelope.ts';
import type { SoapModel } from '../model.ts';
import { SOAP_ENCODING } from '../schema/index.ts';
import { escapeAttribute, nameOf } from '../tree.ts';
import { writeElement } from './element.ts';
import { writeStranger } from './stranger.ts';
import { Writing, type WriteOptions } from './writing.ts';

export type { WriteOptions } from './writing.ts';

const INDENT = '    ';

/**
 * Writes the envelope of an operation (SOAP 1.1 section 4, SOAP 1.2 part 1 section 5). Elements stand in the order of the
 * schema whatever the order of the values; what does not fit is told, and written all the same where it can be.
 */
export function writeEnvelope(
	model: SoapModel,
	{ values, headers }: SoapValues,
	options: WriteOptions = {}
): WrittenEnvelope {
	const writing = new Writing(model, options, writeElement);
	// written before the envelope around it, so that all prefixes are known
	writeHeaders(writing, model, headers);
	const headerLines = writing.lines.splice(0);
	writeBody(writing, model, values);
	const { lines, prefixes, problems } = writing;
	const numbered = writing.encoded && model.operation.version === '1.1';
	if (numbered) writing.prefixOf(SOAP_ENCODING);
	const declared = [...prefixes]
		.filter(([namespace]) => namespace !== XML_NAMESPACE)
		.map(([namespace, prefix]) => `xmlns:${prefix}="${escapeAttribute(namespace)}"`);
	if (numbered) declared.push(`env:encodingStyle="${SOAP_ENCODING}"`);
	return {
		text: [
			`<env:Envelope ${declared.join(' ')}>`,
			...(headerLines.length > 0 ? ['  <env:Header>', ...headerLines, '  </env:Header>'] : []),
			...(lines.length > 0 ? ['  <env:Body>', ...lines, '  </env:Body>'] : ['  <env:Body/>']),
			'</env:Envelope>'
		].join('\n'),
		problems
	};
}

function writeHeaders(writing: Writing, model: SoapModel, headers: SoapValues['headers']): void {
	const known = model.input.headers;
	for (const [key, value] of Object.entries(headers ?? {})) {
		const one = known.find((entry) => entry.local === key || nameOf(entry.namespace, entry.local) === key);
		if (one) {
			writing.element(one, value, INDENT, ['headers', key]);
			continue;
		}
		const names = known.map(({ local }) => local);
		writing.report(['headers', key], `the definition knows no header ${key}${didYouMean(key, names)}`, true);
		if (writing.options.unknown) writeStranger(writing, key, value, '', INDENT);
	}
}

function writeBody(writing: Writing, model: SoapModel, values: SoapValues['values']): void {
	const { body } = model.input;
	if (body.length === 1) return writing.element(body[0]!, values === undefined ? {} : values, INDENT, []);
	const given = isObject(values) ? (values as JsonObject) : {};
	const names = body.map(({ local }) => local);
	for (const one of body) {
		const key = one.local;
		if (Object.hasOwn(given, key)) writing.element(one, given[key]!, INDENT, [key]);
		else writing.report([key], `${key} is missing`);
	}
	for (const key of Object.keys(given)) {
		if (names.includes(key)) continue;
		if (writing.options.unknown) writeStranger(writing, key, given[key]!, body[0]?.namespace ?? '', INDENT);
		writing.report([key], `there is no element ${key} here${didYouMean(key, names)}`, true);
	}
}
