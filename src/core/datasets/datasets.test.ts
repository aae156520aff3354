import { describe, expect, test } from 'vitest';
import { parseTake } from '../model/rows.ts';
import { createEvaluator, type Scope } from '../values/index.ts';
import type { CellType } from '../model/rows.ts';
import type { Json } from '../model/json.ts';
import {
	columnsOf,
	csvLine,
	drawn,
	encodingOf,
	formOf,
	namesOf,
	rowOf,
	tableOf,
	typeOfCells,
	valueOfCell,
	type DataSpec
} from './index.ts';
import { seeded } from '../model/seed.ts';

const spec: DataSpec = { data: 'd', names: {}, types: {}, read: {} };
const all = async <T>(items: AsyncIterable<T>): Promise<T[]> => {
	const out: T[] = [];
	for await (const item of items) out.push(item);
	return out;
};

describe('the type of a column', () => {
	test.each<[string, string[], CellType]>([
		['whole numbers are numbers', ['1', '20', '-3'], 'number'],
		['so are decimals', ['12.50', '0.1'], 'number'],
		['empty cells say nothing', ['', '7', ' '], 'number'],
		['a leading zero is a name', ['007', '12'], 'text'],
		['a plus is a telephone', ['+4412'], 'text'],
		['more digits than a double holds are text', ['12345678901234567'], 'text'],
		['true and false', ['true', 'FALSE'], 'boolean'],
		['days', ['2027-05-14', '2027-06-01'], 'date'],
		['times', ['2027-05-14T06:30:00Z'], 'date'],
		['a month that is none is text', ['2027-13-01'], 'text'],
		['objects and lists', ['{"a":1}', '[1]'], 'json'],
		['one word among numbers makes text', ['1', 'x'], 'text'],
		['nothing at all is text', ['', ''], 'text']
	])('%s', (_, cells, type) => {
		expect(typeOfCells(cells)).toBe(type);
	});
	test.each<[string, CellType, Json | undefined]>([
		['12.50', 'number', 12.5],
		['', 'number', null],
		['', 'text', ''],
		['x', 'number', undefined],
		['TRUE', 'boolean', true],
		['{"a":1}', 'json', { a: 1 }],
		['{', 'json', undefined],
		["'=1+1", 'text', '=1+1'],
		["'tis", 'text', "'tis"]
	])('%j as %s is %j', (cell, type, value) => {
		expect(valueOfCell(cell, type)).toEqual(value);
	});
});

describe('names of columns', () => {
	test.each([
		[
			['mooring', 'nights'],
			['mooring', 'nights']
		],
		[
			['Berth code', 'Länge (m)'],
			['berthCode', 'langeM']
		],
		[
			['a', 'a', 'a'],
			['a', 'a2', 'a3']
		],
		[
			['', '1st', '—'],
			['column1', '_1st', 'column3']
		],
		[['URL path'], ['urlPath']]
	])('%j become %j', (titles, names) => {
		expect(namesOf(titles)).toEqual(names);
	});
	test('a name that the project gives wins over a column that bears it by itself', () => {
		const columns = columnsOf('f.csv', ['id', 'code'], [['1', 'A-01']], { ...spec, names: { id: 'code' } });
		expect(columns.map(({ name, title }) => `${name} ${title}`)).toEqual(['id_ id', 'id code']);
	});
	test('a column that is not there is named, with the nearest', () => {
		expect(() => columnsOf('f.csv', ['Berth code'], [], { ...spec, names: { berth: 'Berth cod' } })).toThrow(
			'f.csv has no column "Berth cod": did you mean "Berth code"?'
		);
	});
	test('more columns than anybody means are refused', () => {
		expect(() =>
			columnsOf(
				'f.csv',
				Array.from({ length: 1_000_000 }, (_, i) => `c${i}`),
				[],
				spec
			)
		).toThrow('f.csv has 1000000 columns');
	});
});

describe('the form of a file', () => {
	test.each<[string, string, object]>([
		['commas', 'a,b\n1,2\n', { delimiter: ',', quote: '"', header: true }],
		['semicolons, with commas in numbers', 'a;b\n1,5;2,5\n3,5;4,5\n', { delimiter: ';', quote: '"', header: true }],
		['tabs', 'a\tb\n1\t2\n', { delimiter: '\t', quote: '"', header: true }],
		['bars', 'a|b\n1|2\n', { delimiter: '|', quote: '"', header: true }],
		['a quoted delimiter does not count', 'a;b\n"x,y,z";1\n"u,v,w";2\n', { delimiter: ';', quote: '"', header: true }],
		['single quotes', "a,b\n'x','y'\n'u','v'\n", { delimiter: ',', quote: "'", header: true }],
		['no header when the first row holds numbers', 'A-01,3\nA-02,4\n', { delimiter: ',', quote: '"', header: false }],
		['no header when a name is there twice', 'x,x\na,b\n', { delimiter: ',', quote: '"', header: false }],
		['one column', 'mooring\nA-01\n', { delimiter: ',', quote: '"', header: true }],
		['nothing', '', { delimiter: ',', quote: '"', header: true }]
	])('%s', (_, text, form) => {
		expect(formOf(text)).toEqual(form);
	});
	const bytes = (...list: number[]) => Uint8Array.from(list);
	test.each<[string, Uint8Array, { encoding: string; bom: number }]>([
		['plain letters are UTF-8', bytes(0x61, 0x62), { encoding: 'utf-8', bom: 0 }],
		['a mark is taken off', bytes(0xef, 0xbb, 0xbf, 0x61), { encoding: 'utf-8', bom: 3 }],
		['UTF-16 by its mark', bytes(0xff, 0xfe, 0x61, 0), { encoding: 'utf-16le', bom: 2 }],
		['UTF-16 without one', bytes(0x61, 0, 0x62, 0, 0x0a, 0), { encoding: 'utf-16le', bom: 0 }],
		[
			'what is not UTF-8 is Windows-1252',
			bytes(0x4c, 0xe4, 0x6e, 0x67, 0x65, 0x20),
			{ encoding: 'windows-1252', bom: 0 }
		],
		['a character cut at the end is no reason', bytes(0x61, 0xc3), { encoding: 'utf-8', bom: 0 }]
	])('%s', (_, head, found) => {
		expect(encodingOf(head)).toEqual(found);
	});
});

describe('rows', () => {
	const columns = columnsOf('f.csv', ['berth', 'nights'], [['A-01', '3']], spec);
	test('cells get the type of their column', () => {
		expect(rowOf(1, ['A-01', '3'], columns)).toEqual({ number: 1, values: { berth: 'A-01', nights: 3 } });
	});
	test.each([
		['a ragged row', ['A-01'], 'it has 1 cell, and there are 2 columns'],
		['one with too many', ['A-01', '3', 'x'], 'it has 3 cells, and there are 2 columns'],
		['a cell of another type', ['A-01', 'many'], '"many" in nights is not a number']
	])('%s is said, and does not stop the others', (_, cells, problem) => {
		expect(rowOf(2, cells, columns).problem).toBe(problem);
	});
	test('plain data keeps its types; single values are $row.value', async () => {
		const table = tableOf('d.json', [{ a: 1, 'b c': { d: true } }, 'x'], spec);
		expect(table.columns.map(({ name, type }) => `${name} ${type}`)).toEqual(['a number', 'bC json', 'value text']);
		expect(await all(table.rows())).toEqual([
			{ number: 1, values: { a: 1, bC: { d: true } } },
			{ number: 2, values: { value: 'x' } }
		]);
	});
	test('a type that is asked for is given, and what does not fit is said', async () => {
		const table = tableOf('d.json', [{ a: '7' }, { a: 'x' }, { a: null }], { ...spec, types: { a: 'number' } });
		expect(await all(table.rows())).toEqual([
			{ number: 1, values: { a: 7 } },
			{ number: 2, values: { a: 'x' }, problem: '"x" in a is not a number' },
			{ number: 3, values: { a: null } }
		]);
	});
	test('what is no list is refused with what would do', () => {
		expect(() => tableOf('d.json', { items: [1], total: 1 }, spec)).toThrow(
			'd.json holds object; a list with an object for each row is wanted; "items" in it would do: take it out'
		);
	});
	test('a column called __proto__ is a column', async () => {
		const [row] = await all(tableOf('d.json', JSON.parse('[{"__proto__": 1}]') as Json, spec).rows());
		expect(Object.keys(row!.values)).toEqual(['__proto__']);
		expect(({} as Record<string, unknown>).number).toBeUndefined();
	});
});

describe('which rows', () => {
	test.each<[string, number[], number]>([
		['', [1, 2, 3, 99], 10],
		['1-3', [1, 2, 3], 3],
		['2, 4-5', [2, 4, 5], 3],
		['8-', [8, 9, 99], 3],
		['-2', [1, 2], 2],
		['3,1-4,2', [1, 2, 3, 4], 4]
	])('%j', (text, numbers, ofTen) => {
		const take = parseTake(text)!;
		expect(Array.from({ length: 99 }, (_, i) => i + 1).filter((n) => take.has(n) && numbers.includes(n))).toEqual(
			numbers
		);
		expect(take.of(10)).toBe(ofTen);
	});
	test.each(['0', '5-3', 'a', '1-2-3', '1 2', ',', '-'])('%j is none', (text) => {
		expect(parseTake(text)).toBeUndefined();
	});
	const counting = async function* (n: number) {
		for (let i = 1; i <= n; i++) yield i;
	};
	test('drawing gives the same rows for the same seed, in order, and each a fair chance', async () => {
		const first = await drawn(counting(1000), 10, 7);
		expect(await drawn(counting(1000), 10, 7)).toEqual(first);
		expect(await drawn(counting(1000), 10, 8)).not.toEqual(first);
		expect([...first].sort((a, b) => a - b)).toEqual(first);
		expect(new Set(first).size).toBe(10);
		const hits = new Array<number>(10).fill(0);
		for (let seed = 0; seed < 2000; seed++) for (const n of await drawn(counting(10), 3, seed)) hits[n - 1]!++;
		// 600 each are expected
		for (const hit of hits) expect(Math.abs(hit - 600)).toBeLessThan(100);
	});
	test('fewer than asked for are all', async () => {
		expect(await drawn(counting(3), 10, 1)).toEqual([1, 2, 3]);
		expect(seeded(1)()).toBe(seeded(1)());
	});
});

describe('CSV for others', () => {
	test.each<[Json[], string]>([
		[['a', 1, true, null], 'a,1,true,\r\n'],
		[['a,b', 'say "x"', 'two\nlines'], '"a,b","say ""x""","two\nlines"\r\n'],
		[['=1+1', '@x', '+44', '-2', '-x'], "'=1+1,'@x,+44,-2,'-x\r\n"],
		[[{ a: 1 }], '"{""a"":1}"\r\n'],
		[[' x '], '" x "\r\n']
	])('%j', (cells, line) => {
		expect(csvLine(cells)).toBe(line);
	});
});

describe('a decimal of a row', () => {
	const cells = ['1000.50', '0.10', '7', '2.5'];
	const columns = columnsOf('d.csv', ['price', 'rate', 'count', 'half'], [cells], spec);
	const row = rowOf(1, cells, columns).values;
	const scope = {
		names: { env: { rate: row.rate }, secret: {}, row: { number: 1, ...row }, steps: {}, run: {} },
		ports: {}
	} as unknown as Scope;
	test.each([
		['{$row.price}', '1000.50'],
		['/pay/{$row.price}?rate={$env.rate}&n={$row.count}', '/pay/1000.50?rate=0.10&n=7'],
		['{$row.half}', '2.5'],
		['{$row.price + 1}', '1001.5']
	])('%s is %s', async (text, expected) => {
		expect(await createEvaluator().text(text, scope)).toBe(expected);
	});
	test('is a number where numbers are', async () => {
		expect(await createEvaluator().value('{$row.price}', scope)).toBe(1000.5);
	});
});
