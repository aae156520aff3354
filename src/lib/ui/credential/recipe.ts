import { writeJson, isObject, type Json, type JsonObject } from '#core/model/json.ts';

export interface RecipeLine {
	name: string;
	source: string;
}

/** The lines of a recipe as they are written, in order. */
export const linesOf = (value: Json | undefined): RecipeLine[] =>
	isObject(value)
		? Object.entries(value as JsonObject).map(([name, source]) => ({ name, source: String(source ?? '') }))
		: [];

export const writeLines = (lines: RecipeLine[]): Json =>
	Object.fromEntries(lines.map(({ name, source }) => [name, source]));

/** Lines with one renamed; expressions that use it follow. */
export function renameLine(lines: RecipeLine[], index: number, to: string): RecipeLine[] {
	const from = lines[index]?.name ?? '';
	const follow = (source: string) =>
		from ? source.replace(new RegExp(`\\$lines\\.${from}\\b`, 'g'), `$lines.${to}`) : source;
	return lines.map((line, at) => ({ name: at === index ? to : line.name, source: follow(line.source) }));
}

/** As `renameLine`, for the expressions of results. */
export function renameUses(value: Json | undefined, from: string, to: string): Json | undefined {
	if (typeof value === 'string') return value.replace(new RegExp(`\\$lines\\.${from}\\b`, 'g'), `$lines.${to}`);
	if (Array.isArray(value)) return value.map((item) => renameUses(item, from, to)!);
	if (isObject(value))
		return Object.fromEntries(
			Object.entries(value as JsonObject).map(([key, item]) => [key, renameUses(item, from, to)!])
		);
	return value;
}

/** A value so that line feeds and blanks at its ends are seen. */
export const visible = (value: Json | undefined): string =>
	(typeof value === 'string' ? value : value === undefined ? '' : writeJson(value))
		.replace(/\r/g, '␍')
		.replace(/\n/g, '↵\n')
		.replace(/^ +| +$/g, (blanks) => '·'.repeat(blanks.length));
