import { writeJson } from '../../model/json.ts';
import { hmac } from '@noble/hashes/hmac.js';
import { md5, sha1 } from '@noble/hashes/legacy.js';
import { sha256, sha384, sha512, sha512_256 } from '@noble/hashes/sha2.js';
import { base64ToBytes, bytesToBase64, bytesToHex, utf8 } from '../bytes.ts';
import type { ExpressionFunction } from './kind.ts';

const algorithms = { md5, sha1, sha256, sha384, sha512, 'sha512-256': sha512_256 };
const encodings: Record<string, (bytes: Uint8Array) => unknown> = {
	hex: bytesToHex,
	base64: bytesToBase64,
	base64url: (bytes) => bytesToBase64(bytes).replace(/\+/g, '-').replace(/\//g, '_').replace(/=+$/, ''),
	bytes: (bytes) => new Bytes(bytes)
};

function pick<T>(what: string, table: Record<string, T>, name: unknown): T {
	const found = table[String(name).toLowerCase()];
	if (!found) throw new Error(`there is no ${what} "${String(name)}"; known are ${Object.keys(table).join(', ')}`);
	return found;
}

/** Bytes as a value of the language: functions take it for data or a key; as text it is base64. */
export class Bytes {
	readonly #bytes: Uint8Array;
	constructor(bytes: Uint8Array) {
		this.#bytes = bytes;
	}
	get bytes(): Uint8Array {
		return this.#bytes;
	}
	toJSON(): string {
		return bytesToBase64(this.#bytes);
	}
}

/** The name of a digest that `$hash` and `$hmac` know. */
export type DigestName = keyof typeof algorithms;
/** A digest of bytes. */
export const digestOf = (name: DigestName, data: Uint8Array): Uint8Array => algorithms[name](data);
/** A keyed digest of bytes (RFC 2104). */
export const keyedDigest = (name: DigestName, key: Uint8Array, data: Uint8Array): Uint8Array =>
	hmac(algorithms[name], key, data);

const textOf = (value: unknown): Uint8Array =>
	value instanceof Bytes ? value.bytes : utf8(typeof value === 'string' ? value : writeJson(value));

function hexToBytes(text: string): Uint8Array {
	if (!/^([0-9a-fA-F]{2})*$/.test(text)) throw new Error('this is not hexadecimal');
	return Uint8Array.from(text.match(/../g) ?? [], (h) => parseInt(h, 16));
}

/** A key as text, or with `hex:` or `base64:` before it as the bytes that stand for it. */
function keyOf(value: unknown): Uint8Array {
	if (value instanceof Bytes) return value.bytes;
	const text = String(value);
	if (text.startsWith('hex:')) return hexToBytes(text.slice(4));
	if (text.startsWith('base64:')) return base64ToBytes(text.slice(7));
	return utf8(text);
}

export const digest: ExpressionFunction[] = [
	{
		name: 'hash',
		takes: ['algorithm', 'data', 'encoding?'],
		doc: 'Digest of a text (md5, sha1, sha256, sha384, sha512, sha512-256) as hex, base64, base64url or bytes.',
		example: {
			expression: '$hash("sha256", "abc")',
			gives: 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad'
		},
		run: (_, algorithm, data, encoding = 'hex') =>
			pick('encoding', encodings, encoding)(pick('algorithm', algorithms, algorithm)(textOf(data)))
	},
	{
		name: 'hmac',
		takes: ['algorithm', 'key', 'data', 'encoding?'],
		doc: 'Keyed digest (RFC 2104). The key is text, bytes, or text that starts with hex: or base64: and stands for those bytes.',
		example: {
			expression: '$hmac("sha256", "Jefe", "what do ya want for nothing?")',
			gives: '5bdcc146bf60754e6a042426089575c75a003f089d2739839dec58b964ec3843'
		},
		run: (_, algorithm, key, data, encoding = 'hex') =>
			pick('encoding', encodings, encoding)(hmac(pick('algorithm', algorithms, algorithm), keyOf(key), textOf(data)))
	},
	{
		name: 'bytes',
		takes: ['text', 'encoding?'],
		doc: 'Bytes of a text: utf8 (the default), hex, base64 or base64url; for $hash and $hmac, as data or key.',
		example: {
			expression: '$hash("sha256", $bytes("616263", "hex"))',
			gives: 'ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad'
		},
		run: (_, value, encoding = 'utf8') =>
			new Bytes(
				pick(
					'encoding',
					{ utf8, hex: hexToBytes, base64: base64ToBytes, base64url: base64ToBytes },
					encoding
				)(String(value))
			)
	},
	{
		name: 'jwt',
		takes: ['header', 'claims', 'key'],
		doc: 'A JSON Web Token (RFC 7519) signed with HS256, HS384 or HS512, as the header says.',
		example: {
			expression: '$split($jwt({"alg": "HS256", "typ": "JWT"}, {"sub": "avery"}, "key"), ".")[1]',
			gives: 'eyJzdWIiOiJhdmVyeSJ9'
		},
		run(_, header, claims, key) {
			const hashes: Record<string, (typeof algorithms)[keyof typeof algorithms]> = {
				hs256: sha256,
				hs384: sha384,
				hs512: sha512
			};
			const part = (value: unknown) => encodings.base64url!(utf8(writeJson(value)));
			const signed = `${part(header)}.${part(claims)}`;
			const alg = pick('signature algorithm', hashes, (header as { alg?: unknown } | undefined)?.alg);
			return `${signed}.${encodings.base64url!(hmac(alg, keyOf(key), utf8(signed)))}`;
		}
	}
];
