import { parseJson, writeJson, type Json } from '#core/model/json.ts';

/** Numbers, true, false, null, lists and objects keep their type; a text in quotes stays text. */
export function readCell(text: string): Json {
	if (/^\s*([[{"]|-?(0|[1-9]\d{0,14})(\.\d+)?$|true$|false$|null$)/.test(text) && !text.startsWith('{$')) {
		try {
			return parseJson(text);
		} catch {
			return text;
		}
	}
	return text;
}

/** A value as it is typed: what would be read as something else stands in quotes. */
export function showCell(value: Json | undefined): string {
	if (value === undefined) return '';
	if (typeof value !== 'string') return writeJson(value);
	return typeof readCell(value) === 'string' && readCell(value) === value ? value : writeJson(value);
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

/** Kinds of value that can be chosen, with what becomes of one that is another. */
export const VALUE_TYPES = ['text', 'number', 'boolean', 'date', 'list', 'JSON'] as const;
export type ValueType = (typeof VALUE_TYPES)[number];

/** A day that there is: parsers take 31 February for a day in March. */
const isDate = (text: string): boolean => {
	const time = /^\d{4}-\d\d-\d\d$/.test(text) ? Date.parse(text) : NaN;
	return !Number.isNaN(time) && new Date(time).toISOString().startsWith(text);
};

/** A value as another type: what it says stays as far as it can. */
export function asType(value: Json, type: ValueType, today: string): Json {
	const text = typeof value === 'string' ? value : writeJson(value);
	switch (type) {
		case 'text':
			return text;
		case 'number': {
			const number = Number(text.trim().replace(',', '.'));
			return text.trim() === '' || !Number.isFinite(number) ? 0 : number;
		}
		case 'boolean':
			return /^\s*(true|yes|on|1)\s*$/i.test(text);
		case 'date':
			return isDate(text.slice(0, 10)) ? text.slice(0, 10) : today;
		case 'list':
			return Array.isArray(value) ? value : itemsOf(typeof value === 'string' ? value.replace(/[,;]\s*/g, '\n') : text);
		case 'JSON':
			try {
				const read = parseJson(text);
				return typeof read === 'object' && read !== null ? read : { value };
			} catch {
				return { value };
			}
	}
}

/** The items of a list, a line each; numbers, true, false and JSON keep their type. */
export const itemsOf = (text: string): Json[] =>
	text
		.split('\n')
		.filter((line) => line.trim() !== '')
		.map((line) => readCell(line.trim()));
export const linesOf = (list: readonly Json[]): string => list.map(showCell).join('\n');
