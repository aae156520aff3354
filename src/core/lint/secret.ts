/** A secret that stands in plain in a text: its value, and the text with a reference in its place. */
export interface PlainSecret {
	value: string;
	/** @param name of the secret that takes its place */
	moved(name: string): string;
}

/** Finds the secret of a text that the rule of plain secrets has found: a password in an address, credentials behind a scheme. */
export function plainSecretOf(text: string): PlainSecret | undefined {
	const address = /^(.*?:\/\/[^/@{\s]+:)([^/@{\s]+)(@.*)$/s.exec(text);
	const scheme = /^((?:basic|bearer|token|apikey)\s+)(\S.*)$/is.exec(text);
	const [, before = '', value = text, after = ''] = address ?? scheme ?? [];
	return value.trim() === '' ? undefined : { value, moved: (name) => `${before}{$secret.${name}}${after}` };
}
