import { writeJson } from './json.ts';

/** A value for people: JSON on one line, cut when it is long. */
export function show(value: unknown, limit = 400): string {
	if (value === undefined) return 'nothing';
	let text: string;
	try {
		text = writeJson(value);
	} catch {
		text = 'a value nested too deep to show';
	}
	return text.length > limit ? `${text.slice(0, limit)}… (${text.length} characters)` : text;
}
