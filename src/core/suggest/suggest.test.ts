import { describe, expect, test } from 'vitest';
import type { Json, JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import { fittingRelation, inferSchema, suggestChecks } from './index.ts';

describe('the relation that fits a value', () => {
	const cases: [string, Json, JsonObject][] = [
		['a number', 3, { equals: 3 }],
		['a text', 'held', { equals: 'held' }],
		['nothing', null, { equals: null }],
		['a list', [1, 2], { count: 2 }],
		['an object', { a: 1 }, { type: 'object' }],
		['a UUID', '6f1c3f0e-5a3b-4c58-9c7e-0d3c0f3c9a11', { matches: '^[0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12}$' }],
		['a time', '2027-05-14T10:00:00Z', { matches: '^\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d' }],
		['a reference', 'RW-204417', { matches: '^RW-\\d{6}$' }],
		['a day stays as it is', '2027-05-14', { equals: '2027-05-14' }]
	];
	test.each(cases)('%s', (_, value, expected) => expect(fittingRelation(value)).toEqual(expected));
});

describe('a schema inferred from answers', () => {
	test('knows types, formats, and what is always there', () => {
		expect(
			inferSchema([
				{ id: 1, at: '2027-05-14T10:00:00Z', note: null, items: [{ n: 1.5 }, { n: 2, tag: 'x' }] },
				{ id: 2, at: '2027-05-15T10:00:00Z', note: 'late', items: [] }
			])
		).toEqual({
			$schema: 'https://json-schema.org/draft/2020-12/schema',
			type: 'object',
			properties: {
				id: { type: 'integer' },
				at: { type: 'string', format: 'date-time' },
				note: { type: ['null', 'string'] },
				items: {
					type: 'array',
					items: {
						type: 'object',
						properties: { n: { type: 'number' }, tag: { type: 'string' } },
						required: ['n']
					}
				}
			},
			required: ['id', 'at', 'note', 'items']
		});
	});
});

describe('suggested checks', () => {
	const headers: HeaderList = [['Content-Type', 'application/json']];
	const answer = { status: 200, headers, data: { total: 2, state: 'open', items: [{ id: 'a' }, { id: 'b' }] } as Json };
	const texts = (earlier: (typeof answer)[] = [], checks: JsonObject[] = []) =>
		suggestChecks(answer, earlier, checks, 'schemas/x.json', () => ({})).map((one) => one.text);
	test('of one answer: status, type, shape, lists, counts that agree', () => {
		expect(texts()).toEqual([
			'status 200',
			'Content-Type application/json',
			'the shape of it, as a schema',
			'$.items is not empty',
			'no id of $.items stands twice',
			'$.items has as many items as $.total says',
			'time below 1 s'
		]);
	});
	test('of several answers: what was the same in all of them too', () => {
		const list = texts([answer, { ...answer, data: { total: 2, state: 'open', items: [{ id: 'c' }, { id: 'd' }] } }]);
		expect(list).toContain('$.state equals open');
		expect(list).toContain('$.items has 2 items');
	});
	test('nothing that changed is taken for what must be', () => {
		expect(texts([{ ...answer, data: { total: 2, state: 'shut', items: [] } }])).not.toContain('$.state equals open');
	});
	test('nothing that is checked already', () => {
		const list = texts(
			[],
			[
				{ status: 200 },
				{ header: 'content-type', contains: 'json' },
				{ schema: 'x' },
				{ body: '$.items', count: 2 },
				{ time: { below: '1 s' } }
			]
		);
		expect(list).toEqual([]);
	});
});

describe('what the answer of a SOAP call suggests', () => {
	const headers: HeaderList = [['Content-Type', 'text/xml; charset=utf-8']];
	const fault = { code: 'Client', reasons: [{ text: 'too long' }] };
	const texts = (checks: JsonObject[], more: object = {}) =>
		suggestChecks(
			{ status: 200, headers, data: {}, defined: true, soap: true, ...more },
			[],
			checks,
			'x.json',
			() => ({})
		).map(({ text }) => text);
	test('that there is no fault and that it fits come first', () => {
		expect(texts([]).slice(0, 2)).toEqual(['no fault', 'it fits the contract']);
	});
	test('a fault is suggested as what is expected, with its reason', () => {
		const suggested = texts([], { status: 500, fault });
		expect(suggested[0]).toBe('a fault is expected: Client');
		expect(suggested).toContain('its reason is too long');
		expect(suggested).not.toContain('no fault');
	});
	test('a check that there is none gives way to one that expects it', () => {
		expect(texts([{ fault: 'code', present: false }, { contract: true }], { fault })[0]).toBe(
			'a fault is expected: Client'
		);
	});
	test('nothing that is checked already is suggested', () => {
		const suggested = texts([{ fault: 'code', equals: 'Client' }, { contract: true }], { fault });
		expect(suggested).not.toContain('it fits the contract');
		expect(suggested.some((text) => text.startsWith('a fault'))).toBe(false);
	});
	test('a call without a definition has no contract', () => {
		expect(texts([], { defined: false })).not.toContain('it fits the contract');
	});
});

describe('what an answer in XML suggests', () => {
	const headers: HeaderList = [['Content-Type', 'application/xml']];
	const list = {
		moorings: {
			'@total': '2',
			number: 'RW-204417',
			mooring: [
				{ '@id': 'B-1', state: 'free' },
				{ '@id': 'B-2', state: 'free' }
			]
		}
	};
	const made = (data: Json, earlier: Json[] = [], soap = false) =>
		suggestChecks(
			{ status: 200, headers, data, soap, defined: soap },
			earlier.map((one) => ({ status: 200, headers, data: one })),
			[],
			'x.json',
			() => ({})
		).map(({ check }) => check);
	test('speaks of places as XPath: identifiers, counts, what stands once', () => {
		expect(made(list)).toEqual(
			expect.arrayContaining([
				{ body: '/moorings/number', present: true },
				{ body: '/moorings/mooring', count: { atLeast: 1 } },
				{ body: '/moorings/mooring/@id', unique: true }
			])
		);
	});
	test('tells what was the same in all answers', () => {
		expect(made(list, [list])).toEqual(
			expect.arrayContaining([
				{ body: '/moorings/mooring', count: 2 },
				{ body: '/moorings/@total', equals: '2' }
			])
		);
	});
	test('of an envelope, what is in its body', () => {
		const places = made(
			{ Envelope: { Header: { id: '1' }, Body: { Passage: { reference: 'RW-204417', day: '2027-05-01' } } } },
			[],
			true
		)
			.map(({ body }) => body)
			.filter(Boolean);
		expect(places).toEqual(['/Envelope/Body/Passage/reference']);
	});
});

test('a call that an OpenAPI document knows may be held against it, and is read like any other', () => {
	const suggested = suggestChecks(
		{ status: 200, headers: [['Content-Type', 'application/json']], data: { id: 'a' }, defined: true },
		[],
		[],
		'x.json',
		() => ({})
	).map(({ text }) => text);
	expect(suggested[0]).toBe('it fits the contract');
	expect(suggested).toContain('$.id is present');
});
