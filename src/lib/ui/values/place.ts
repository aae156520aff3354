import type { MissingValue } from '#core/errors.ts';

/** Where a value is set: the address of the page of values, which opens it there. */
export const placeOfValue = (project: string, { root, name }: MissingValue): string =>
	`/${project}/values#${root === 'secret' ? `${SECRET}${name}` : name}`;

const SECRET = 'secret.';
/** The secret that an address leads to. @param hash without its mark */
export const secretAt = (hash: string): string | undefined =>
	hash.startsWith(SECRET) ? hash.slice(SECRET.length) : undefined;
