import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import {
	fieldOf,
	findTables,
	headerNotes,
	hexLines,
	keysTwice,
	orderedRows,
	readBody,
	tableCsv,
	tableRow,
	withPage
} from './index.ts';

const encode = (text: string) => new TextEncoder().encode(text);
const read = (body: string | Uint8Array, type = 'application/json') =>
	readBody(typeof body === 'string' ? encode(body) : body, type ? [['Content-Type', type]] : []);

describe('a body is read for what it is', () => {
	const cases: [string, string, string, string, Json | undefined, RegExp | undefined][] = [
		['JSON', '{"a":1}', 'application/json', 'json', { a: 1 }, undefined],
		['JSON with a type of its own', '[1]', 'application/vnd.reedmere+json', 'json', [1], undefined],
		[
			'JSON that is called text',
			'{"a":1}',
			'text/plain',
			'json',
			{ a: 1 },
			/header says text\/plain, and the body is JSON/
		],
		['JSON without a type', '{"a":1}', '', 'json', { a: 1 }, undefined],
		['JSON with a byte-order mark', '\uFEFF{"a":1}', 'application/json', 'json', { a: 1 }, undefined],
		['digits beyond 2^53', '{"a":9007199254740993}', 'application/json', 'json', { a: 9007199254740993n }, undefined],
		['JSON that ends early', '{"a": [1, 2', 'application/json', 'text', undefined, /ends early/],
		['JSON with NaN', '{"a": NaN}', 'application/json', 'text', undefined, /NaN/],
		['JSON with a slip', '{"a": 1,\n "b" 2}', 'application/json', 'text', undefined, /line 2/],
		['HTML that is called JSON', '<!doctype html><p>x', 'application/json', 'html', undefined, /not JSON: it is HTML/],
		['HTML', '<html><p>x</html>', 'text/html', 'html', undefined, undefined],
		['XML', '<a><b>1</b></a>', 'application/xml', 'xml', { a: { b: '1' } }, undefined],
		['XML that is called JSON', '<a/>', 'application/json', 'xml', { a: '' }, /not JSON: it is XML/],
		['XML that ends early', '<a><b>', 'text/xml', 'text', undefined, /not well-formed/],
		['a line for each document', '{"n":1}\n{"n":2}\n', 'application/x-ndjson', 'rows', [{ n: 1 }, { n: 2 }], undefined],
		[
			'lines that are called one document',
			'{"n":1}\n{"n":2}\n',
			'application/json',
			'rows',
			[{ n: 1 }, { n: 2 }],
			undefined
		],
		[
			'a line that is none',
			'{"n":1}\noops\n',
			'application/x-ndjson',
			'rows',
			[{ n: 1 }, { line: 'oops' }],
			/1 of 2 lines/
		],
		[
			'events',
			'event: tide\nid: 4\ndata: {"n":1}\n\ndata: a\ndata: b\n\n',
			'text/event-stream',
			'events',
			[{ event: 'tide', id: '4', data: { n: 1 } }, { data: 'a\nb' }],
			undefined
		],
		['a table', 'id;name\n1;"Sedge; Reach"\n', 'text/csv', 'csv', [{ id: '1', name: 'Sedge; Reach' }], undefined],
		['text', 'all is well', 'text/plain', 'text', undefined, undefined],
		['nothing', '', 'application/json', 'text', undefined, undefined]
	];
	test.each(cases)('%s', (_, text, type, form, data, note) => {
		const body = read(text, type);
		expect(body.form).toBe(form);
		expect(body.data).toEqual(data);
		if (note) expect(body.notes.join('\n')).toMatch(note);
		else expect(body.notes).toEqual([]);
	});
	test.each<[string, string, string, Json | undefined]>([
		[
			'a page as a browser reads it',
			'<!doctype html><form><input name=csrf value="a&lt;b"><p>one<p>two</form>',
			'text/html',
			{
				html: {
					head: '',
					body: { form: { input: { '@name': 'csrf', '@value': 'a<b' }, p: ['one', 'two'] } }
				}
			}
		],
		['a page that is XML, as XML', '<html><p>x</p></html>', 'text/html; charset=utf-8', { html: { p: 'x' } }],
		['a page by another type, of which XPath finds nothing', '<!doctype html><p>x', 'application/json', undefined],
		['what is no page', '{"a":1}', 'application/json', { a: 1 }]
	])('the tree of %s', async (_, text, type, data) => {
		expect((await withPage(read(text, type))).data).toEqual(data);
	});
	test.each<[string, (string | number)[], { name: string; selector: string } | undefined]>([
		[
			'a field by its name',
			['html', 'body', 'form', 'input', 0, '@value'],
			{ name: 'csrf', selector: '//input[@name="csrf"]/@value' }
		],
		[
			'what a page says of itself',
			['html', 'head', 'meta', '@content'],
			{ name: 'csrf-token', selector: '//meta[@name="csrf-token"]/@content' }
		],
		['not one of two by the same name', ['html', 'body', 'form', 'input', 1, '@value'], undefined],
		['not what has no name', ['html', 'body', 'form', 'input', 3, '@value'], undefined],
		['not what is no value', ['html', 'body', 'form', 'input', 0, '@name'], undefined],
		['not a place that is not there', ['html', 'body', 'form', 'input', 9, '@value'], undefined]
	])('the value of a page is found as %s', async (_, path, field) => {
		const page =
			'<meta name=csrf-token content=m-1><form><input name=csrf value=t-1><input name=way value=a><input name=way value=b><input value=x></form>';
		const { data } = await withPage(read(page, 'text/html'));
		expect(fieldOf(data!, path)).toEqual(field);
	});
	test('bytes that are no text', () => {
		expect(read(new Uint8Array([0, 1, 2, 255, 254, 0]), 'application/octet-stream').form).toBe('binary');
	});
	test('a charset that the header names', () => {
		expect(read(new Uint8Array([0x22, 0xfc, 0x22]), 'application/json; charset=iso-8859-1').data).toBe('ü');
	});
	test('a charset that is wrong is told', () => {
		expect(read(new Uint8Array([0x22, 0xfc, 0x22]), 'application/json').notes[0]).toMatch(/not utf-8/);
	});
	test('a charset that nobody knows is told', () => {
		expect(read('"x"', 'application/json; charset=klingon').notes[0]).toMatch(/klingon is not known/);
	});
	test('the charset of an XML declaration', () => {
		const bytes = Uint8Array.from('<?xml version="1.0" encoding="ISO-8859-1"?><a>\xfc</a>', (c) => c.charCodeAt(0));
		expect(read(bytes, 'application/xml').data).toEqual({ a: 'ü' });
	});
	test('UTF-16 by its mark', () => {
		const bytes = new Uint8Array([0xff, 0xfe, 0x31, 0]);
		expect(read(bytes, 'text/plain').text).toBe('1');
	});
	test('a picture that is called something else', () => {
		const body = read(new Uint8Array([0x89, 0x50, 0x4e, 0x47, 13, 10, 26, 10]), 'application/json');
		expect(body).toMatchObject({ form: 'picture', type: 'image/png' });
		expect(body.notes).toHaveLength(1);
	});
	test('parts of a multipart body, each read for what it is', () => {
		const text =
			'--b1\r\nContent-Type: application/json\r\n\r\n{"a":1}\r\n--b1\r\nContent-Disposition: form-data; name="n"\r\n\r\nhello\r\n--b1--\r\n';
		expect(read(text, 'multipart/mixed; boundary=b1').data).toEqual([
			{ headers: { 'Content-Type': 'application/json' }, size: 7, data: { a: 1 } },
			{ headers: { 'Content-Disposition': 'form-data; name="n"' }, size: 5, text: 'hello' }
		]);
	});
	test('keys that stand twice', () => {
		expect(keysTwice('{"a":1,"b":{"c":1,"c":2},"a":3}')).toEqual(['c', 'a']);
		expect(keysTwice('{"a":1}')).toEqual([]);
	});
	test('bytes sixteen a line', () => {
		expect(hexLines(encode('Sedge Reach, Mill Basin'), 0, 2)).toEqual([
			'00000000  53 65 64 67 65 20 52 65  61 63 68 2c 20 4d 69 6c  Sedge Reach, Mil',
			'00000010  6c 20 42 61 73 69 6e                              l Basin'
		]);
	});
});

describe('tables', () => {
	const tables = findTables({
		total: 2,
		items: [
			{ id: 'A', name: 'Mill', berths: [{ no: 1, free: true }, { no: 2 }] },
			{ id: 'B', name: '=1+1', berths: [{ no: 3, size: { m: 12 } }], tags: ['x'] }
		]
	});
	test('a list of objects is one, lists inside its items another that belongs to it', () => {
		expect([...tables.values()].map(({ info }) => info)).toEqual([
			{ id: 'items', names: ['items'], rows: 2, columns: ['id', 'name', 'berths', 'tags'], key: 'id' },
			{ id: 'items.berths', names: ['items', 'berths'], rows: 3, columns: ['no', 'free', 'size'], parent: 'items' }
		]);
	});
	test('rows of a table say to which item they belong', () => {
		const berths = tables.get('items.berths')!;
		const rows = orderedRows(berths, { sort: { column: 'no', down: true } }).map((row) =>
			tableRow(tables, berths, row, ['no', 'free', 'size'])
		);
		expect(rows[0]).toEqual({
			path: ['items', 1, 'berths', 0],
			owner: 'B',
			cells: [{ text: '3', figure: true }, { text: '', missing: true }, { text: '{"m":12}' }]
		});
		expect(orderedRows(berths, { owner: 'A' })).toHaveLength(2);
	});
	test('a cell leads to the table below it', () => {
		const items = tables.get('items')!;
		expect(tableRow(tables, items, items.rows[0]!, ['berths']).cells).toEqual([{ text: '2', table: 'items.berths' }]);
	});
	test('CSV carries the owner, and no formula', () => {
		expect(tableCsv(tables.get('items.berths')!, ['no'])).toBe('items of,no\r\nA,1\r\nA,2\r\nB,3\r\n');
		expect(tableCsv(tables.get('items')!, ['id', 'name', 'tags'])).toBe(
			'id,name,tags\r\nA,Mill,\r\nB,\'=1+1,"[""x""]"\r\n'
		);
	});
	test('a list at the root has a table too', () => {
		expect([...findTables([{ a: 1 }]).keys()]).toEqual(['$']);
	});
});

describe('notes on headers', () => {
	const context = { secure: true, method: 'GET', status: 200, now: Date.UTC(2027, 4, 14) };
	const json: [string, string] = ['Content-Type', 'application/json'];
	const quiet: [string, string][] = [
		json,
		['X-Content-Type-Options', 'nosniff'],
		['Strict-Transport-Security', 'max-age=86400'],
		['Cache-Control', 'no-store']
	];
	const cases: [string, [string, string][], RegExp][] = [
		[
			'how long it may be kept',
			[['Cache-Control', 'public, max-age=600']],
			/any cache may keep it; it is fresh for 10 min/
		],
		['that nobody may keep it', [['Cache-Control', 'no-store']], /nobody may keep/],
		[
			'credentials for any page',
			[
				['Access-Control-Allow-Origin', '*'],
				['Access-Control-Allow-Credentials', 'true']
			],
			/browsers refuse/
		],
		['an origin that caches mix up', [['Access-Control-Allow-Origin', 'https://desk.example']], /mix origins up/],
		[
			'a cookie that scripts can read',
			[['Set-Cookie', 'session=1; Secure; SameSite=Lax']],
			/session is without HttpOnly/
		],
		[
			'what is left of a limit',
			[
				['RateLimit-Remaining', '3'],
				['RateLimit-Limit', '10']
			],
			/3 of 10 calls are left/
		],
		['when to ask again', [['Retry-After', '120']], /in 2 min/],
		['that it is deprecated', [['Deprecation', '@1767225600']], /since 2026-01-01, 498 d ago/],
		['when it goes away', [['Sunset', 'Sat, 15 May 2027 00:00:00 GMT']], /2027-05-15, in 1 d/],
		['the version of the software', [['Server', 'gate/2.4']], /version of the software/]
	];
	test.each(cases)('tell %s', (_, headers, expected) => {
		expect(
			headerNotes([json, ...headers], context)
				.map((note) => note.text)
				.join('\n')
		).toMatch(expected);
	});
	test('say nothing that asks for a look where all is well', () => {
		expect(headerNotes(quiet, context).filter((note) => note.attention)).toEqual([]);
	});
});

describe('an answer with attachments', () => {
	const fault =
		'<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><e:Fault><faultcode>e:Server</faultcode><faultstring>off</faultstring></e:Fault></e:Body></e:Envelope>';
	const body = `--b\r\nContent-Type: application/xop+xml\r\nContent-ID: <r>\r\n\r\n${fault}\r\n--b\r\nContent-Type: text/plain\r\nContent-ID: <n>\r\n\r\na note\r\n--b--`;
	const type = 'multipart/related; boundary=b; start="<r>"';
	test('is read as its envelope, with the parts beside it and the fault in it', () => {
		const found = read(body, type);
		expect(found.form).toBe('xml');
		expect(Object.keys(found.data as object)).toEqual(['Envelope']);
		expect(found.fault?.code).toBe('Server');
		expect(found.parts!.map((part) => [part.id, new TextDecoder().decode(part.bytes)])).toEqual([['n', 'a note']]);
	});
	test('whose root is no XML, or is missing, is read as parts', () => {
		expect(read(body.replace(fault, '{"a": 1}'), type).form).toBe('multipart');
		expect(read(body, type.replace('<r>', '<gone>')).form).toBe('multipart');
	});
	test('XML that holds no envelope has no fault', () => {
		expect(read('<Fault/>', 'text/xml').fault).toBeUndefined();
	});
});
