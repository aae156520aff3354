import { parse as parseCsv } from 'csv-parse/browser/esm/sync';
import { parse as parseLossless } from 'lossless-json';
import { formOf } from '../datasets/index.ts';
import { textOf } from '../errors.ts';
import { parseJson, type Json } from '../model/json.ts';
import { isJsonType, isXmlType, mediaType, type HeaderList } from '../model/reply.ts';
import { replyText } from '../model/view.ts';
import { xmlData } from '../model/xml-data.ts';
import { readRelated, type RelatedPart } from '../model/related.ts';
import { readFault, type SoapFault } from '../soap/index.ts';
import { decodeText, latin1 } from '../values/index.ts';

/** What a body is, judged by its type and by how it looks. */
export type BodyForm =
	'json' | 'xml' | 'html' | 'csv' | 'rows' | 'events' | 'multipart' | 'text' | 'picture' | 'pdf' | 'binary';

/** A body that was read. */
export interface ReadBody {
	form: BodyForm;
	/** The media type of the header. */
	type: string;
	/** Empty for what is no text. */
	text: string;
	/** As data, where it can be read as such. */
	data?: Json;
	/** What travels beside the message: attachments of a multipart/related body. */
	parts?: RelatedPart[];
	/** The fault that an envelope holds. */
	fault?: SoapFault;
	/** What people should know: a wrong type, a broken charset, a key that stands twice. */
	notes: string[];
}

/** Up to here keys that stand twice are looked for: it takes ten times as long as reading. */
const TWICE_LIMIT = 4_000_000;

const PICTURES: [RegExp, string][] = [
	[/^\x89PNG/, 'image/png'],
	[/^\xff\xd8\xff/, 'image/jpeg'],
	[/^GIF8/, 'image/gif'],
	[/^RIFF....WEBP/, 'image/webp']
];

/** Reads a body as far as it can be; never throws for what it holds. */
export function readBody(bytes: Uint8Array, headers: HeaderList): ReadBody {
	const { type } = mediaType(headers);
	const notes: string[] = [];
	const head = latin1(bytes.subarray(0, 64));
	const picture = PICTURES.find(([pattern]) => pattern.test(head))?.[1];
	if (picture) {
		if (type && type !== picture) notes.push(`the header says ${type}, and the body is ${picture}`);
		return { form: 'picture', type: picture, text: '', notes };
	}
	if (head.startsWith('%PDF-'))
		return {
			form: 'pdf',
			type,
			text: '',
			notes: type && type !== 'application/pdf' ? [`the header says ${type}`] : []
		};
	const { text, valid, charset } = replyText(bytes, headers);
	const named = mediaType(headers).charset;
	const texty =
		type.startsWith('text/') || isJsonType(type) || isXmlType(type) || /form-urlencoded|javascript|csv/.test(type);
	if (!valid) {
		// bytes that are no text in any charset hold some that no text has
		if (!texty || bytes.subarray(0, 4096).includes(0)) return { form: 'binary', type, text: '', notes };
		notes.push(`some bytes are not ${charset}${named ? ', which the header names' : ''}: they show as �`);
	} else if (!texty && text.includes('\0')) return { form: 'binary', type, text: '', notes };
	if (named && charset !== named.toLowerCase() && !sameCharset(charset, named))
		notes.push(`the charset ${named} is not known: it was read as ${charset}`);
	const body: ReadBody = { form: 'text', type, text, notes };
	if (text.trim() === '') return body;
	if (type === 'image/svg+xml') return { ...body, form: 'picture' };
	if (type === 'multipart/related') {
		const related = withRelated(bytes, headers);
		if (related) return { ...related, notes: [...notes, ...related.notes] };
	}
	if (type.startsWith('multipart/')) return withParts(body, bytes, headers);
	if (type === 'text/event-stream') return { ...body, form: 'events', data: eventsOf(text) };
	if (/ndjson|jsonl|json-seq/.test(type)) return withRows(body);
	if (type === 'text/csv' || type === 'text/tab-separated-values') return withTable(body);
	if (type === 'text/html' || /^\s*<(!doctype html|html)\b/i.test(text)) {
		if (isJsonType(type) || isXmlType(type))
			notes.push(
				`the header says ${type}, ${isJsonType(type) ? 'but the body is not JSON: it is' : 'and the body is'} HTML`
			);
		return { ...body, form: 'html' };
	}
	if (/^\s*</.test(text)) return withXml(body);
	if (isJsonType(type) || /^\s*[[{]/.test(text)) return withJson(body);
	if (isXmlType(type)) notes.push(`the header says ${type}, but the body is not XML`);
	return body;
}

const sameCharset = (a: string, b: string): boolean => {
	try {
		return new TextDecoder(a).encoding === new TextDecoder(b).encoding;
	} catch {
		return false;
	}
};

function withJson(body: ReadBody): ReadBody {
	try {
		const data = parseJson(body.text);
		if (body.type && !isJsonType(body.type)) body.notes.push(`the header says ${body.type}, and the body is JSON`);
		return { ...body, form: 'json', data };
	} catch (error) {
		// one document a line is often sent as if it were one
		const rows = /^\s*\{[^\n]*\}\s*\n\s*\{/.test(body.text) ? withRows(body) : undefined;
		if (rows?.data) return rows;
		if (isJsonType(body.type))
			body.notes.push(`the header says ${body.type}, but the body is not JSON: ${textOf(error)}`);
		return body;
	}
}

/** Keys that stand twice in one object: readers differ in which they take. */
export function keysTwice(text: string): string[] {
	if (text.length > TWICE_LIMIT) return [];
	const found = new Set<string>();
	try {
		parseLossless(text, null, {
			parseNumber: Number,
			onDuplicateKey({ key, newValue }) {
				if (found.size < 5) found.add(key);
				return newValue;
			}
		});
	} catch {
		return [];
	}
	return [...found];
}

function withXml(body: ReadBody): ReadBody {
	try {
		const data = xmlData(body.text);
		if (isJsonType(body.type)) body.notes.push(`the header says ${body.type}, but the body is not JSON: it is XML`);
		else if (body.type && !isXmlType(body.type)) body.notes.push(`the header says ${body.type}, and the body is XML`);
		const fault = readFault(body.text);
		return { ...body, form: 'xml', data, ...(fault ? { fault } : {}) };
	} catch (error) {
		if (isXmlType(body.type))
			body.notes.push(`the header says ${body.type}, but the body is not well-formed XML: ${textOf(error)}`);
		return body;
	}
}

/** One JSON document a line, or each behind a record separator (RFC 7464). */
function withRows(body: ReadBody): ReadBody {
	const rows: Json[] = [];
	let odd = 0;
	for (const line of body.text.replaceAll('\u001e', '\n').split('\n')) {
		if (line.trim() === '') continue;
		try {
			rows.push(parseJson(line));
		} catch {
			odd++;
			rows.push({ line });
		}
	}
	if (odd > 0) body.notes.push(`${odd} of ${rows.length} lines are not JSON`);
	return { ...body, form: 'rows', data: rows };
}

/** The events of a stream (HTML, section 9.2.6). */
function eventsOf(text: string): Json[] {
	const out: Json[] = [];
	for (const block of text.replace(/^\uFEFF/, '').split(/(?:\r\n|\n|\r){2,}/)) {
		const event: { [name: string]: Json } = {};
		const data: string[] = [];
		for (const line of block.split(/\r\n|\n|\r/)) {
			const [, name = '', value = ''] = /^([^:]*)(?:: ?(.*))?$/s.exec(line) ?? [];
			if (name === 'data') data.push(value);
			else if (name === 'event' || name === 'id' || name === 'retry') event[name] = value;
		}
		if (data.length > 0) {
			const joined = data.join('\n');
			try {
				event.data = parseJson(joined);
			} catch {
				event.data = joined;
			}
		}
		if (Object.keys(event).length > 0) out.push(event);
	}
	return out;
}

function withTable(body: ReadBody): ReadBody {
	try {
		const { delimiter } =
			body.type === 'text/tab-separated-values' ? { delimiter: '\t' } : formOf(body.text.slice(0, 20_000));
		const rows = parseCsv(body.text, {
			delimiter,
			columns: true,
			bom: true,
			relax_column_count: true,
			skip_empty_lines: true
		}) as Record<string, string>[];
		return { ...body, form: 'csv', data: rows as Json };
	} catch (error) {
		body.notes.push(`the header says ${body.type}, and the table cannot be read: ${textOf(error)}`);
		return body;
	}
}

/** The message of a multipart/related body, and what travels beside it; undefined when it cannot be taken apart. */
function withRelated(bytes: Uint8Array, headers: HeaderList): ReadBody | undefined {
	const value = headers.find(([name]) => name.toLowerCase() === 'content-type')?.[1] ?? '';
	try {
		const { root, parts } = readRelated(bytes, value);
		const read = readBody(root.bytes, [['content-type', root.type]]);
		return read.form === 'xml' ? { ...read, parts } : undefined;
	} catch {
		return undefined;
	}
}

/** The parts of a multipart body (RFC 2046 section 5.1). */
function withParts(body: ReadBody, bytes: Uint8Array, headers: HeaderList): ReadBody {
	const value = headers.find(([name]) => name.toLowerCase() === 'content-type')?.[1] ?? '';
	const boundary = /boundary="?([^";]+)/i.exec(value)?.[1];
	if (!boundary) {
		body.notes.push('the header names no boundary between the parts');
		return body;
	}
	const plain = latin1(bytes);
	const pieces = plain.split(`--${boundary}`).slice(1);
	const data = pieces.flatMap((piece): Json[] => {
		if (piece.startsWith('--')) return [];
		const at = piece.indexOf('\r\n\r\n');
		const end = at < 0 ? piece.indexOf('\n\n') : at;
		if (end < 0) return [];
		const fields = piece
			.slice(0, end)
			.split(/\r?\n/)
			.flatMap((line) => {
				const colon = line.indexOf(':');
				return colon > 0 ? [[line.slice(0, colon), line.slice(colon + 1).trim()] as [string, string]] : [];
			});
		const raw = piece.slice(end + (at < 0 ? 2 : 4)).replace(/\r?\n$/, '');
		const content = Uint8Array.from(raw, (c) => c.charCodeAt(0));
		const inner = decodeText(content);
		const read = readBody(content, fields);
		return [
			{
				headers: Object.fromEntries(fields),
				size: content.length,
				...(read.data !== undefined ? { data: read.data } : inner.valid ? { text: inner.text } : {})
			}
		];
	});
	if (pieces.length > 0 && !plain.includes(`--${boundary}--`))
		body.notes.push('the last part is not closed: the body ends early');
	return { ...body, form: 'multipart', data };
}

/** Bytes sixteen a line: offset, the bytes, and the letters among them. */
export function hexLines(bytes: Uint8Array, from: number, count: number): string[] {
	const lines: string[] = [];
	for (let at = from * 16; at < bytes.length && lines.length < count; at += 16) {
		const row = bytes.subarray(at, at + 16);
		const hex = Array.from(row, (byte) => byte.toString(16).padStart(2, '0'));
		const left = hex.slice(0, 8).join(' ').padEnd(23);
		const right = hex.slice(8).join(' ').padEnd(23);
		const letters = Array.from(row, (byte) => (byte >= 32 && byte < 127 ? String.fromCharCode(byte) : '·')).join('');
		lines.push(`${at.toString(16).padStart(8, '0')}  ${left}  ${right}  ${letters}`);
	}
	return lines;
}
