/**
 * A text that is safe on a terminal and in a build's log: control characters and those that turn the direction of writing
 * are shown as dots, and lines that a build system would take for commands of its own begin with one.
 */
export const tame = (text: string): string =>
	text
		// eslint-disable-next-line no-control-regex
		.replace(/[\x00-\x08\x0b-\x1f\x7f-\x9f\u200e\u200f\u2028-\u202e\u2066-\u2069]/g, '·')
		.replace(/^([ \t]*)(?=::|##)/gm, '$1·');
