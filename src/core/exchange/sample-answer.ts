import { HeronError, textOf } from '../errors.ts';
import { parseJson, type Json } from '../model/json.ts';
import { isJsonType, isXmlType, mediaType, type HeaderList } from '../model/reply.ts';
import { xmlData } from '../model/xml-data.ts';
import { readFault, type SoapFault } from '../soap/index.ts';
import { readFields } from './message.ts';

/** An answer that somebody has as a text: of a document, a log or a colleague. */
export interface SampleAnswer {
	status: number;
	headers: HeaderList;
	/** Data of its body: JSON, or XML as `xmlData` has it. */
	data?: Json;
	fault?: SoapFault;
}

/**
 * Reads an answer: a response as it is sent (RFC 9112: status line, header fields, an empty line, body), or a body alone, in
 * JSON or XML, which is taken for one of status 200.
 * @throws HeronError exchange.none, with what is wrong
 */
export function readSampleAnswer(text: string): SampleAnswer {
	const plain = text.replace(/^\s+/, '');
	if (/^HTTP\//i.test(plain)) {
		const [head = '', ...rest] = plain.split(/\r?\n[ \t]*\r?\n/);
		const [first = '', ...lines] = head.split(/\r?\n/);
		const status = Number(/^HTTP\/[\d.]+\s+([1-9]\d\d)(?:\s.*)?$/i.exec(first)?.[1]);
		if (!status) throw none('the first line is no status line: HTTP/1.1 200 OK');
		const headers = readFields(lines);
		return { status, headers, ...contentOf(rest.join('\n\n'), headers) };
	}
	if (plain.trim() === '') throw none('it is empty');
	const type = plain.startsWith('<') ? 'application/xml' : 'application/json';
	const headers: HeaderList = [['Content-Type', type]];
	return { status: 200, headers, ...contentOf(plain, headers) };
}

const none = (detail: string) => new HeronError('exchange.none', { detail });

function contentOf(text: string, headers: HeaderList): Pick<SampleAnswer, 'data' | 'fault'> {
	const { type } = mediaType(headers);
	try {
		if (text.trim() === '') return {};
		if (isJsonType(type)) return { data: parseJson(text) };
		if (!isXmlType(type)) return {};
		const fault = readFault(text);
		return { data: xmlData(text), ...(fault ? { fault } : {}) };
	} catch (error) {
		throw none(`its body is no ${isJsonType(type) ? 'JSON' : 'XML'}: ${textOf(error)}`);
	}
}
