import { describe, expect, test } from 'vitest';
import type { Json, JsonObject } from '../model/json.ts';
import { parseParams, writeParams } from '../model/params.ts';
import { fieldsOf, partsOfValue, valueOfFields, valueOfParts } from './index.ts';

const schema = (properties: JsonObject): JsonObject => ({ type: 'object', properties });
const color = { type: 'array', items: { type: 'string' } };
const numbers = { type: 'array', items: { type: 'integer' } };
const rgb = { type: 'object', properties: { R: { type: 'integer' }, G: { type: 'integer' }, B: { type: 'integer' } } };

describe('the fields of a form are one value, and are written from it', () => {
	// the examples of OpenAPI 3.1 section 4.8.12.4, as a form writes them
	const both: [string, JsonObject, JsonObject, Json, JsonObject][] = [
		['a text', schema({ color: { type: 'string' } }), {}, { color: 'blue' }, { color: 'blue' }],
		['an empty text', schema({ color: { type: 'string' } }), {}, { color: '' }, { color: '' }],
		[
			'a list, by itself',
			schema({ color }),
			{},
			[
				['color', 'blue'],
				['color', 'black'],
				['color', 'brown']
			],
			{ color: ['blue', 'black', 'brown'] }
		],
		[
			'a list in one field',
			schema({ color }),
			{ color: { style: 'form', explode: false } },
			{ color: 'blue,black,brown' },
			{ color: ['blue', 'black', 'brown'] }
		],
		[
			'a list with spaces',
			schema({ color }),
			{ color: { style: 'spaceDelimited', explode: false } },
			{ color: 'blue black brown' },
			{ color: ['blue', 'black', 'brown'] }
		],
		[
			'a list with bars',
			schema({ color }),
			{ color: { style: 'pipeDelimited', explode: false } },
			{ color: 'blue|black|brown' },
			{ color: ['blue', 'black', 'brown'] }
		],
		[
			'an object, deep',
			schema({ color: rgb }),
			{ color: { style: 'deepObject', explode: true } },
			{ 'color[R]': '100', 'color[G]': '200', 'color[B]': '150' },
			{ color: { R: 100, G: 200, B: 150 } }
		],
		[
			'an object whose properties are fields',
			schema({ color: rgb }),
			{ color: { style: 'form', explode: true } },
			{ R: '100', G: '200', B: '150' },
			{ color: { R: 100, G: 200, B: 150 } }
		],
		['an object without a style is JSON', schema({ color: rgb }), {}, { color: '{"R":100}' }, { color: { R: 100 } }],
		['what the schema does not know', schema({}), {}, { own: 'x' }, { own: 'x' }],
		[
			'numbers and truth values as they are written',
			schema({ n: { type: 'integer' }, on: { type: 'boolean' } }),
			{},
			{ n: 7, on: true },
			{ n: 7, on: true }
		],
		[
			'expressions',
			schema({ n: { type: 'integer' }, list: numbers }),
			{},
			{ n: '{$env.n}', list: '{$env.list}' },
			{ n: '{$env.n}', list: ['{$env.list}'] }
		]
	];
	test.each(both)('%s', (_, root, encoding, written, value) => {
		expect(valueOfFields(parseParams(written), root, encoding)).toEqual(value);
		const back = writeParams(fieldsOf(value, [], encoding));
		const texts = (given: Json) => parseParams(given).map(({ name, value: one }) => [name, String(one as string)]);
		expect(texts(back)).toEqual(texts(written));
	});
	test('a text is the number that the schema wants, where nothing is lost', () => {
		const root = schema({ n: { type: 'integer' }, code: { type: 'integer' }, list: numbers });
		const given = [
			['n', '7'],
			['code', '007'],
			['list', '1'],
			['list', 'x']
		] as Json;
		expect(valueOfFields(parseParams(given), root, {})).toEqual({ n: 7, code: '007', list: [1, 'x'] });
	});
	test('what is switched off is in no value, and stays', () => {
		const before = parseParams({ a: 'x', b: { value: 'y', off: true } });
		expect(valueOfFields(before, schema({}), {})).toEqual({ a: 'x' });
		expect(fieldsOf({ a: 'z' }, before, {})).toEqual([
			{ name: 'a', value: 'z', off: false },
			{ name: 'b', value: 'y', off: true }
		]);
		expect(fieldsOf({ a: 'z', b: 'on' }, before, {}).map(({ name }) => name)).toEqual(['a', 'b']);
	});
	test('an empty list has no field', () => {
		expect(fieldsOf({ color: [] }, [], {})).toEqual([]);
	});
});

describe('the parts of a multipart body are one value, and are written from it', () => {
	const root = schema({
		permit: { type: 'object', properties: { boat: { type: 'string' } } },
		scan: { type: 'string', format: 'binary' },
		pages: { type: 'array', items: { type: 'string', format: 'binary' } },
		nights: { type: 'integer' }
	});
	const parts: JsonObject[] = [
		{ name: 'permit', json: { boat: 'Slow Tide' }, headers: { 'X-A': 'b' } },
		{ name: 'scan', file: 'files/permit.pdf', type: 'application/pdf', filename: 'p.pdf' },
		{ name: 'pages', file: 'files/1.pdf' },
		{ name: 'pages', file: 'files/2.pdf', filename: 'two.pdf' },
		{ name: 'nights', text: '3' },
		{ name: 'note', text: 'later', off: true }
	];
	const value = {
		permit: { boat: 'Slow Tide' },
		scan: 'files/permit.pdf',
		pages: ['files/1.pdf', 'files/2.pdf'],
		nights: 3
	};
	test('each part is where its name says; files stand by their paths', () => {
		expect(valueOfParts(parts, root)).toEqual(value);
	});
	test('written again, all that a part says beside its content stays', () => {
		const next = partsOfValue({ ...value, nights: 4, scan: 'files/other.pdf' }, parts, root, {});
		expect(next).toEqual([
			parts[0],
			{ ...parts[1], file: 'files/other.pdf' },
			parts[2],
			parts[3],
			{ name: 'nights', text: 4 },
			parts[5]
		]);
	});
	test('one page less takes its part along, and no other', () => {
		const next = partsOfValue({ ...value, pages: ['files/1.pdf'] }, parts, root, {});
		expect(next.filter(({ name }) => name === 'pages')).toEqual([parts[2]]);
	});
	test('a new part is what its schema and its encoding say', () => {
		const encoding = { permit: { contentType: 'application/vnd.permit+json' }, scan: { contentType: 'image/*' } };
		expect(partsOfValue(value, [], root, encoding)).toEqual([
			{ name: 'permit', json: value.permit, type: 'application/vnd.permit+json' },
			{ name: 'scan', file: 'files/permit.pdf' },
			{ name: 'pages', file: 'files/1.pdf' },
			{ name: 'pages', file: 'files/2.pdf' },
			{ name: 'nights', text: 3 }
		]);
		// a sample that is no file yet is a text
		expect(partsOfValue({ scan: 'text' }, [], root, {})).toEqual([{ name: 'scan', text: 'text' }]);
	});
});
