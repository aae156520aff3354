import { TextDecoder as SingleByteDecoder } from '@exodus/bytes/encoding-lite.js';

const ALPHABET = 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/';

/** Base64 with padding (RFC 4648 section 4). */
export function bytesToBase64(bytes: Uint8Array): string {
	let out = '';
	for (let i = 0; i < bytes.length; i += 3) {
		const n = (bytes[i]! << 16) | ((bytes[i + 1] ?? 0) << 8) | (bytes[i + 2] ?? 0);
		out += ALPHABET[n >> 18]! + ALPHABET[(n >> 12) & 63]!;
		out += i + 1 < bytes.length ? ALPHABET[(n >> 6) & 63]! : '=';
		out += i + 2 < bytes.length ? ALPHABET[n & 63]! : '=';
	}
	return out;
}

/** Bytes of base64 or base64url text, padding optional; throws when another letter stands in it. */
export function base64ToBytes(text: string): Uint8Array {
	const plain = atob(text.replace(/-/g, '+').replace(/_/g, '/').replace(/\s/g, ''));
	return Uint8Array.from(plain, (c) => c.charCodeAt(0));
}

/** Two lower-case digits for each byte. */
export const bytesToHex = (bytes: Uint8Array): string =>
	Array.from(bytes, (b) => b.toString(16).padStart(2, '0')).join('');

/** The bytes of a text (RFC 3629). */
export const utf8 = (text: string): Uint8Array<ArrayBuffer> => new TextEncoder().encode(text);

/** One character for each byte, and back. */
export function latin1(bytes: Uint8Array): string {
	let out = '';
	for (let at = 0; at < bytes.length; at += 8192) out += String.fromCharCode(...bytes.subarray(at, at + 8192));
	return out;
}
/** One byte for each letter up to U+00FF; of others the low eight bits. */
export const latin1Bytes = (text: string): Uint8Array<ArrayBuffer> => {
	const bytes = new Uint8Array(text.length);
	for (let at = 0; at < text.length; at++) bytes[at] = text.charCodeAt(at);
	return bytes;
};

interface Decoders {
	strict: Pick<TextDecoder, 'decode'>;
	lenient: Pick<TextDecoder, 'decode'>;
	label: string;
}
/** Those of the usual charset, made once: making a decoder takes longer than decoding a small text. */
const UTF_8: Decoders = {
	strict: new TextDecoder('utf-8', { fatal: true }),
	lenient: new TextDecoder(),
	label: 'utf-8'
};

function decodersOf(charset: string): Decoders {
	if (charset === 'utf-8') return UTF_8;
	let label = charset;
	try {
		new TextDecoder(label);
	} catch {
		label = 'utf-8';
	}
	// the decoder of Node 20 takes windows-1252 for ISO-8859-1: the euro sign and curly quotes would be lost
	const Decoder = new TextDecoder(label).encoding === 'windows-1252' ? SingleByteDecoder : TextDecoder;
	return { strict: new Decoder(label, { fatal: true }), lenient: new Decoder(label), label };
}

/** Text of bytes, with U+FFFD where they are not in the charset; `valid` says whether there was such a place. */
export function decodeText(bytes: Uint8Array, charset = 'utf-8'): { text: string; valid: boolean; charset: string } {
	const { strict, lenient, label } = decodersOf(charset);
	try {
		return { text: strict.decode(bytes), valid: true, charset: label };
	} catch {
		return { text: lenient.decode(bytes), valid: false, charset: label };
	}
}

/** The charset that a byte-order mark or an XML declaration names (XML 1.0 section 4.3.3). */
export function namedCharset(body: Uint8Array): string | undefined {
	if (body[0] === 0xfe && body[1] === 0xff) return 'utf-16be';
	if (body[0] === 0xff && body[1] === 0xfe) return 'utf-16le';
	// the declaration opens with these bytes, and mostly there is none
	if (body[0] !== 0x3c || body[1] !== 0x3f) return undefined;
	return /^<\?xml[^>]*\bencoding\s*=\s*["']([\w.:-]+)/.exec(latin1(body.subarray(0, 200)))?.[1];
}

/** Pieces in one. */
export function joinBytes(pieces: readonly Uint8Array[]): Uint8Array<ArrayBuffer> {
	const bytes = new Uint8Array(pieces.reduce((n, piece) => n + piece.length, 0));
	let at = 0;
	for (const piece of pieces) {
		bytes.set(piece, at);
		at += piece.length;
	}
	return bytes;
}

/** A UUID of version 4 out of 16 random bytes (RFC 9562 section 5.4). */
export function uuidOf(random: Uint8Array): string {
	const bytes = Uint8Array.from(random);
	bytes[6] = (bytes[6]! & 0x0f) | 0x40;
	bytes[8] = (bytes[8]! & 0x3f) | 0x80;
	return bytesToHex(bytes).replace(/^(.{8})(.{4})(.{4})(.{4})(.{12})$/, '$1-$2-$3-$4-$5');
}
