const SECRET_NAME =
	/^(pass(word|phrase)?|pwd|secret|client[-_]?secret|api[-_]?key|x-api-key|access[-_]?token|refresh[-_]?token|private[-_]?key)$/i;
/** A JSON Web Token (RFC 7519): three parts, the first an object in base64url. */
export const TOKEN = /\beyJ[\w-]{8,}\.[\w-]{8,}\.[\w-]*/;
/** Query parameters that hold a secret by their name alone: addresses end up in logs (RFC 6750 section 5.3). */
const SECRET_IN_QUERY = /^(token|auth|auth[-_]?token|jwt|sig|signature|key|apikey|session)$/i;
const AUTHORIZED = /^(basic|bearer|token|apikey)\s+\S{4,}/i;

/** Whether a named value that stands in plain looks like a secret; shorter ones than four letters do not. */
export const looksSecret = (place: 'query' | 'header' | 'body', name: string, value: string): boolean =>
	value.length >= 4 &&
	((/^(proxy-)?authorization$/i.test(name) && AUTHORIZED.test(value)) ||
		(place === 'query' && SECRET_IN_QUERY.test(name) && value.length >= 8) ||
		SECRET_NAME.test(name) ||
		TOKEN.test(value));

/** The first parameter in the query of an address that looks like a secret, with what stands before and behind it. */
export function secretInQuery(
	address: string
): { name: string; before: string; value: string; after: string } | undefined {
	const start = address.indexOf('?');
	if (start < 0) return undefined;
	for (const found of address.matchAll(/(?<=[?&])([^=&#{}]+)=([^&#{}\s]+)(?=[&#\s]|$)/g)) {
		const [, name = '', value = ''] = found;
		const at = found.index + name.length + 1;
		if (found.index > start && looksSecret('query', name, value))
			return { name, before: address.slice(0, at), value, after: address.slice(at + value.length) };
	}
	return undefined;
}

/** A secret that stands in plain in a text: its value, and the text with a reference in its place. */
export interface PlainSecret {
	value: string;
	/** @param name of the secret that takes its place */
	moved(name: string): string;
}

/** Finds the secret of a text that the rule of plain secrets has found: a password in an address, credentials behind a scheme. */
export function plainSecretOf(text: string): PlainSecret | undefined {
	const address = /^(.*?:\/\/[^/@{\s]+:)([^/@{\s]+)(@.*)$/s.exec(text);
	const query = secretInQuery(text);
	if (query) return { value: query.value, moved: (name) => `${query.before}{$secret.${name}}${query.after}` };
	const scheme = /^((?:basic|bearer|token|apikey)\s+)(\S.*)$/is.exec(text);
	const [, before = '', value = text, after = ''] = address ?? scheme ?? [];
	return value.trim() === '' ? undefined : { value, moved: (name) => `${before}{$secret.${name}}${after}` };
}
