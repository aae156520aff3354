import { HeronError } from '../errors.ts';

/** A value inside a path segment or query of an address (RFC 3986 section 2.1): all but unreserved characters encoded. */
export const escapeAddress = (text: string): string =>
	encodeURIComponent(text.toWellFormed()).replace(/[!'()*]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase());

/**
 * A value inside XML text or a quoted attribute (XML 1.0 section 2.4). Line ends and tabs are written as references:
 * as they are, a reader makes blanks of them in attributes (section 3.3.3), and of CR a line end (section 2.11).
 */
export const escapeXml = (text: string): string =>
	inXml(text)
		.replace(/&/g, '&amp;')
		.replace(/</g, '&lt;')
		.replace(/>/g, '&gt;')
		.replace(/"/g, '&quot;')
		.replace(/'/g, '&apos;')
		.replace(/[\t\n\r]/g, (c) => `&#${c.charCodeAt(0)};`);

// eslint-disable-next-line no-control-regex
const NO_XML = /[\0-\x08\x0b\x0c\x0e-\x1f\ufffe\uffff]/;
/** A value as XML can hold it (XML 1.0 section 2.2). @throws HeronError value.xml for a character that it cannot, not even as a reference */
function inXml(text: string): string {
	const [odd] = NO_XML.exec(text) ?? [];
	if (odd === undefined) return text;
	throw new HeronError('value.xml', {
		character: `U+${odd.charCodeAt(0).toString(16).toUpperCase().padStart(4, '0')}`
	});
}

/** How values are written in a text of XML: escaped, but for CDATA sections, in which nothing is (XML 1.0 section 2.7). */
export function xmlEscapes(): { escape: (text: string) => string; literal: (text: string) => string } {
	let inside = false;
	return {
		literal(text) {
			const [open, close] = [text.lastIndexOf('<![CDATA['), text.lastIndexOf(']]>')];
			if (open >= 0 || close >= 0) inside = open > close;
			return text;
		},
		escape: (text) => (inside ? inXml(text).replaceAll(']]>', ']]]]><![CDATA[>') : escapeXml(text))
	};
}

/** application/x-www-form-urlencoded (URL Standard): space as plus. */
export const escapeForm = (text: string): string => escapeAddress(text).replace(/%20/g, '+').replace(/%2A/g, '*');

/**
 * Literal text of an address made safe: what is already encoded stays, what may not stand in an address is encoded.
 */
export const tidyAddress = (text: string): string =>
	text.replace(/%(?![0-9A-Fa-f]{2})|[^\x21-\x7e]|["<>\\^`{|}]/gu, (c) => encodeURIComponent(c.toWellFormed()));

/** Percent-encoding undone (RFC 3986 section 2.1); a text that is broken stays as it is. */
export function unescapeAddress(text: string): string {
	try {
		return decodeURIComponent(text);
	} catch {
		return text;
	}
}
const decoded = (text: string): string => unescapeAddress(text.replace(/\+/g, ' '));
/** The pairs of application/x-www-form-urlencoded (URL Standard), in order; what is no encoding stays as it is. */
export const decodeForm = (text: string): [name: string, value: string][] =>
	text
		.split('&')
		.filter(Boolean)
		.map((pair) => {
			const at = pair.indexOf('=');
			return at < 0 ? [decoded(pair), ''] : [decoded(pair.slice(0, at)), decoded(pair.slice(at + 1))];
		});
