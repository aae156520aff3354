/** One key of a JSON Pointer as written (RFC 6901 section 3). */
export const pointerKey = (key: string): string =>
	key.includes('~') || key.includes('/') ? key.replace(/~/g, '~0').replace(/\//g, '~1') : key;
/** The keys of a JSON Pointer. */
export const keysOf = (pointer: string): string[] =>
	pointer
		.split('/')
		.slice(1)
		.map((key) => (key.includes('~') ? key.replace(/~1/g, '/').replace(/~0/g, '~') : key));
