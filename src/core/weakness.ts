/** What is made with a secret and is shorter is no secret: it would stand in half of all that is shown. */
export const LEAST_MADE = 6;

const COMMON = new Set(
	'secret password passwort passwd token key apikey admin administrator root user test testing demo default changeme letmein welcome hello passed failed error skipped status true false null none value name'.split(
		' '
	)
);

/** Why a value is hard to hide: every place where it stands by chance is hidden too. Undefined when it is not. */
export function weakness(value: string): string | undefined {
	if (value === '') return undefined;
	if (value.length < LEAST_MADE)
		return `it has ${value.length} ${value.length === 1 ? 'character' : 'characters'}: every place where they stand by chance is hidden too`;
	if (COMMON.has(value.toLowerCase()) || /^[a-z]{6,10}$/.test(value))
		return 'it is an ordinary word: every place where the word stands is hidden too';
	return undefined;
}
