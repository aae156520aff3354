import { didYouMean } from '../messages.ts';
import { hasExpression, templateProblem } from '../values/index.ts';
import { isObject, type Json } from './json.ts';
import { choice, findProblems, flag, mapOf, record, shaped, text, whole, jsonSchemaOf, type Report } from './shape.ts';

/** What a cell of a dataset becomes. */
export const CELL_TYPES = ['text', 'number', 'boolean', 'date', 'json'] as const;
/** The types that cells of a dataset can be read as. */
export type CellType = (typeof CELL_TYPES)[number];

/** What happens to the rest when a row does not pass. */
export const ON_FAILED = ['go-on', 'set-aside', 'stop'] as const;
type OnFailed = (typeof ON_FAILED)[number];

/** How a file is read, where that is not found by itself. */
interface ReadSpec {
	delimiter?: string;
	encoding?: string;
	header?: boolean;
	sheet?: string;
}

/** The rows that a scenario, or a step, runs over. */
export interface RowsSpec {
	/** A dataset: its file in datasets/, with or without its ending. */
	data: string;
	/** Numbers of rows, from 1: `1-10, 15, 20-`; empty for all. */
	take: string;
	/** A bare expression over `$row`; empty for all. */
	where: string;
	/** How many are drawn, by the run's seed; 0 for all. */
	sample: number;
	/** Name in expressions → column of the file. */
	names: Record<string, string>;
	/** Name or column → type, over what was found. */
	types: Record<string, CellType>;
	failed: OnFailed;
	read: ReadSpec;
}

const NAME = /^[A-Za-z_]\w*$/;

/** Which rows a text such as `1-10, 15, 20-` names. */
export interface Take {
	has(number: number): boolean;
	/** The last row that can be meant. */
	last: number;
	/** How many of the first `count` rows are meant. */
	of(count: number): number;
}

/** Reads numbers and ranges of rows, counted from 1; undefined when the text is none. Empty: all. */
export function parseTake(input: unknown): Take | undefined {
	const given = String(input ?? '').trim();
	const parts: [number, number][] = [];
	for (const part of given === '' ? ['1-'] : given.split(',')) {
		const match = /^\s*(\d+)?\s*(-)?\s*(\d+)?\s*$/.exec(part);
		if (!match || (match[1] === undefined && match[3] === undefined) || (!match[2] && match[3] !== undefined))
			return undefined;
		const from = match[1] === undefined ? 1 : Number(match[1]);
		const to = match[3] === undefined ? (match[2] ? Infinity : from) : Number(match[3]);
		if (from < 1 || to < from) return undefined;
		parts.push([from, to]);
	}
	// touching and overlapping parts become one, so that rows are counted once
	parts.sort((a, b) => a[0] - b[0]);
	const merged: [number, number][] = [];
	for (const [from, to] of parts) {
		const before = merged.at(-1);
		if (before && from <= before[1] + 1) before[1] = Math.max(before[1], to);
		else merged.push([from, to]);
	}
	return {
		has: (number) => merged.some(([from, to]) => number >= from && number <= to),
		last: merged.at(-1)![1],
		of: (count) => merged.reduce((n, [from, to]) => n + Math.max(0, Math.min(to, count) - from + 1), 0)
	};
}

/** Numbers of rows, in order, as a text that names them: `1-10,15`. */
export function takeOf(numbers: readonly number[]): string {
	const parts: string[] = [];
	for (let at = 0; at < numbers.length;) {
		let last = at;
		while (numbers[last + 1] === numbers[last]! + 1) last++;
		parts.push(last > at ? `${numbers[at]}-${numbers[last]}` : String(numbers[at]));
		at = last + 1;
	}
	return parts.join(',');
}

const TAKE_HINT = 'numbers and ranges of rows are wanted, such as 1-10, 15 or 20-';

const take = shaped(
	{ type: ['string', 'integer'], description: 'Numbers and ranges of rows, from 1: 1-10, 15, 20-.' },
	(value, report) => {
		if (!parseTake(value)) report([], TAKE_HINT);
	}
);

const read = record({
	delimiter: shaped(
		{ type: 'string', minLength: 1, maxLength: 1, description: 'What parts the cells.' },
		(value, report) => {
			if (typeof value !== 'string' || value.length !== 1) report([], 'one character is wanted, such as ";"');
		}
	),
	encoding: text('Such as utf-8, windows-1252 or utf-16le.'),
	header: flag('Whether the first row holds the names of the columns.'),
	sheet: text('The sheet of a workbook; the first when left out.')
});

const full = record(
	{
		data: text('The dataset: its file in datasets/, with or without its ending.'),
		take,
		where: shaped(
			{ type: 'string', description: 'An expression over $row; only rows for which it is true.' },
			(value, report) => {
				const problem = typeof value === 'string' ? templateProblem(bareOf(value), true) : undefined;
				if (typeof value !== 'string') report([], 'an expression is wanted, such as $row.nights > 2');
				else if (problem) report([], problem.message);
			}
		),
		sample: whole('How many rows are drawn, by the seed of the run.', 1, 1_000_000),
		names: shaped(
			{ type: 'object', additionalProperties: { type: 'string' }, description: 'Name in $row → column of the file.' },
			(value, report) => {
				for (const found of findProblems(mapOf('', NAME), value)) report(found.path, found.message);
				for (const [name, column] of Object.entries(isObject(value) ? value : {}))
					if (typeof column !== 'string') report([name], 'the name of a column is wanted');
			}
		),
		types: shaped(
			{ type: 'object', additionalProperties: { enum: [...CELL_TYPES] }, description: 'Name → type of its cells.' },
			(value, report) => {
				if (!isObject(value)) return report([], 'names with types are wanted');
				for (const [name, type] of Object.entries(value))
					if (!CELL_TYPES.includes(type as CellType))
						report(
							[name],
							`one of ${CELL_TYPES.join(', ')} is wanted${didYouMean(String(type), CELL_TYPES).replace(/^; known.*/, '')}`
						);
			}
		),
		failed: choice(
			ON_FAILED,
			'What happens when a row does not pass: the next ones go on, it is set aside, or all stops.'
		),
		read
	},
	{ data: 'the dataset in datasets/' },
	undefined,
	{ data: ['file', 'dataset', 'source', 'name'], take: ['limit', 'rows'], where: ['filter', 'if'] }
);

/** `$row.x > 1`, also when written as `{$row.x > 1}`. */
const bareOf = (source: string): string => source.trim().replace(/^\{(\$[\s\S]*)\}$/, '$1');

const schemaOfRows: Json = { anyOf: [{ type: 'string' }, jsonSchemaOf(full)] };

/** Reports what is wrong with `rows:`: the name of a dataset, or settings. */
function checkRows(value: unknown, report: Report): void {
	if (typeof value === 'string' && value.trim()) return;
	if (!isObject(value)) return report([], 'a dataset is wanted, such as berths, or settings with data: berths');
	for (const { path, message } of findProblems(full, value)) report(path, message);
}

/** The shape of `rows:`. */
export const rows = (doc: string) => shaped({ description: doc, ...(schemaOfRows as object) }, checkRows);

/** What `each:` repeats over: a dataset, a list that is computed, or a list. */
export const EACH_SCHEMA: Json = { anyOf: [{ type: 'string' }, { type: 'array' }, jsonSchemaOf(full)] };
/** Reports what is wrong with `each:` of a step. */
export function checkEach(value: unknown, report: Report): void {
	if (Array.isArray(value)) return;
	if (typeof value === 'string' && (hasExpression(value) || value.startsWith('$'))) {
		const problem = value.startsWith('$') ? templateProblem(value, true) : undefined;
		return problem && report([], problem.message);
	}
	checkRows(value, report);
}

/** The dataset that a step repeats over; undefined when it is a list, or computed. */
export function datasetOfEach(each: Json | undefined): string | undefined {
	if (each === undefined || Array.isArray(each)) return undefined;
	if (typeof each === 'string') return hasExpression(each) || each.startsWith('$') ? undefined : each;
	return parseRows(each)?.data;
}

/** A `rows:` in full, defaults filled in; undefined when there is none. */
export function parseRows(value: unknown): RowsSpec | undefined {
	if (value === undefined || value === null) return undefined;
	const given = isObject(value) ? value : { data: value };
	const map = <T>(from: unknown) => (isObject(from) ? (from as Record<string, T>) : {});
	return {
		data: String(given.data ?? ''),
		take: String(given.take ?? ''),
		where: bareOf(String(given.where ?? '')),
		sample: Number(given.sample ?? 0) || 0,
		names: map<string>(given.names),
		types: map<CellType>(given.types),
		failed: ON_FAILED.includes(given.failed as OnFailed) ? (given.failed as OnFailed) : 'go-on',
		read: map<never>(given.read) as ReadSpec
	};
}

/** What the files of datasets end with. */
export const DATASET_ENDINGS = ['csv', 'tsv', 'json', 'yaml', 'yml', 'xlsx', 'ods'] as const;
/** What the file of a dataset ends with. */
export type DatasetEnding = (typeof DATASET_ENDINGS)[number];

/**
 * The file of a dataset by its name: `berths.csv`, or `berths` when only one file is called so.
 * @returns the path, or the names that are meant or near
 */
export function datasetFile(
	name: string,
	files: Iterable<string>
): { path: string } | { several: string[] } | { known: string[] } {
	const all = [...files].filter((path) => path.startsWith('datasets/')).map((path) => path.slice('datasets/'.length));
	const plain = name.replace(/^datasets\//, '');
	if (all.includes(plain)) return { path: `datasets/${plain}` };
	const found = all.filter((file) => DATASET_ENDINGS.some((ending) => file === `${plain}.${ending}`));
	if (found.length === 1) return { path: `datasets/${found[0]}` };
	return found.length > 1 ? { several: found } : { known: all.map((file) => file.replace(/\.[^.]+$/, '')) };
}
