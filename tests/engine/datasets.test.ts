import type { DataRow, DataSpec } from '#core/datasets/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { createDatasets, folderSource, memorySource } from '#server/engine/index.ts';
import { utils, write, type CellObject } from '@e965/xlsx';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { parse } from 'csv-parse/sync';
import { csvLine } from '#core/datasets/index.ts';

const spec = (data: string, more: Partial<DataSpec> = {}): DataSpec => ({
	data,
	names: {},
	types: {},
	read: {},
	...more
});
async function read(file: string, content: string | Uint8Array, more: Partial<DataSpec> = {}) {
	const bytes = typeof content === 'string' ? Buffer.from(content) : content;
	const dataset = await createDatasets(memorySource(new Map([[`datasets/${file}`, bytes]])))(spec(file, more));
	const rows: DataRow[] = [];
	for await (const row of dataset.rows()) rows.push(row);
	return { ...dataset, all: rows, values: rows.map((row) => row.values) };
}

describe('CSV', () => {
	test.each<[string, string | Uint8Array, JsonObject[], string]>([
		[
			'quotes, line breaks and doubled quotes',
			'a,b\n"x,1","two\nlines ""q"""\n',
			[{ a: 'x,1', b: 'two\nlines "q"' }],
			'comma'
		],
		[
			'semicolons and a byte order mark',
			'\ufeffberth;nights\nA-01;3\n',
			[{ berth: 'A-01', nights: 3 }],
			'byte order mark'
		],
		['Windows-1252', Buffer.from('name\nL\xe4ngs\n', 'latin1'), [{ name: 'Längs' }], 'windows-1252'],
		['UTF-16', Buffer.from('\ufeffa\tb\nü\t1\n', 'utf16le'), [{ a: 'ü', b: 1 }], 'utf-16le'],
		['line ends of every kind, and empty lines', 'a\r\n1\r\n\r\n2\r\n', [{ a: 1 }, { a: 2 }], 'comma'],
		[
			'no header',
			'A-01,3\nB-01,4\n',
			[
				{ column1: 'A-01', column2: 3 },
				{ column1: 'B-01', column2: 4 }
			],
			'no row with the names'
		],
		['a header alone', 'a,b\n', [], 'comma'],
		['nothing', '', [], 'comma']
	])('%s', async (_, content, values, note) => {
		const found = await read('f.csv', content);
		expect(found.values).toEqual(values);
		expect(found.notes.join('; ')).toContain(note);
	});
	test('a ragged row is said at its row, and the others are read', async () => {
		const { all } = await read('f.csv', 'a,b\n1,2\n3\n4,5,6\n7,8\n');
		expect(all.map(({ problem }) => problem ?? 'right')).toEqual([
			'right',
			'it has 1 cell, and there are 2 columns',
			'it has 3 cells, and there are 2 columns',
			'right'
		]);
	});
	test('a quote inside of a cell without quotes is taken as it is, and noted with its line', async () => {
		const { values, notes } = await read('f.csv', 'part,size\nnail,5" long\n"a ""b""",2\n');
		expect(values).toEqual([
			{ part: 'nail', size: '5" long' },
			{ part: 'a "b"', size: '2' }
		]);
		expect(notes.join('\n')).toMatch(/line 2: a " inside of a cell/);
		expect((await read('f.csv', 'a\n"x ""y"""\n')).notes.join()).not.toMatch(/inside of a cell/);
	});
	test.each([
		['name,name\nx,y\n', /"name" stands twice: it is taken as data/],
		['name,,size\nx,y,z\n', /cell 2 is empty: it is taken as data/],
		['1,2\n3,4\n', undefined],
		['name,size\nx,y\n', undefined]
	])('a first row %j that may be names is told', async (text, note) => {
		const { notes } = await read('f.csv', text);
		if (note) expect(notes.join('\n')).toMatch(note);
		else expect(notes.join('\n')).not.toMatch(/may be names/);
	});
	test('a quote that is not closed names its line', async () => {
		await expect(read('f.csv', 'a,b\n1,"x\n2,3\n')).rejects.toThrow(/f\.csv: .*[Qq]uote/);
	});
	test('what is said by the project wins over what is found', async () => {
		const { values } = await read('f.csv', '1;2\n3;4\n', {
			read: { delimiter: ';', header: true },
			types: { _1: 'text' }
		});
		expect(values).toEqual([{ _1: '3', _2: 4 }]);
	});
	test('an encoding that is none is said', async () => {
		await expect(read('f.csv', 'a\n', { read: { encoding: 'klingon' } })).rejects.toThrow(
			'the encoding "klingon" is not known'
		);
	});
	test('a character that is cut between two pieces is whole', async () => {
		const long = `a\n${'x'.repeat(65_530)}äöü\n`;
		const { values } = await read('f.csv', `${long}${'ü'.repeat(70_000)}\n`);
		expect(values[0]!.a).toBe(`${'x'.repeat(65_530)}äöü`);
		expect(values[1]!.a).toBe('ü'.repeat(70_000));
	});
	test('what is written is read back the same, by another parser too', async () => {
		const cells = ['=1+1', '@x', 'a,b', 'say "x"', 'two\nlines', " 'x", "'", '+44', '-2', 'ü', '\ttab', ';'];
		const text = csvLine(cells.map((_, index) => `c${index}`)) + csvLine(cells);
		const { values } = await read('f.csv', text, {
			types: Object.fromEntries(cells.map((_, index) => [`c${index}`, 'text']))
		});
		expect(Object.values(values[0]!)).toEqual(cells);
		const [, raw] = parse(text) as string[][];
		expect(raw!.filter((cell) => /^[=@\t]/.test(cell))).toEqual([]);
	});
});

describe('other files', () => {
	test('JSON and YAML are lists of objects', async () => {
		expect((await read('f.json', '[{"a": 1, "b": {"c": [true]}}]')).values).toEqual([{ a: 1, b: { c: [true] } }]);
		expect((await read('f.yaml', '- { a: 1 }\n- { a: x }\n')).values).toEqual([{ a: 1 }, { a: 'x' }]);
	});
	test.each([
		[
			'f.json',
			'{"items": [1]}',
			'f.json holds object; a list with an object for each row is wanted; "items" in it would do: take it out'
		],
		['f.json', '[1,', 'f.json: this is not JSON'],
		['f.yaml', 'a: [', 'f.yaml: line'],
		['f.pdf', 'x', 'f.pdf is not a dataset']
	])('%s with %s is refused: %s', async (file, content, message) => {
		await expect(read(file, content)).rejects.toThrow(message);
	});
	const book = (rows: unknown[][], merges: string[] = []) => {
		const sheet = utils.aoa_to_sheet(rows, { cellDates: true, UTC: true });
		sheet['!merges'] = merges.map((range) => utils.decode_range(range));
		const made = utils.book_new();
		utils.book_append_sheet(made, utils.aoa_to_sheet([['other'], [1]]), 'Notes');
		utils.book_append_sheet(made, sheet, 'Berths');
		return write(made, { type: 'buffer', bookType: 'xlsx' }) as Buffer;
	};
	test('a time of day is one, a day is a day', async () => {
		const sheet = utils.aoa_to_sheet([['at', 'day', 'both']]);
		const cell = (v: number, z: string) => ({ t: 'n', v, z }) as CellObject;
		Object.assign(sheet, {
			A2: cell(10.5 / 24, 'hh:mm'),
			B2: cell(46_521, 'yyyy-mm-dd'),
			C2: cell(46_521.75, 'yyyy-mm-dd hh:mm')
		});
		Object.assign(sheet, {
			A3: cell(0, 'hh:mm:ss'),
			B3: cell(1, 'yyyy-mm-dd'),
			C3: cell(46_521.5, 'yyyy-mm-dd hh:mm')
		});
		sheet['!ref'] = 'A1:C3';
		const made = utils.book_new();
		utils.book_append_sheet(made, sheet, 'One');
		const { values } = await read('f.xlsx', write(made, { type: 'buffer', bookType: 'xlsx' }) as Buffer);
		expect(values[0]).toEqual({ at: '10:30:00', day: '2027-05-14', both: '2027-05-14T18:00:00' });
		expect(values[1]).toMatchObject({ at: '00:00:00', both: '2027-05-14T12:00:00' });
	});
	test('integers beyond what the reader holds are right to the last digit', async () => {
		const cell = (digits: string) => ({ t: 'n', v: { toString: () => digits } }) as unknown as CellObject;
		const sheet = utils.aoa_to_sheet([['name', 'id']]);
		Object.assign(sheet, {
			A2: { t: 's', v: 'x' },
			B2: cell('9007199254740993'),
			A3: { t: 's', v: 'y' },
			B3: cell('7')
		});
		sheet['!ref'] = 'A1:B3';
		const made = utils.book_new();
		utils.book_append_sheet(made, utils.aoa_to_sheet([['other'], [1]]), 'First');
		utils.book_append_sheet(made, sheet, 'Second');
		const bytes = write(made, { type: 'buffer', bookType: 'xlsx' }) as Buffer;
		const found = await read('f.xlsx', bytes, { read: { sheet: 'Second' }, types: { id: 'number' } });
		expect(found.values).toEqual([
			{ name: 'x', id: 9007199254740993n },
			{ name: 'y', id: 7 }
		]);
		expect(found.all.map((row) => row.problem)).toEqual([undefined, undefined]);
	});
	test('a sheet: types, dates without a time zone, merged cells, the sheet by name', async () => {
		const bytes = book(
			[
				['Berth code', 'nights', 'from', 'free', 'basin'],
				['A-01', 3, new Date(Date.UTC(2027, 6, 1)), true, 'Upper'],
				['A-02', 2.5, new Date(Date.UTC(2027, 6, 1, 9, 30)), false, null]
			],
			['E2:E3']
		);
		const found = await read('f.xlsx', bytes, { read: { sheet: 'Berths' } });
		expect(found.values).toEqual([
			{ berthCode: 'A-01', nights: 3, from: '2027-07-01', free: true, basin: 'Upper' },
			{ berthCode: 'A-02', nights: 2.5, from: '2027-07-01T09:30:00', free: false, basin: 'Upper' }
		]);
		expect(found.notes.join('; ')).toBe(
			'sheet Berths, one of 2; 1 merged area: each cell of it holds its value; names of the columns in the first row'
		);
		expect((await read('f.xlsx', bytes)).values).toEqual([{ other: 1 }]);
	});
	test('a sheet that is not there, and a file that is no workbook', async () => {
		await expect(read('f.xlsx', book([['a'], [1]]), { read: { sheet: 'Berth' } })).rejects.toThrow(
			'there is no sheet "Berth": did you mean "Berths"?'
		);
		await expect(read('f.xlsx', Buffer.from('PK\x03\x04 no'))).rejects.toThrow(/^f\.xlsx: /);
	});
	test('a workbook that unpacks to more than anybody has is refused unread', async () => {
		const entry = Buffer.alloc(46);
		entry.writeUInt32LE(0x02014b50, 0);
		entry.writeUInt32LE(0xfffffff0, 24);
		await expect(read('f.xlsx', entry)).rejects.toThrow('too large to be read whole (more than 400 MB unpacked)');
	});
	test('a name may leave the ending out, unless two files have it', async () => {
		const files = new Map([
			['datasets/a.csv', Buffer.from('x\n1\n')],
			['datasets/a.json', Buffer.from('[]')],
			['datasets/berths.csv', Buffer.from('x\n1\n')]
		]);
		const open = createDatasets(memorySource(files));
		expect((await open(spec('berths'))).file).toBe('berths.csv');
		await expect(open(spec('a'))).rejects.toThrow('"a" may be a.csv and a.json: write which one is meant');
		await expect(open(spec('berth'))).rejects.toThrow(
			'there is no dataset "berth" in datasets/: did you mean "berths"?'
		);
	});
});

describe('a large file', () => {
	let dir: string;
	beforeAll(() => {
		dir = mkdtempSync(join(tmpdir(), 'heron-data-'));
		writeFileSync(join(dir, 'big.csv'), `a,b\n${Array.from({ length: 200_000 }, (_, i) => `row${i},${i}\n`).join('')}`);
	});
	afterAll(() => rmSync(dir, { recursive: true, force: true }));
	test('is read piece by piece, and no further than it is asked for', async () => {
		let read = 0;
		const source = folderSource(
			['datasets/big.csv'],
			() => join(dir, 'big.csv'),
			(path) => readFileSync(path)
		);
		const counted = {
			...source,
			async *pieces(path: string, from: number) {
				for await (const piece of source.pieces(path, from)) {
					read += piece.length;
					yield piece;
				}
			}
		};
		const dataset = await createDatasets(counted)(spec('big'));
		expect(dataset.count).toBeUndefined();
		for await (const row of dataset.rows()) if (row.number === 10) break;
		expect(read).toBeLessThan(1_000_000);
		let count = 0;
		for await (const row of dataset.rows()) count = row.number;
		expect(count).toBe(200_000);
	});
});

describe('what is larger than anybody meant', () => {
	test('of a file of two gigabytes only the rows that are wanted are read', async () => {
		const line = Buffer.from('A-01,3,a boat that is called for\n'.repeat(2000));
		let read = 0;
		const source = {
			files: () => ['datasets/huge.csv'],
			size: () => 2 ** 31,
			head: (_: string, size: number) => Buffer.concat([Buffer.from('berth,nights,boat\n'), line]).subarray(0, size),
			whole: () => {
				throw new Error('it was read whole');
			},
			async *pieces() {
				yield Buffer.from('berth,nights,boat\n');
				for (; read < 2 ** 31; read += line.length) yield line;
			}
		};
		const dataset = await createDatasets(source)(spec('huge'));
		let rows = 0;
		for await (const row of dataset.rows()) {
			expect(row.values).toEqual({ berth: 'A-01', nights: 3, boat: 'a boat that is called for' });
			if (++rows === 5000) break;
		}
		expect(read).toBeLessThan(5_000_000);
	});
	test('a JSON file of that size is refused before it is read', async () => {
		const source = { ...memorySource(new Map()), files: () => ['datasets/huge.json'], size: () => 2 ** 31 };
		await expect(createDatasets(source)(spec('huge'))).rejects.toMatchObject({ code: 'dataset.large' });
	});
});
