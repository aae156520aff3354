import { latin1Bytes } from '../values/index.ts';
import { memoizeByText } from './kept.ts';
import { shortened } from './shortened.ts';

/** How long each phase took, in milliseconds; a phase that was not needed (a kept connection) is 0. */
export interface Phases {
	name: number;
	connect: number;
	tls: number;
	send: number;
	wait: number;
	body: number;
	total: number;
}
/** The phases of an exchange, in order. */
export const PHASES = ['name', 'connect', 'tls', 'send', 'wait', 'body'] as const;

/** Header fields in the order, case and number in which they crossed the wire. */
export type HeaderList = [name: string, value: string][];

/** A reply as it came, decoded from its content codings. */
export interface Reply {
	status: number;
	reason: string;
	version: string;
	headers: HeaderList;
	body: Uint8Array;
	/** Bytes of the body on the wire, before decoding. */
	wireSize: number;
	/** Set when the body was cut: at which size, and why. */
	cut?: string;
	phases: Phases;
	/** A kept connection was used again. */
	reused: boolean;
	/** What could not be decoded, in words. */
	note?: string;
}

/** All values of a header field, case-insensitive (RFC 9110 section 5.1). */
export function headerValues(headers: HeaderList, name: string): string[] {
	const wanted = name.toLowerCase();
	const values: string[] = [];
	for (const [own, value] of headers)
		if (own.length === wanted.length && own.toLowerCase() === wanted) values.push(value);
	return values;
}

/** The value of a header field; several are joined by a comma (RFC 9110 section 5.3). */
export function headerValue(headers: HeaderList, name: string): string | undefined {
	const values = headerValues(headers, name);
	return values.length > 0 ? values.join(', ') : undefined;
}

/**
 * What the octets of a field value say, one character each: UTF-8 where they are that, else ISO-8859-1
 * (RFC 9110 section 5.5 leaves it open).
 */
export function fieldText(octets: string): string {
	// eslint-disable-next-line no-control-regex
	if (!/[^\x00-\x7f]/.test(octets) || /[^\x00-\xff]/.test(octets)) return octets;
	try {
		return UTF_8.decode(latin1Bytes(octets));
	} catch {
		return octets;
	}
}
const UTF_8 = new TextDecoder('utf-8', { fatal: true, ignoreBOM: true });

/** Header fields as they are shown; the same list where all is ASCII. */
export const readableFields = (headers: HeaderList): HeaderList =>
	headers.some(([, value]) => fieldText(value) !== value)
		? headers.map(([name, value]) => [name, fieldText(value)])
		: headers;

/** The media type in small letters, and its charset parameter (RFC 9110 section 8.3). */
export function mediaType(headers: HeaderList): { readonly type: string; readonly charset?: string } {
	return readMediaType(headerValues(headers, 'content-type')[0] ?? '');
}
const readMediaType = memoizeByText((value): { readonly type: string; readonly charset?: string } => {
	const charset = /;\s*charset\s*=\s*"?([^\s";]+)/i.exec(value)?.[1];
	return { type: value.split(';')[0]!.trim().toLowerCase(), ...(charset ? { charset } : {}) };
}, 500);

/** Whether a media type is JSON, by its name or suffix (RFC 6839 section 3.1). */
export const isJsonType = (type: string): boolean => /^application\/(?:.+\+)?json$|^text\/json$/.test(type);
/** Whether a media type is XML, by its name or suffix (RFC 7303 section 4.2). */
export const isXmlType = (type: string): boolean => /^(?:application|text)\/(?:.+\+)?xml$/.test(type);

const REDIRECTS = new Set([301, 302, 303, 307, 308]);
/** Bytes beyond ASCII go on as they came: fields are read as ISO-8859-1. */
const asBytes = (text: string): string =>
	text.replace(/[\x80-\xff]/g, (letter) => `%${letter.charCodeAt(0).toString(16).toUpperCase()}`);

/** Where a redirect leads, or why it leads nowhere, in words. */
function targetOf(headers: HeaderList, address: string): URL | string {
	const [location, ...others] = new Set(headerValues(headers, 'location'));
	if (location === undefined) return 'no Location says where to';
	if (others.length > 0) return 'Location stands twice, and does not say the same';
	const written = asBytes(location);
	if (!URL.canParse(written, address)) return `Location is no address: ${shortened(location, 200)}`;
	const to = new URL(written, address);
	if (to.protocol !== 'http:' && to.protocol !== 'https:')
		return `Location leads neither to http nor to https: ${shortened(location, 200)}`;
	return to;
}

/** Where a reply to a request for an address sends on to (RFC 9110 sections 15.4 and 10.2.2); undefined where it does not. */
export function redirectOf({ status, headers }: Pick<Reply, 'status' | 'headers'>, address: string): URL | undefined {
	const to = REDIRECTS.has(status) ? targetOf(headers, address) : undefined;
	return to instanceof URL ? to : undefined;
}

/** Why a reply that says it redirects cannot be followed, in words. */
export function redirectTrouble(
	{ status, headers }: Pick<Reply, 'status' | 'headers'>,
	address: string
): string | undefined {
	const to = REDIRECTS.has(status) ? targetOf(headers, address) : undefined;
	return typeof to === 'string' ? to : undefined;
}

/** The cookies that a request sends; of several of one name the first (RFC 6265 section 4.2). */
export function cookiesSent(headers: HeaderList): Record<string, string> {
	const out: Record<string, string> = {};
	for (const pair of headerValues(headers, 'cookie').flatMap((line) => line.split(';'))) {
		const at = pair.indexOf('=');
		const name = pair.slice(0, Math.max(0, at)).trim();
		if (name && !Object.hasOwn(out, name)) out[name] = pair.slice(at + 1).trim();
	}
	return out;
}
