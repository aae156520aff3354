/** A value of a file where a text is wanted. */
export const asText = (value: unknown, otherwise = ''): string =>
	value === undefined || value === null ? otherwise : String(value);

/** A value of a file where a list is wanted. */
export const asList = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);
