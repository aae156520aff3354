import { readFileSync } from 'node:fs';
import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import { viewReply } from '../model/view.ts';
import { compilePattern, decodeText } from '../values/index.ts';
import { jsonPathOf, select, selectorKinds, selectorProblem } from './index.ts';
import { compileJsonPath, singularPath } from './jsonpath.ts';

const reply = (body: string, headers: [string, string][] = [['Content-Type', 'application/json']]) =>
	viewReply({
		status: 200,
		reason: 'OK',
		version: 'HTTP/1.1',
		headers,
		body: new TextEncoder().encode(body),
		wireSize: body.length,
		reused: false,
		phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
	});

interface Case {
	name: string;
	selector: string;
	document?: Json;
	result?: Json[];
	results?: Json[][];
	invalid_selector?: boolean;
}
const suite = new URL(
	'../../../node_modules/jsonpath-rfc9535/src/__tests__/jsonpath-compliance-test-suite/cts.json',
	import.meta.url
);
const { tests } = JSON.parse(readFileSync(suite, 'utf8')) as { tests: Case[] };

describe('JSONPath, the compliance suite of RFC 9535', () => {
	test('is all there', () => expect(tests.length).toBeGreaterThan(600));
	const valid = tests.filter((one) => !one.invalid_selector);
	test.each(valid.map((one) => [one.name, one] as const))('%s', (_, { selector, document, result, results }) => {
		const path = compileJsonPath(selector);
		const found = path.select(document!);
		const values = path.singular ? (found.found ? [found.value] : []) : found.found ? (found.value as Json[]) : [];
		expect(results ?? [result]).toContainEqual(values);
	});
	test.each(tests.filter((one) => one.invalid_selector).map((one) => [one.name, one.selector] as const))(
		'refuses: %s',
		(_, selector) => {
			expect(() => compileJsonPath(selector)).toThrow();
		}
	);
});

describe('selectors', () => {
	test.each<[string, string, string, unknown]>([
		['a place that is there', '$.a.b[1]', '{"a": {"b": [1, null]}}', { found: true, value: null }],
		['a place that is not', '$.a.c', '{"a": {}}', { found: false }],
		['what an object inherits is not there', '$.constructor', '{}', { found: false }],
		['a query for many gives a list', '$[*].id', '[{"id": 1}, {}]', { found: true, value: [1] }],
		['a query for many that finds none gives an empty list', '$[?@.id == 7]', '[]', { found: true, value: [] }],
		['the first group of a pattern', 'regex:ticket=(\\d+)', 'x ticket=42 y', { found: true, value: '42', text: true }],
		['the whole match without a group', 'regex:t\\w+', 'x ticket', { found: true, value: 'ticket', text: true }]
	])('%s', (_, selector, body, found) => {
		expect(select(selector, reply(body))).toEqual(found);
	});
	test('headers and cookies are found whatever their case and number', () => {
		const view = reply('', [
			['SET-COOKIE', 'session=abc=; Path=/'],
			['x-a', '1'],
			['X-A', '2']
		]);
		expect(select('header:X-a', view)).toEqual({ found: true, value: '1, 2', text: true });
		expect(select('cookie:session', view)).toEqual({ found: true, value: 'abc=', text: true });
		expect(select('cookie:other', view)).toEqual({ found: false });
	});
	test('a body that is not JSON is said, with its start', () => {
		expect(() => select('$.a', reply('<html>'))).toThrow(/not JSON.*<html>/);
	});
	test('a pattern in a filter cannot hang', () => {
		const view = reply(JSON.stringify([{ v: `${'a'.repeat(5000)}!` }]));
		expect(select("$[?search(@.v, '(a+)+$')]", view)).toEqual({ found: true, value: [] });
	});
	test.each(selectorKinds.map((kind) => [kind.name, kind.example] as const))(
		'the example of %s is right',
		(_, example) => {
			expect(selectorProblem(example)).toBeUndefined();
		}
	);
	test.each(['$.a[', 'reference', 'header:', 'regex:(?=a)', '$..'])('%s is refused with a reason', (selector) => {
		expect(selectorProblem(selector)).toBeTruthy();
	});
	test.each<[string, string | undefined]>([
		['/', undefined],
		['/a', undefined],
		['/a/', 'something is missing behind "/"'],
		['//', 'something is missing behind "//"'],
		['/a = ', 'something is missing behind "="'],
		['/a/@', 'something is missing behind "@"'],
		['/a[1', '"[" is not closed'],
		['/a)', '")" at character 3 closes nothing'],
		['/a[(1])', '"]" at character 6 closes nothing'],
		['/a["x', 'a quote is not closed'],
		['/a#', '"#" at character 3 does not belong there']
	])('the XPath %s: %s', (selector, reason) => {
		const problem = selectorProblem(selector);
		if (reason === undefined) expect(problem).toBeUndefined();
		else expect(problem).toContain(reason);
	});
	test('paths are written and read alike', () => {
		const path = ['items', 0, 'unit price', 'a.b'];
		expect(jsonPathOf(path)).toBe("$.items[0]['unit price']['a.b']");
		expect(singularPath(jsonPathOf(path))).toEqual(path);
	});
});

describe('what is read as a list, though it is not JSON', () => {
	const events = 'id: 7\nevent: copy\ndata: {"n": 1}\n\n: a comment\n\ndata: two\ndata: lines\n\n';
	const parts = '--b\r\nContent-Type: application/json\r\n\r\n{"n": 1}\r\n--b\r\n\r\ntext\r\n--b--\r\n';
	test.each<[string, string, string, string, Json | undefined]>([
		[
			'a table, by the names of its columns',
			'text/csv',
			'isbn;title\r\n1;"A; ""b"""\r\n2;Ü\r\n',
			'$[*].title',
			['A; "b"', 'Ü']
		],
		['a table of tabs', 'text/tab-separated-values', 'a\tb\n1\t2\n', 'pointer:/0/b', '2'],
		[
			'a document a line',
			'application/x-ndjson',
			'{"n":1}\n{"n":9007199254740993}\n',
			'$[1].n',
			9007199254740993n as unknown as Json
		],
		['a single document of a line each', 'application/x-ndjson', '{"n":1}\n', '$[0].n', 1],
		['a document a line that is called JSON', 'application/json', '{"n":1}\n{"n":2}\n', '$[?@.n > 1].n', [2]],
		['documents behind record separators', 'application/json-seq', '\u001e{"n":1}\n\u001e{"n":2}\n', '$[*].n', [1, 2]],
		['events, and data that is JSON', 'text/event-stream', events, '$[0]', { id: '7', event: 'copy', data: { n: 1 } }],
		['events, and data of several lines', 'text/event-stream', events, '$[1].data', 'two\nlines'],
		['parts that are JSON', 'multipart/mixed; boundary=b', parts, '$[0].data.n', 1],
		['parts that are text', 'multipart/mixed; boundary=b', parts, '$[1].text', 'text'],
		['what a table does not have', 'text/csv', 'a\n1\n', '$[0].b', undefined]
	])('%s', async (_, type, body, selector, value) => {
		const found = await select(selector, reply(body, [['Content-Type', type]]));
		expect(found).toEqual(
			value === undefined ? { found: false } : { found: true, value, ...(/csv|tab/.test(type) ? { text: true } : {}) }
		);
	});
	test('what says that it is one and is none is told', async () => {
		const view = reply('one, two', [['Content-Type', 'multipart/mixed']]);
		await expect((async () => select('$[0]', view))()).rejects.toThrow('the body is not JSON');
	});
});

describe('large and foreign', () => {
	test('a wildcard over a hundred thousand items', () => {
		const value = Array.from({ length: 130_000 }, (_, id) => ({ id }));
		const found = compileJsonPath('$[*].id').select(value);
		expect(found.found && (found.value as number[]).length).toBe(130_000);
		expect(compileJsonPath('$.*.id').places([{ id: 1 }, {}, { id: 2 }])).toEqual([
			[0, 'id'],
			[2, 'id']
		]);
	});
	test.each([
		['\\u00a0', true],
		['\\u000b', true],
		['\\u2003', true],
		['\\ufeff', true],
		['x', false]
	])('\\s matches %s as ECMAScript has it: %s', (escape, wanted) => {
		const text = JSON.parse(`"${escape}"`) as string;
		for (const source of ['^\\s$', '^[\\s]$', '^[a\\s-]$']) expect(compilePattern(source).test(text)).toBe(wanted);
		expect(compilePattern('^\\S$').test(text)).toBe(!wanted);
	});
	test('windows-1252 keeps the euro sign and curly quotes', () => {
		const bytes = Uint8Array.from([0x80, 0x93, 0x94, 0xfc]);
		for (const label of ['windows-1252', 'iso-8859-1', 'latin1'])
			expect(decodeText(bytes, label)).toMatchObject({ text: '€“”ü', valid: true });
	});
});
