import { describe, expect, it } from 'vitest';
import { changesBetween, documentWarnings, operationsOf, readOpenapi } from './index.ts';

const FILE = 'definitions/d.json';
const documentOf = (document: object) =>
	readOpenapi(FILE, (path) => (path === FILE ? JSON.stringify(document) : undefined));
const ok = { 200: { description: 'fine' } };
const withPaths = (paths: object, version = '3.1.0', more: object = {}) => ({
	openapi: version,
	info: { title: 'Gear', version: '1' },
	paths,
	...more
});
const withSchema = (schema: object, version = '3.1.0') =>
	withPaths(
		{ '/a': { get: { responses: { 200: { description: '', content: { 'application/json': { schema } } } } } } },
		version
	);
const AT = '/paths/~1a/get/responses/200/content/application~1json/schema';

describe('a document that breaks its own rules is read, and what is wrong in it is told with its place', () => {
	it.each<[string, object, [pointer: string, message: string][]]>([
		['nothing is wrong', withPaths({ '/a': { get: { responses: ok } } }), []],
		[
			'a reference that leads nowhere',
			withPaths({ '/a': { get: { responses: { 200: { $ref: '#/components/responses/Gone' } } } } }),
			[['/paths/~1a/get/responses/200', 'it refers to #/components/responses/Gone, and nothing is there']]
		],
		[
			'a path whose reference leads nowhere, beside one that can be called',
			withPaths({ '/a': { $ref: 'gone.yaml#/a' }, '/b': { get: { responses: ok } } }),
			[['/paths/~1a', 'there is no file definitions/gone.yaml in the project']]
		],
		[
			'an operationId that stands twice',
			withPaths({
				'/a': { get: { operationId: 'x', responses: ok } },
				'/b': { get: { operationId: 'x', responses: ok } }
			}),
			[['/paths/~1b/get/operationId', 'GET /a has the operationId x, too']]
		],
		[
			'an operation without responses',
			withPaths({ '/a': { get: {} } }),
			[['/paths/~1a/get', 'GET /a has no responses: no answer can be held against it']]
		],
		[
			'a status that is none',
			withPaths({ '/a': { get: { responses: { ok: { description: '' }, '2xx': { description: '' } } } } }),
			[['/paths/~1a/get/responses/ok', 'ok is no status: a code, a range as 2XX, or default is']]
		],
		[
			'null in 3.0',
			withSchema({ type: 'null' }, '3.0.3'),
			[[`${AT}/type`, '"null" is no type in 3.0: nullable: true says it']]
		],
		['null in 3.1', withSchema({ type: ['string', 'null'] }), []],
		[
			'values of a list that its items are meant to have',
			withSchema({ type: 'array', enum: ['a', 'b'], items: { type: 'string' } }),
			[[`${AT}/enum`, 'none of the values is of the type array: nothing would fit, and the list is left aside']]
		],
		['values of which one is of the type', withSchema({ type: 'integer', enum: [1, 'two'] }), []],
		[
			'a type that is nothing',
			withSchema({ type: null }),
			[[`${AT}/type`, 'type is nothing: "null" in quotes is meant, or the line is empty']]
		],
		[
			'nullable in 3.1',
			withSchema({ type: 'string', nullable: true }),
			[[`${AT}/nullable`, 'nullable says nothing in 3.1: a list of types with "null" says it']]
		],
		[
			'required on a property',
			withSchema({ properties: { a: { type: 'string', required: true } } }),
			[
				[
					`${AT}/properties/a/required`,
					'required is a list of names, beside properties: as it stands it asks for nothing'
				]
			]
		],
		[
			'a type that nobody knows',
			withSchema({ items: { type: 'int' } }),
			[[`${AT}/items/type`, expect.stringContaining('there is no type "int"') as never]]
		],
		[
			'an exclusive bound of another version',
			withSchema({ exclusiveMinimum: 3 }, '3.0.0'),
			[[`${AT}/exclusiveMinimum`, 'exclusiveMinimum is true or false in 3.0']]
		],
		[
			'a pattern that nobody can read',
			withSchema({ pattern: '(' }),
			[[`${AT}/pattern`, 'the pattern ( cannot be read']]
		],
		[
			'a limit in quotes',
			withSchema({ type: 'string', maxLength: '80' }),
			[[`${AT}/maxLength`, 'maxLength is a whole number from 0 on: "80" is taken as 80']]
		],
		[
			'a switch in quotes',
			withSchema({ properties: { a: { type: 'string', readOnly: 'true' }, b: { writeOnly: 1 } } }),
			[
				[`${AT}/properties/a/readOnly`, 'readOnly is true or false: "true" is taken as true'],
				[`${AT}/properties/b/writeOnly`, 'writeOnly is true or false: 1 is left aside']
			]
		],
		[
			'a limit that is none',
			withSchema({ properties: { a: { minLength: -1, maximum: 'high', multipleOf: 0, uniqueItems: 'yes' } } }),
			[
				[`${AT}/properties/a/minLength`, 'minLength is a whole number from 0 on: -1 is left aside'],
				[`${AT}/properties/a/maximum`, 'maximum is a number: "high" is left aside'],
				[`${AT}/properties/a/multipleOf`, 'multipleOf is a number above 0: 0 is left aside'],
				[`${AT}/properties/a/uniqueItems`, 'uniqueItems is true or false: "yes" is left aside']
			]
		],
		[
			'a choice of nothing',
			withSchema({ oneOf: [], enum: [], pattern: 5 }),
			[
				[`${AT}/enum`, 'enum is a list of values: [] is left aside'],
				[`${AT}/pattern`, 'pattern is a text: 5 is left aside'],
				[`${AT}/oneOf`, 'oneOf holds no schema: nothing would fit, and it is left aside']
			]
		],
		[
			'limits as they are',
			withSchema({ minLength: 0, maxLength: 5, multipleOf: 0.01, enum: [1], uniqueItems: true }),
			[]
		],
		[
			'a part of the path that is not declared',
			withPaths({ '/a/{id}': { get: { responses: ok } } }),
			[['/paths/~1a~1{id}/get', '{id} of /a/{id} is not declared as a parameter']]
		],
		[
			'a part of the path that is declared, and not there',
			withPaths({ '/a': { parameters: [{ name: 'id', in: 'path', required: true }], get: { responses: ok } } }),
			[['/paths/~1a/parameters/0', '/a has no {id}, which is declared as a part of the path']]
		],
		[
			'two paths that are one',
			withPaths({
				'/a/{x}': { get: { parameters: [{ name: 'x', in: 'path' }], responses: ok } },
				'/a/{y}': { get: { parameters: [{ name: 'y', in: 'path' }], responses: ok } }
			}),
			[['/paths/~1a~1{y}', '/a/{y} and /a/{x} are the same path: nothing tells them apart']]
		],
		['what an example holds is an example', withSchema({ example: { $ref: 'x', type: 'int' } }), []],
		[
			'a property may have any name',
			withSchema({ properties: { type: { type: 'string' }, $ref: { type: 'string' } } }),
			[]
		]
	])('%s', (_, document, wanted) => {
		expect(documentWarnings(documentOf(document)).map(({ pointer, message }) => [pointer, message])).toEqual(wanted);
	});
	it('a schema that holds itself is at an end', () => {
		const node = { $ref: '#/components/schemas/Node' };
		const document = withPaths({ '/a': { get: { responses: ok } } }, '3.1.0', {
			components: { schemas: { Node: { properties: { next: node } } } }
		});
		expect(documentWarnings(documentOf(document))).toEqual([]);
	});
});

describe('what a newer document says otherwise', () => {
	const lock = (more: object) =>
		withPaths(
			{
				'/a': {
					get: {
						summary: 'Reads',
						responses: {
							200: {
								description: 'a lock',
								content: { 'application/json': { schema: { $ref: '#/components/schemas/Lock' } } }
							}
						}
					}
				}
			},
			'3.1.0',
			{
				components: { schemas: { Lock: { type: 'object', properties: { description: { type: 'string' } }, ...more } } }
			}
		);
	const between = (before: object, after: object) =>
		changesBetween(operationsOf(documentOf(before))[0]!, operationsOf(documentOf(after))[0]!);
	it.each<[string, object, object, string[]]>([
		['nothing', lock({}), lock({}), []],
		['a description alone', lock({ description: 'old' }), lock({ description: 'new', example: {} }), []],
		['the order of what is required', lock({ required: ['a', 'b'] }), lock({ required: ['b', 'a'] }), []],
		[
			'a field that is required now',
			lock({ required: ['a'] }),
			lock({ required: ['a', 'b'] }),
			['Lock.required.1 is new: "b"']
		],
		[
			'a property that is called description',
			lock({}),
			lock({ properties: {} }),
			['Lock.properties.description is gone: {"type":"string"}']
		],
		[
			'a status of its own',
			lock({}),
			withPaths({ '/a': { get: { responses: ok } } }),
			['responses.200.content is gone: {"application/json":{"schema":{"$ref":"#… (68 characters)']
		]
	])('%s', (_, before, after, wanted) => {
		expect(between(before, after)).toEqual(wanted);
	});
	it('a parameter of the whole path', () => {
		const withLimit = (schema: object) =>
			withPaths({ '/a': { parameters: [{ name: 'limit', in: 'query', schema }], get: { responses: ok } } });
		expect(between(withLimit({ maximum: 5 }), withLimit({ maximum: 6 }))).toEqual([
			'parameters.limit (query).schema.maximum was 5, is 6'
		]);
	});
});
