import { base64ToBytes, bytesToBase64, latin1, unescapeAddress } from '../values/index.ts';

/** One part of a multipart body. */
export interface RelatedPart {
	headers: [string, string][];
	/** Without angle brackets; empty for none. */
	id: string;
	type: string;
	bytes: Uint8Array;
}

/** A message of several parts (RFC 2387). */
export interface Related {
	/** The part that holds the envelope (RFC 2387 section 3.2: `start`, else the first one). */
	root: RelatedPart;
	/** The others, in order. */
	parts: RelatedPart[];
}

const parameter = (type: string, name: string): string | undefined => {
	const found = new RegExp(`;\\s*${name}\\s*=\\s*(?:"((?:[^"\\\\]|\\\\.)*)"|([^;\\s]+))`, 'i').exec(type);
	return found ? (found[1]?.replace(/\\(.)/g, '$1') ?? found[2]) : undefined;
};

/**
 * Takes a multipart/related body apart (RFC 2387, SOAP Messages with Attachments, XOP 1.0).
 * @throws Error in words when it has no boundary, no parts, or no root
 */
export function readRelated(body: Uint8Array, contentType: string): Related {
	const boundary = parameter(contentType, 'boundary');
	if (!boundary) throw new Error('the multipart body names no boundary');
	const text = latin1(body);
	const marker = `--${boundary}`;
	const parts: RelatedPart[] = [];
	let at = text.indexOf(marker);
	while (at >= 0) {
		const begin = at + marker.length;
		if (text.startsWith('--', begin)) break;
		const next = text.indexOf(`\n${marker}`, begin);
		const end = next < 0 ? text.length : text[next - 1] === '\r' ? next - 1 : next;
		const start = text.indexOf('\n', begin) + 1;
		const blank = /\r?\n\r?\n/.exec(text.slice(start - 1, end));
		const headEnd = blank ? start - 1 + blank.index : start - 1;
		const bodyStart = blank ? headEnd + blank[0].length : start;
		const headers = text
			.slice(start, headEnd)
			.replace(/\r?\n[ \t]+/g, ' ')
			.split(/\r?\n/)
			.filter((line) => line.includes(':'))
			.map((line): [string, string] => [
				line.slice(0, line.indexOf(':')).trim(),
				line.slice(line.indexOf(':') + 1).trim()
			]);
		const header = (name: string) => headers.find(([one]) => one.toLowerCase() === name)?.[1] ?? '';
		let bytes = body.subarray(Math.min(bodyStart, end), end);
		if (/^base64$/i.test(header('content-transfer-encoding'))) bytes = base64ToBytes(latin1(bytes).replace(/\s+/g, ''));
		parts.push({
			headers,
			id: header('content-id').replace(/^<|>$/g, ''),
			type: header('content-type') || 'text/plain',
			bytes
		});
		at = next < 0 ? -1 : next + 1;
	}
	if (parts.length === 0) throw new Error('the multipart body has no part');
	const start = parameter(contentType, 'start')?.replace(/^<|>$/g, '');
	const root = start === undefined ? parts[0] : parts.find(({ id }) => id === start);
	if (!root) throw new Error(`the multipart body has no root part: none is called ${start}`);
	return { root, parts: parts.filter((part) => part !== root) };
}

const INCLUDE = /<((?:[\w.-]+:)?)Include\b[^>]*?\bhref\s*=\s*["']cid:([^"']*)["'][^>]*?(?:\/>|>\s*<\/\1Include\s*>)/g;
const LARGEST_INLINE = 1_000_000;

/** An envelope with its XOP references filled in as Base64 (XOP 1.0 section 3.2), as the schema wants it; large ones are left empty. */
export function withoutXop(text: string, parts: RelatedPart[]): string {
	if (!text.includes('http://www.w3.org/2004/08/xop/include')) return text;
	return text.replace(INCLUDE, (found, _prefix, cid: string) => {
		const part = parts.find(({ id }) => id === unescapeAddress(cid));
		if (!part) return found;
		return part.bytes.length > LARGEST_INLINE ? '' : bytesToBase64(part.bytes);
	});
}
