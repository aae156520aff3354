import { HeronError } from '../errors.ts';
import { isObject, type Json } from '../model/json.ts';
import { didYouMean } from '../messages.ts';
import { bytesToHex, joinBytes, utf8 } from '../values/index.ts';
import { file } from './file.ts';
import { json } from './json.ts';
import type { BodyKind, BodyTools } from './kind.ts';
import { text, xml } from './text.ts';

const contents = [text, json, xml, file];
const KEYS = ['name', ...contents.map((kind) => kind.key), 'type', 'filename', 'headers', 'off'];

/** RFC 7578 section 2 and the URL Standard: quotes and line breaks in a name are percent-encoded. */
const quoted = (value: string): string =>
	`"${value.replace(/["\r\n]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase().padStart(2, '0'))}"`;

function plainHeader(where: string, name: string, value: string): string {
	if (/[\r\n\0]/.test(value + name)) throw new HeronError('value.header', { where, name });
	return value;
}

async function part(value: Json, tools: BodyTools): Promise<Uint8Array[]> {
	const spec = value as Record<string, Json>;
	const { evaluator, scope } = tools;
	const content = contents.find((kind) => Object.hasOwn(spec, kind.key)) ?? text;
	const written = spec[content.key] ?? '';
	const built = await content.build(content === text ? String(written) : written, tools);
	const name = await evaluator.text(String(spec.name), scope);
	let disposition = `form-data; name=${quoted(name)}`;
	const path = content === file ? evaluator.bare(await evaluator.text(String(written), scope)) : '';
	const filename =
		spec.filename === undefined ? path.split('/').pop() : await evaluator.text(String(spec.filename), scope);
	if (filename) disposition += `; filename=${quoted(filename)}`;
	const type =
		spec.type === undefined
			? content === text
				? ''
				: built.contentType
			: await evaluator.text(String(spec.type), scope);
	let head = `Content-Disposition: ${disposition}\r\n`;
	if (type) head += `Content-Type: ${plainHeader('the type of part', name, type)}\r\n`;
	for (const [header, raw] of Object.entries((spec.headers ?? {}) as Record<string, Json>)) {
		head += `${header}: ${plainHeader('the header of a part', header, await evaluator.text(String(raw), scope))}\r\n`;
	}
	return [utf8(`${head}\r\n`), built.bytes];
}

export const multipart: BodyKind<'multipart'> = {
	key: 'multipart',
	label: 'multipart',
	doc: 'Parts as multipart/form-data (RFC 7578), each a text, JSON, XML or a file with a type of its own.',
	example: [
		{ name: 'details', json: { boat: 'Slow Tide' } },
		{ name: 'scan', file: 'files/permit.pdf', type: 'application/pdf' }
	],
	fresh: [{ name: 'part', text: '' }],
	files: (parts) =>
		Array.isArray(parts)
			? parts.flatMap((part) => (isObject(part) && typeof part.file === 'string' ? [part.file] : []))
			: [],
	schema: {
		type: 'array',
		items: {
			type: 'object',
			required: ['name'],
			properties: {
				name: { type: 'string' },
				text: { type: ['string', 'number', 'boolean'] },
				json: {},
				xml: { type: 'string' },
				file: { type: 'string' },
				type: { type: 'string' },
				filename: { type: 'string' },
				headers: { type: 'object' },
				off: { type: 'boolean' }
			},
			additionalProperties: false
		}
	},
	check(value, report) {
		if (!Array.isArray(value)) return report([], 'a list of parts is wanted, each with a name');
		value.forEach((item: unknown, index) => {
			if (!isObject(item)) return report([index], 'a part is wanted: a name, and text, json, xml or file');
			if (typeof item.name !== 'string' || !item.name) report([index], 'the part has no name');
			for (const key of Object.keys(item)) {
				if (!KEYS.includes(key)) report([index, key], `unknown key "${key}"${didYouMean(key, KEYS)}`);
			}
			const given = contents.filter((kind) => Object.hasOwn(item, kind.key));
			if (given.length !== 1) report([index], `a part has exactly one of ${contents.map((k) => k.key).join(', ')}`);
			for (const kind of given) {
				if (kind !== text) kind.check(item[kind.key], (at, message) => report([index, kind.key, ...at], message));
			}
		});
	},
	async build(value, tools) {
		const boundary = `heron-${bytesToHex(tools.randomBytes(12))}`;
		const chunks: Uint8Array[] = [];
		for (const item of value as Json[]) {
			if ((item as { off?: boolean }).off) continue;
			chunks.push(utf8(`--${boundary}\r\n`), ...(await part(item, tools)), utf8('\r\n'));
		}
		chunks.push(utf8(`--${boundary}--\r\n`));
		return { bytes: joinBytes(chunks), contentType: `multipart/form-data; boundary=${boundary}` };
	}
};
