import { base64ToBytes, bytesToBase64, bytesToHex, decodeText, utf8 } from '../bytes.ts';
import { escapeAddress, escapeForm } from '../escape.ts';
import { Raw } from '../scope.ts';
import type { ExpressionFunction } from './kind.ts';

const text = (value: unknown): string => (typeof value === 'string' ? value : JSON.stringify(value));

export const encoding: ExpressionFunction[] = [
	{
		name: 'base64',
		takes: ['text'],
		doc: 'Base64 of a text in UTF-8 (RFC 4648 section 4).',
		example: { expression: '$base64("foobar")', gives: 'Zm9vYmFy' },
		run: (_, value) => bytesToBase64(utf8(text(value)))
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
		run: (_, value) =>
			bytesToBase64(utf8(text(value)))
				.replace(/\+/g, '-')
				.replace(/\//g, '_')
				.replace(/=+$/, '')
	},
	{
		name: 'hex',
		takes: ['text'],
		doc: 'The bytes of a text in UTF-8, as hexadecimal.',
		example: { expression: '$hex("foo")', gives: '666f6f' },
		run: (_, value) => bytesToHex(utf8(text(value)))
	},
	{
		name: 'urlEncode',
		takes: ['text'],
		doc: 'Percent-encoded (RFC 3986); with "form" as second argument a space becomes a plus.',
		example: { expression: '$urlEncode("a b&c")', gives: 'a%20b%26c' },
		run: (_, value, kind) => (kind === 'form' ? escapeForm(text(value)) : escapeAddress(text(value)))
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
			const bytes = ports.readFile?.(String(path));
			if (!bytes) throw new Error(`there is no file "${String(path)}" in the project`);
			return decodeText(bytes).text;
		}
	}
];
