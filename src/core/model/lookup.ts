/**
 * What a table has under a word that comes from outside: a document, a server, somebody's keys. What every object has besides
 * (`constructor`, `toString`) is in no table.
 */
export const lookUp = <T>(table: Readonly<Record<string, T>>, word: string): T | undefined =>
	Object.hasOwn(table, word) ? table[word] : undefined;
