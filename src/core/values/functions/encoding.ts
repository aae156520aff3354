import { writeJson } from '../../model/json.ts';
import { base64ToBytes, bytesToBase64, bytesToHex, decodeText, utf8 } from '../bytes.ts';
import { Bytes } from './digest.ts';
import { escapeAddress, escapeForm, unescapeAddress } from '../escape.ts';
import { Raw, type FunctionPorts } from '../scope.ts';
import type { ExpressionFunction } from './kind.ts';

const text = (value: unknown): string => (typeof value === 'string' ? value : writeJson(value));
const bytesIn = (value: unknown): Uint8Array => (value instanceof Bytes ? value.bytes : utf8(text(value)));
function fileBytes(ports: FunctionPorts, path: unknown): Uint8Array {
	const bytes = ports.readFile?.(String(path));
	if (!bytes) throw new Error(`there is no file "${String(path)}" in the project`);
	return bytes;
}

export const encoding: ExpressionFunction[] = [
	{
		name: 'shown',
		takes: ['value'],
		doc: 'The value as it is: what is made with a secret is hidden, and around the whole expression this says that it is none.',
		example: { expression: '$shown($length("abcdef"))', gives: 6 },
		run: (_, value) => value
	},
	{
		name: 'base64',
		takes: ['text'],
		doc: 'Base64 of a text in UTF-8 (RFC 4648 section 4).',
		example: { expression: '$base64("foobar")', gives: 'Zm9vYmFy' },
		run: (_, value) => bytesToBase64(bytesIn(value))
	},
	{
		name: 'base64Decode',
		takes: ['text'],
		doc: 'The text that base64 or base64url stands for.',
		example: { expression: '$base64Decode("Zm9vYmFy")', gives: 'foobar' },
		run: (_, value) => decodeText(base64ToBytes(String(value))).text
	},
	{
		name: 'base64url',
		takes: ['text'],
		doc: 'Base64 for addresses, without padding (RFC 4648 section 5).',
		example: { expression: '$base64url("??>")', gives: 'Pz8-' },
		run: (_, value) => bytesToBase64(bytesIn(value)).replace(/\+/g, '-').replace(/\//g, '_').replace(/=+$/, '')
	},
	{
		name: 'hex',
		takes: ['text'],
		doc: 'The bytes of a text in UTF-8, as hexadecimal.',
		example: { expression: '$hex("foo")', gives: '666f6f' },
		run: (_, value) => bytesToHex(bytesIn(value))
	},
	{
		name: 'urlEncode',
		takes: ['text'],
		doc: 'Percent-encoded (RFC 3986); with "form" as second argument a space becomes a plus.',
		example: { expression: '$urlEncode("a b&c")', gives: 'a%20b%26c' },
		run: (_, value, kind) => (kind === 'form' ? escapeForm(text(value)) : escapeAddress(text(value)))
	},
	{
		name: 'resolve',
		takes: ['reference', 'base'],
		doc: 'The address that a reference, of a Location field for instance, means from a base address on (RFC 3986 section 5).',
		example: {
			expression: '$resolve("/v1/docs/7", "http://localhost:4681/v1")',
			gives: 'http://localhost:4681/v1/docs/7'
		},
		run(_, reference, base) {
			if (reference === undefined || reference === null) return undefined;
			const [to, from] = [text(reference), text(base ?? '')];
			if (!URL.canParse(from)) throw new Error(`$resolve wants an absolute address as its base, and "${from}" is none`);
			if (!URL.canParse(to, from)) throw new Error(`"${to}" leads nowhere from "${from}"`);
			return new URL(to, from).href;
		}
	},
	{
		name: 'canonicalQuery',
		takes: ['query'],
		doc: 'A raw query with its parameters decoded, percent-encoded anew (RFC 3986) and sorted by name, then value.',
		example: { expression: '$canonicalQuery("b=2&a=x%2fy&a=1")', gives: 'a=1&a=x%2Fy&b=2' },
		run: (_, value) =>
			String(value ?? '')
				.replace(/^\?/, '')
				.split('&')
				.filter(Boolean)
				.map((pair) => {
					const at = pair.indexOf('=');
					const [name, rest] = at < 0 ? [pair, ''] : [pair.slice(0, at), pair.slice(at + 1)];
					return [escapeAddress(unescapeAddress(name)), escapeAddress(unescapeAddress(rest))] as const;
				})
				.sort(([a, x], [b, y]) => (a < b ? -1 : a > b ? 1 : x < y ? -1 : x > y ? 1 : 0))
				.map((pair) => pair.join('='))
				.join('&')
	},
	{
		name: 'headerLines',
		takes: ['headers', 'names?'],
		doc: 'Header fields as lines `name:value`, names in small letters and sorted, blanks at the ends taken off; only those named when names are given.',
		example: { expression: '$headerLines({"X-B": " 2 ", "x-a": "1"})', gives: 'x-a:1\nx-b:2' },
		run(_, headers, names) {
			const all = Object.entries((headers ?? {}) as Record<string, unknown>).map(
				([name, value]) => [name.toLowerCase(), String(value).trim().replace(/\s+/g, ' ')] as const
			);
			const wanted =
				names === undefined ? undefined : (Array.isArray(names) ? names : [names]).map((n) => String(n).toLowerCase());
			for (const name of wanted ?? []) {
				if (!all.some(([n]) => n === name)) throw new Error(`the request has no header "${name}"`);
			}
			return all
				.filter(([name]) => !wanted || wanted.includes(name))
				.sort(([a], [b]) => (a < b ? -1 : a > b ? 1 : 0))
				.map(([name, value]) => `${name}:${value}`)
				.join('\n');
		}
	},
	{
		name: 'raw',
		takes: ['text'],
		doc: 'Written as it is, without the escaping of the place where it stands.',
		example: { expression: '$raw("a/b")', gives: new Raw('a/b') },
		run: (_, value) => new Raw(text(value))
	},
	{
		name: 'file',
		takes: ['path'],
		doc: 'The text of a file of the project, by its path from the project’s root.',
		example: { expression: '$file("files/note.txt")', gives: 'A note.' },
		run(ports, path) {
			return decodeText(fileBytes(ports, path)).text;
		}
	},
	{
		name: 'base64File',
		takes: ['path'],
		doc: 'The bytes of a file of the project as Base64.',
		example: { expression: '$base64File("files/note.txt")', gives: 'QSBub3RlLg==' },
		run(ports, path) {
			return bytesToBase64(fileBytes(ports, path));
		}
	}
];
