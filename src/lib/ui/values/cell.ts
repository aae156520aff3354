import type { Json } from '#core/model/json.ts';

/** Numbers, true, false, null, lists and objects keep their type; a text in quotes stays text. */
export function readCell(text: string): Json {
	if (/^\s*([[{"]|-?(0|[1-9]\d{0,14})(\.\d+)?$|true$|false$|null$)/.test(text) && !text.startsWith('{$')) {
		try {
			return JSON.parse(text) as Json;
		} catch {
			return text;
		}
	}
	return text;
}

/** A value as it is typed: what would be read as something else stands in quotes. */
export function showCell(value: Json | undefined): string {
	if (value === undefined) return '';
	if (typeof value !== 'string') return JSON.stringify(value);
	return typeof readCell(value) === 'string' && readCell(value) === value ? value : JSON.stringify(value);
}

/** What a value is, in one word. */
export function typeOfCell(value: Json | undefined): string {
	if (value === undefined) return '';
	if (value === null) return 'null';
	if (Array.isArray(value)) return 'list';
	if (typeof value === 'object') return 'JSON';
	if (typeof value === 'string')
		return value.includes('{$') ? 'computed' : /^\d{4}-\d\d-\d\d/.test(value) ? 'date' : 'text';
	return typeof value;
}
