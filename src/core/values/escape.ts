/** A value inside a path segment or query of an address (RFC 3986 section 2.1): all but unreserved characters encoded. */
export const escapeAddress = (text: string): string =>
	encodeURIComponent(text.toWellFormed()).replace(/[!'()*]/g, (c) => '%' + c.charCodeAt(0).toString(16).toUpperCase());

/**
 * A value inside XML text or a quoted attribute (XML 1.0 section 2.4). Line ends and tabs are written as references:
 * as they are, a reader makes blanks of them in attributes (section 3.3.3), and of CR a line end (section 2.11).
 */
export const escapeXml = (text: string): string =>
	text
		.replace(/&/g, '&amp;')
		.replace(/</g, '&lt;')
		.replace(/>/g, '&gt;')
		.replace(/"/g, '&quot;')
		.replace(/'/g, '&apos;')
		.replace(/[\t\n\r]/g, (c) => `&#${c.charCodeAt(0)};`);

/** application/x-www-form-urlencoded (URL Standard): space as plus. */
export const escapeForm = (text: string): string => escapeAddress(text).replace(/%20/g, '+').replace(/%2A/g, '*');

/**
 * Literal text of an address made safe: what is already encoded stays, what may not stand in an address is encoded.
 */
export const tidyAddress = (text: string): string =>
	text.replace(/%(?![0-9A-Fa-f]{2})|[^\x21-\x7e]|["<>\\^`{|}]/gu, (c) => encodeURIComponent(c.toWellFormed()));
