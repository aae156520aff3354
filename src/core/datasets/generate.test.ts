import { seeded } from '../model/seed.ts';
import { describe, expect, test } from 'vitest';
import type { Json, JsonObject } from '../model/json.ts';
import { createEvaluator, type FunctionPorts } from '../values/index.ts';
import { columnsOfSchema, makeRows, writeTable, type MadeColumn } from './index.ts';

const portsOf = (seed: number): FunctionPorts => {
	let n = 0;
	return { now: () => 0, randomBytes: (size) => new Uint8Array(size), seed, random: seeded(seed), next: () => ++n };
};
const make = (columns: MadeColumn[], count: number, seed = 7, signal?: AbortSignal) =>
	makeRows(columns, count, {
		evaluator: createEvaluator(),
		scope: { names: { env: { berth: 'A-01' }, secret: {}, row: {}, steps: {}, run: {} }, ports: portsOf(seed) },
		signal,
		pause: async () => {}
	});
const column = (value: string, name = 'a'): MadeColumn => ({ name, value });

describe('made-up rows', () => {
	const columns: MadeColumn[] = [
		column('$row.number', 'no'),
		column('$fake.boat()', 'boat'),
		column('$fake.choice("A-01", "B-02")', 'berth'),
		column('$row.berth & "/" & $env.berth', 'both'),
		column('$fake.matching("RW-[0-9]{4}")', 'reference'),
		column('[1..2].({"n": $})', 'list')
	];
	test('are the same for the same seed, and others for another one', async () => {
		const rows = await make(columns, 5);
		expect(rows.map(({ no }) => no)).toEqual([1, 2, 3, 4, 5]);
		for (const row of rows) {
			expect(['A-01', 'B-02']).toContain(row.berth);
			expect(row.both).toBe(`${String(row.berth)}/A-01`);
			expect(row.reference).toMatch(/^RW-\d{4}$/);
			expect(row.list).toEqual([{ n: 1 }, { n: 2 }]);
		}
		expect(await make(columns, 5)).toEqual(rows);
		expect(await make(columns, 5, 8)).not.toEqual(rows);
	});
	test('what is unique never comes twice', async () => {
		const rows = await make([column('$unique("b-")')], 500);
		expect(new Set(rows.map(({ a }) => a)).size).toBe(500);
	});
	test.each<[title: string, columns: MadeColumn[], count: number, message: string]>([
		['two columns of one name', [column('1'), column('2')], 1, 'a cannot be made: each column wants a name of its own'],
		['a column without a name', [column('1', ' ')], 1, 'a column cannot be made'],
		['a slip in an expression', [column('$fake.boat(')], 1, 'a cannot be made'],
		['a kind that is not there', [column('$fake.ship()')], 1, 'a cannot be made'],
		['too much', [column('1')], 3_000_000, 'are more than 2000000 cells']
	])('%s is said', async (_, given, count, message) => {
		await expect(make(given, count)).rejects.toThrow(message);
	});
	test('it can be stopped', async () => {
		const stop = new AbortController();
		stop.abort();
		await expect(make(columns, 10, 1, stop.signal)).rejects.toMatchObject({ code: 'send.cancelled' });
	});
});

describe('a table is written', () => {
	const rows: JsonObject[] = [{ a: 1, 'b c': 'x, "y"' }, { a: '=1+1', 'b c': null }, { 'b c': { d: [1] } }];
	test.each<[form: 'csv' | 'tsv' | 'json' | 'yaml', text: string]>([
		['csv', 'a,b c\r\n1,"x, ""y"""\r\n\'=1+1,\r\n,"{""d"":[1]}"\r\n'],
		['tsv', 'a\tb c\r\n1\t"x, ""y"""\r\n\'=1+1\t\r\n\t"{""d"":[1]}"\r\n'],
		[
			'json',
			`${JSON.stringify(
				rows.map(({ a, ...rest }) => (a === undefined ? rest : { a, ...rest })),
				null,
				'\t'
			)}\n`
		],
		['yaml', '- a: 1\n  b c: x, "y"\n- a: =1+1\n  b c: null\n- b c:\n    d:\n      - 1\n']
	])('as %s', (form, text) => {
		expect(writeTable(form, ['a', 'b c'], rows)).toBe(text);
	});
	test('a row of one empty cell is a row', () => {
		expect(writeTable('csv', ['a'], [{ a: '' }])).toBe('a\r\n""\r\n');
	});
});

describe('columns of a JSON Schema', () => {
	const valueOf = async (schema: Json): Promise<Json> => {
		const { columns } = columnsOfSchema({ type: 'object', properties: { a: schema } });
		return (await make(columns, 3)).map((row) => row.a!)[2]!;
	};
	const between = (low: number, high: number) => (value: Json) =>
		typeof value === 'number' && value >= low && value <= high;
	test.each<[title: string, schema: JsonObject, holds: (value: Json) => boolean]>([
		['a format of no meaning', { type: 'string', format: 'constructor' }, (value) => typeof value === 'string'],
		['a constant', { const: 'x' }, (v) => v === 'x'],
		['an enumeration', { enum: ['a', 1, null] }, (v) => ['a', 1, null].includes(v as string)],
		['a whole number', { type: 'integer', minimum: 3, maximum: 5 }, (v) => Number.isInteger(v) && between(3, 5)(v)],
		['limits that are left out', { type: 'integer', exclusiveMinimum: 3, exclusiveMaximum: 5 }, (v) => v === 4],
		['a multiple', { type: 'integer', multipleOf: 7, minimum: 1, maximum: 20 }, (v) => [7, 14].includes(v as number)],
		['a number', { type: 'number', minimum: 0.5, maximum: 0.9 }, between(0.5, 0.9)],
		['a boolean', { type: 'boolean' }, (v) => typeof v === 'boolean'],
		['one that may be null', { type: ['null', 'boolean'] }, (v) => typeof v === 'boolean'],
		['a text with limits', { type: 'string', minLength: 12, maxLength: 12 }, (v) => String(v).length === 12],
		['a pattern', { type: 'string', pattern: '^[A-C]-[0-9]{2}$' }, (v) => /^[A-C]-\d{2}$/.test(String(v))],
		['a date', { type: 'string', format: 'date' }, (v) => /^\d{4}-\d\d-\d\d$/.test(String(v))],
		['a time', { type: 'string', format: 'date-time' }, (v) => !Number.isNaN(Date.parse(String(v)))],
		['an address of the net', { type: 'string', format: 'ipv4' }, (v) => /^192\.0\.2\.\d+$/.test(String(v))],
		[
			'a list',
			{ type: 'array', items: { type: 'boolean' }, minItems: 1, maxItems: 1 },
			(v) => (v as Json[]).length === 1
		],
		['an empty list', { type: 'array', maxItems: 0 }, (v) => JSON.stringify(v) === '[]'],
		[
			'an object in an object',
			{ type: 'object', properties: { b: { type: 'object', properties: { 'c d': { const: 1 } } } } },
			(v) => JSON.stringify(v) === '{"b":{"c d":1}}'
		],
		['a text in quotes', { const: 'say "hi" {$env.x}' }, (v) => v === 'say "hi" {$env.x}']
	])('%s', async (_, schema, holds) => {
		const value = await valueOf(schema);
		expect(holds(value), JSON.stringify(value)).toBe(true);
	});

	test('references, parts and alternatives are followed; circles end', async () => {
		const schema: Json = {
			$defs: {
				boat: { type: 'object', properties: { name: { type: 'string' }, tender: { $ref: '#/$defs/boat' } } },
				'a/b': { const: 3 }
			},
			type: 'array',
			items: {
				allOf: [{ properties: { n: { $ref: '#/$defs/a~1b' } } }, { properties: { boat: { $ref: '#/$defs/boat' } } }],
				properties: {
					one: { oneOf: [{ const: 'first' }, { const: 'second' }] },
					far: { $ref: 'http://far.example/x' },
					email: { type: 'string' }
				}
			}
		};
		const { columns, notes } = columnsOfSchema(schema);
		const [row] = await make(columns, 1);
		expect(row).toMatchObject({ n: 3, one: 'first', boat: { tender: null } });
		expect(row!.email).toMatch(/@/);
		expect(notes).toEqual([
			'#/$defs/boat refers to itself: it ends there',
			'of alternatives the first one is made',
			'http://far.example/x cannot be followed'
		]);
	});
	test.each<[Json]>([[true], [{ type: 'string' }], [{ properties: 7 }], [[]]])(
		'%j makes no column, and says so',
		(schema) => {
			expect(columnsOfSchema(schema)).toEqual({
				columns: [],
				notes: ['it describes no object with properties: there is no column to make']
			});
		}
	);
});
