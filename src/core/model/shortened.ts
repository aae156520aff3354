/**
 * The first of a text, with `…` where more was cut off. All that may hold data of others is cut with it: a secret of
 * which the end is missing is known by the sign that follows it, and hidden too.
 */
export const shortened = (text: string, most: number): string =>
	text.length > most ? `${text.slice(0, most)}…` : text;
