import { describe, expect, test } from 'vitest';
import type { JsonObject } from '../model/json.ts';
import { operationsOf, readOpenapi } from '../openapi/index.ts';
import { fixesOf } from './fixes.ts';

const operations = (paths: object, components: object = {}) =>
	operationsOf(
		readOpenapi('definitions/a.json', () =>
			JSON.stringify({
				openapi: '3.1.0',
				info: { title: 'A', version: '1' },
				paths,
				components: { schemas: components }
			})
		)
	);
const answer = { responses: { 200: { description: 'ok' } } };
const query = (name: string, required = false, type = 'integer', more = {}) => ({
	...{ in: 'query', name, required, schema: { type }, ...more }
});
const json = (schema: object) => ({
	requestBody: { content: { 'application/json': { schema } } },
	...answer
});
const object = (required: string[], properties: object) => ({ type: 'object', required, properties });
/** The labels of fixes, and a step when all of them are made. */
function fixed(before: object, after: object, step: JsonObject): [labels: string[], step: JsonObject] {
	const fixes = [...fixesOf(operations(before), operations(after)).values()].flat();
	let now = step;
	const labels: string[] = [];
	for (const { label, edit } of fixes) {
		const next = edit(now);
		if (next !== now) labels.push(label);
		now = next;
	}
	return [labels, now];
}

describe('an operation that is elsewhere now', () => {
	const was = { '/boats/{id}/berths': { get: { operationId: 'berths', ...answer } } };
	const is = { '/fleet/{boat}/places': { get: { operationId: 'berths', ...answer } } };
	test.each([
		['GET /boats/{id}/berths?size=2', 'GET /fleet/{id}/places?size=2'],
		['GET /boats/{$steps.make.id}/berths', 'GET /fleet/{$steps.make.id}/places'],
		['GET /v1/boats/7/berths', 'GET /v1/fleet/7/places'],
		['GET http://h:1/boats/7/berths', 'GET http://h:1/fleet/7/places'],
		['GET {$env.base}/boats/7/berths', 'GET {$env.base}/fleet/7/places']
	])('%s is called as %s', (send, moved) => {
		expect(fixed(was, is, { send })).toEqual([
			['GET /boats/{id}/berths is called at /fleet/{boat}/places'],
			{ send: moved }
		]);
	});
	test.each([
		['another path', 'GET /boats/7'],
		['nothing to send', '']
	])('%s stays as it is', (_, send) => {
		const step = { send };
		expect(fixed(was, is, step)[1]).toBe(step);
	});
	test('a hole that nothing fills is left to whoever knows', () => {
		const more = { '/fleet/{boat}/places/{side}': { get: { operationId: 'berths', ...answer } } };
		const step = { send: 'GET /boats/7/berths' };
		expect(fixed(was, more, step)[1]).toBe(step);
	});
	test('another operation at the same place is not taken for it', () => {
		const both = { ...is, '/boats/{id}/berths': { get: { operationId: 'other', ...answer } } };
		const step = { send: 'GET /boats/7/berths' };
		expect(fixed(was, both, step)[1]).toBe(step);
	});
});

describe('a parameter', () => {
	const of = (...parameters: object[]) => ({ '/a': { get: { parameters, ...answer } } });
	test.each<[string, object, object, JsonObject, JsonObject]>([
		[
			'that became required is given',
			of(query('size')),
			of(query('size', true)),
			{ send: 'GET /a' },
			{ send: 'GET /a', query: { size: 1 } }
		],
		[
			'that is new and required, with its example',
			of(),
			of(query('lang', true, 'string', { example: 'en' })),
			{ send: 'GET /a', query: { q: 1 } },
			{ send: 'GET /a', query: { q: 1, lang: 'en' } }
		],
		[
			'that was there and off is switched on',
			of(query('size')),
			of(query('size', true)),
			{
				send: 'GET /a',
				query: [
					['size', { value: 5, off: true }],
					['q', 1]
				]
			},
			{
				send: 'GET /a',
				query: [
					['q', 1],
					['size', 1]
				]
			}
		],
		[
			'that is called otherwise',
			of(query('size', true)),
			of(query('limit', true)),
			{ send: 'GET /a?size=3', query: { x: 1 } },
			{ send: 'GET /a?limit=3', query: { x: 1 } }
		],
		[
			'that is called otherwise in a list of pairs',
			of(query('size')),
			of(query('limit')),
			{
				send: 'GET /a',
				query: [
					['size', 1],
					['size', 2]
				]
			},
			{
				send: 'GET /a',
				query: [
					['limit', 1],
					['limit', 2]
				]
			}
		],
		[
			'in a header, whatever its case',
			of({ ...query('X-Lock', true, 'string'), in: 'header' }),
			of({ ...query('X-Gate', true, 'string'), in: 'header' }),
			{ send: 'GET /a', headers: { 'x-lock': 'b' } },
			{ send: 'GET /a', headers: { 'X-Gate': 'b' } }
		]
	])('%s', (_, before, after, step, expected) => {
		expect(fixed(before, after, step)[1]).toEqual(expected);
	});
	test.each<[string, object, object, JsonObject]>([
		['that is given stays', of(query('size')), of(query('size', true)), { send: 'GET /a', query: { size: 4 } }],
		['that is given in the address stays', of(query('size')), of(query('size', true)), { send: 'GET /a?size=4' }],
		[
			'that was required and is left out on purpose stays out',
			of(query('size', true)),
			of(query('size', true)),
			{ send: 'GET /a' }
		],
		[
			'is not guessed where two may be meant',
			of(query('size')),
			of(query('limit'), query('page')),
			{ send: 'GET /a', query: { size: 1 } }
		]
	])('%s', (_, before, after, step) => {
		expect(fixed(before, after, step)[1]).toBe(step);
	});
});

describe('a body', () => {
	const of = (schema: object) => ({ '/a': { post: json(schema) } });
	const string = { type: 'string', minLength: 1 };
	const was = object(['a'], { a: string, lines: { type: 'array', items: object([], { n: { type: 'integer' } }) } });
	const is = object(['a', 'b'], {
		a: string,
		b: { type: 'string', enum: ['x', 'y'] },
		lines: { type: 'array', items: object(['n', 'unit'], { n: { type: 'integer' }, unit: { const: 'm' } }) }
	});
	test('gets what it must have now, also further down', () => {
		const [labels, step] = fixed(of(was), of(is), {
			send: 'POST /a',
			body: { json: { a: '{$env.a}', lines: [{ n: 1 }, { n: 2, unit: 'm' }] } }
		});
		expect(labels).toEqual(['POST /a: the body gets the fields that it must have now']);
		expect(step.body).toEqual({
			json: {
				a: '{$env.a}',
				b: 'x',
				lines: [
					{ n: 1, unit: 'm' },
					{ n: 2, unit: 'm' }
				]
			}
		});
	});
	test('that is text is read and written as text', () => {
		const [, step] = fixed(of(was), of(is), { send: 'POST /a', body: { json: '{"a":"q","id":9007199254740993}' } });
		expect((step.body as JsonObject).json).toBe('{\n  "a": "q",\n  "id": 9007199254740993,\n  "b": "x"\n}');
	});
	test.each<[string, JsonObject]>([
		['that lacks what was required before', { json: { b: 'x' } }],
		['whose text cannot be read', { json: '{"a": {$env.a}}' }],
		['of another kind', { text: 'a' }],
		['that has it all', { json: { a: 'q', b: 'y' } }]
	])('%s stays as it is', (_, body) => {
		const step = { send: 'POST /a', body };
		expect(fixed(of(was), of(is), step)[1]).toBe(step);
	});
	test('with schemas that refer to each other without end is completed as far as it goes', () => {
		const components = (required: string[]) => ({
			Node: object(required, { name: string, next: { $ref: '#/components/schemas/Node' } })
		});
		const schema = { $ref: '#/components/schemas/Node' };
		const fixes = fixesOf(operations(of(schema), components([])), operations(of(schema), components(['name'])));
		const step = { send: 'POST /a', body: { json: { next: { next: {} } } } };
		const { edit } = fixes.get('POST /a')!.find(({ key }) => key.endsWith('body'))!;
		const { next, name } = (edit(step).body as JsonObject).json as JsonObject as { next: JsonObject; name: string };
		expect(name).not.toBe('');
		expect((next.next as JsonObject).name).toBe(name);
	});
});
