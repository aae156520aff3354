import Ajv from 'ajv/dist/2020.js';
import { describe, expect, test } from 'vitest';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { parseJson, writeJson, type JsonObject } from '../model/json.ts';
import { compareSchemas, type Direction } from './compare-schema/index.ts';
import { compareDefinitions } from './compare.ts';
import { readOpenapi } from './document.ts';
import { operationsOf } from './operations.ts';
import { sampleOf } from './sample.ts';

const changesOf = (a: object, b: object, direction: Direction) =>
	compareSchemas(a as JsonObject, b as JsonObject, direction).map(
		({ level, place, text }) => `${level} ${place}: ${text}`
	);

describe('a schema, for who sends and for who receives its values', () => {
	const object = (properties: object, required: string[] = [], more: object = {}) => ({
		type: 'object',
		properties,
		required,
		...more
	});
	test.each<[string, object, object, string[], string[]]>([
		['the same', { type: 'string' }, { type: 'string', description: 'x' }, [], []],
		[
			'another type',
			{ type: 'string' },
			{ type: 'integer' },
			['breaking : was string, is integer'],
			['breaking : was string, is integer']
		],
		[
			'an integer becomes a number',
			{ type: 'integer' },
			{ type: 'number' },
			['harmless : may be number as well'],
			['careful : may be number as well']
		],
		[
			'a number becomes an integer',
			{ type: 'number' },
			{ type: 'integer' },
			['breaking : number is not allowed any more'],
			['harmless : number is not allowed any more']
		],
		[
			'null is allowed',
			{ type: 'string' },
			{ type: ['string', 'null'] },
			['harmless : may be null as well'],
			['careful : may be null as well']
		],
		[
			'a value of an enum is gone',
			{ enum: ['a', 'b'] },
			{ enum: ['a'] },
			['breaking : "b" is not allowed any more'],
			['harmless : "b" is not allowed any more']
		],
		[
			'a value of an enum is new',
			{ enum: ['a'] },
			{ enum: ['a', 'b'] },
			['harmless : may be "b" as well'],
			['careful : may be "b" as well']
		],
		[
			'values are limited',
			{ type: 'string' },
			{ type: 'string', enum: ['a'] },
			['breaking : only ["a"] is allowed'],
			['harmless : only ["a"] is allowed']
		],
		[
			'a bound is tighter',
			{ maximum: 28 },
			{ maximum: 14 },
			['breaking : maximum 28 → 14'],
			['harmless : maximum 28 → 14']
		],
		[
			'a bound is looser',
			{ minLength: 3 },
			{ minLength: 1 },
			['harmless : minLength 3 → 1'],
			['careful : minLength 3 → 1']
		],
		['a pattern is new', {}, { pattern: '^a' }, ['breaking : pattern none → "^a"'], ['harmless : pattern none → "^a"']],
		[
			'another pattern',
			{ pattern: 'a' },
			{ pattern: 'b' },
			['careful : pattern "a" → "b"'],
			['careful : pattern "a" → "b"']
		],
		[
			'a property is new',
			object({}),
			object({ a: {} }),
			['harmless $.a: may be sent, and has a schema now'],
			['harmless $.a: is there now']
		],
		[
			'a property is gone',
			object({ a: {} }),
			object({}),
			['careful $.a: is not known any more'],
			['breaking $.a: is not there any more']
		],
		[
			'a property must be sent',
			object({ a: {} }),
			object({ a: {} }, ['a']),
			['breaking $.a: must be sent'],
			['harmless $.a: is always there']
		],
		[
			'a property may be missing',
			object({ a: {} }, ['a']),
			object({ a: {} }),
			['harmless $.a: need not be sent'],
			['careful $.a: may not be there']
		],
		[
			'nothing else may be there',
			object({}),
			object({}, [], { additionalProperties: false }),
			['breaking : nothing else may be there'],
			['harmless : nothing else may be there']
		],
		[
			'deep down',
			object({ a: { type: 'array', items: object({ b: { type: 'string' } }) } }),
			object({ a: { type: 'array', items: object({ b: { type: 'boolean' } }) } }),
			['breaking $.a[*].b: was string, is boolean'],
			['breaking $.a[*].b: was string, is boolean']
		],
		[
			'a form is gone',
			{ oneOf: [{ title: 'A' }, { title: 'B' }] },
			{ oneOf: [{ title: 'B' }] },
			['breaking : the form A is gone'],
			['harmless : the form A is gone']
		],
		[
			'a form is new',
			{ oneOf: [{ title: 'A' }] },
			{ oneOf: [{ title: 'B' }, { title: 'A' }] },
			['harmless : may have the form B as well'],
			['careful : may have the form B as well']
		],
		[
			'parts that are put together',
			{ allOf: [object({ a: { type: 'string' } }, ['a'])] },
			object({ a: { type: 'string' } }, ['a']),
			[],
			[]
		]
	])('%s', (_, a, b, sent, received) => {
		expect(changesOf(a, b, 'sent')).toEqual(sent);
		expect(changesOf(a, b, 'received')).toEqual(received);
	});
	test('schemas that know themselves come to an end, and a change in them is told once', () => {
		const tree = (type: string) => ({
			$ref: '#/$defs/Node',
			$defs: {
				Node: object({
					name: { type },
					next: { $ref: '#/$defs/Node' },
					all: { type: 'array', items: { $ref: '#/$defs/Node' } }
				})
			}
		});
		expect(changesOf(tree('string'), tree('string'), 'sent')).toEqual([]);
		expect(changesOf(tree('string'), tree('integer'), 'sent')).toEqual(['breaking $.name: was string, is integer']);
	});
	test('what does not break who sends is true: a value of the old schema is one of the new', () => {
		const ajv = new Ajv({ strict: false, validateFormats: false });
		let seed = 7;
		const next = (n: number) => (seed = (seed * 1_103_515_245 + 12_345) % 2_147_483_648) % n;
		const leaf = (): object =>
			[
				{ type: 'string', minLength: next(4), maxLength: 4 + next(6) },
				{ type: 'integer', minimum: next(5), maximum: 5 + next(9) },
				{ type: ['string', 'null'] },
				{ enum: ['a', 'b', 'c'].slice(0, 1 + next(3)) },
				{ type: 'boolean' },
				{ type: 'array', items: { type: 'integer', minimum: next(3) }, minItems: next(3) }
			][next(6)]!;
		const names = ['a', 'b', 'c'];
		const schema = (): object => ({
			type: 'object',
			properties: Object.fromEntries(names.filter(() => next(4) > 0).map((name) => [name, leaf()])),
			required: names.filter(() => next(3) === 0),
			...(next(3) === 0 ? { additionalProperties: false } : {})
		});
		let compared = 0;
		for (let n = 0; n < 4000; n++) {
			const before = schema() as JsonObject;
			const after = next(2) ? (schema() as JsonObject) : { ...before, required: names.filter(() => next(3) === 0) };
			const value = sampleOf(before, { fill: 'full' });
			if (value === undefined || !ajv.validate(before, value)) continue;
			const changes = compareSchemas(before, after as JsonObject, 'sent');
			// a property that was anything so far, and has a schema now, is told as harmless on purpose
			if (changes.some(({ level, rule }) => level === 'breaking' || rule === 'property added')) continue;
			compared++;
			expect(ajv.validate(after, value), writeJson({ before, after, value } as never)).toBe(true);
		}
		expect(compared).toBeGreaterThan(100);
	});
});

describe('two versions of a definition', () => {
	const document = (paths: object, more: object = {}) =>
		readOpenapi('definitions/d.json', () =>
			writeJson({ openapi: '3.1.0', info: { title: 'D', version: '1' }, paths, ...more })
		);
	const get = (more: object = {}) => ({
		get: {
			responses: {
				200: {
					description: '',
					content: { 'application/json': { schema: { type: 'object', properties: { id: { type: 'string' } } } } }
				}
			},
			...more
		}
	});
	const query = (more: object) => ({
		parameters: [{ name: 'size', in: 'query', schema: { type: 'integer' }, ...more }]
	});
	const body = (more: object) => ({
		post: { requestBody: { content: { 'application/json': { schema: { type: 'object' } } }, ...more }, responses: {} }
	});
	const secured = {
		components: {
			securitySchemes: { key: { type: 'apiKey', in: 'header', name: 'k' }, basic: { type: 'http', scheme: 'basic' } }
		}
	};
	const lines = (a: object, b: object, moreA: object = {}, moreB: object = moreA) =>
		compareDefinitions(document(a, moreA), document(b, moreB)).map(({ level, operation, place, text }) =>
			[level, operation, place, text].filter(Boolean).join(' | ')
		);
	test.each<[string, object, object, string[]]>([
		['the same', { '/a': get() }, { '/a': get({ summary: 'x' }) }, []],
		['an operation is gone', { '/a': get(), '/b': get() }, { '/b': get() }, ['breaking | GET /a | is gone']],
		[
			'one that was deprecated is gone',
			{ '/a': get({ deprecated: true }) },
			{},
			['breaking | GET /a | is gone; it was deprecated']
		],
		['an operation is new', { '/a': get() }, { '/a': get(), '/b': get() }, ['harmless | GET /b | is new']],
		[
			'it is elsewhere',
			{ '/a': get({ operationId: 'x' }) },
			{ '/b': get({ operationId: 'x' }) },
			['breaking | GET /a | is at /b now']
		],
		[
			'a path parameter has another name',
			{ '/a/{id}': get({ parameters: [{ name: 'id', in: 'path', required: true, schema: {} }] }) },
			{ '/a/{boat}': get({ parameters: [{ name: 'boat', in: 'path', required: true, schema: {} }] }) },
			['harmless | GET /a/{id} | path id | is called boat']
		],
		[
			'a parameter must be given',
			{ '/a': get(query({})) },
			{ '/a': get(query({ required: true })) },
			['breaking | GET /a | query size | must be given']
		],
		[
			'a new one must be given',
			{ '/a': get() },
			{ '/a': get(query({ required: true })) },
			['breaking | GET /a | query size | is new, and must be given']
		],
		[
			'a new one may be given',
			{ '/a': get() },
			{ '/a': get(query({})) },
			['harmless | GET /a | query size | may be given']
		],
		[
			'one is not known any more',
			{ '/a': get(query({})) },
			{ '/a': get() },
			['careful | GET /a | query size | is not known any more']
		],
		[
			'it is narrower',
			{ '/a': get(query({})) },
			{ '/a': get(query({ schema: { type: 'integer', maximum: 9 } })) },
			['breaking | GET /a | query size | maximum none → 9']
		],
		[
			'it is written otherwise',
			{ '/a': get(query({})) },
			{ '/a': get(query({ explode: false })) },
			['breaking | GET /a | query size | is written otherwise: form, exploded → form']
		],
		[
			'a body must be sent',
			{ '/a': body({}) },
			{ '/a': body({ required: true }) },
			['breaking | POST /a | body | must be sent']
		],
		[
			'another media type',
			{ '/a': body({}) },
			{ '/a': body({ content: { 'application/xml': {} } }) },
			[
				'breaking | POST /a | body | application/json is not taken any more',
				'harmless | POST /a | body | application/xml is taken as well'
			]
		],
		[
			'a field of an answer is gone',
			{ '/a': get() },
			{
				'/a': get({
					responses: {
						200: { description: '', content: { 'application/json': { schema: { type: 'object', properties: {} } } } }
					}
				})
			},
			['breaking | GET /a | reply 200 $.id | is not there any more']
		],
		[
			'a good answer is gone',
			{ '/a': get() },
			{ '/a': get({ responses: { 204: { description: '' } } }) },
			['breaking | GET /a | reply 200 | is not given any more', 'careful | GET /a | reply 204 | may be given as well']
		],
		['it is deprecated', { '/a': get() }, { '/a': get({ deprecated: true }) }, ['careful | GET /a | is deprecated']]
	])('%s', (_, a, b, wanted) => expect(lines(a, b)).toEqual(wanted));
	test.each<[string, object[] | undefined, object[] | undefined, string[]]>([
		['proof is wanted', undefined, [{ key: [] }], ['breaking | GET /a | wants key, and wanted nothing']],
		['proof is not wanted any more', [{ key: [] }], [], ['harmless | GET /a | wants no proof of who calls any more']],
		['another way is enough, too', [{ key: [] }], [{ key: [] }, { basic: [] }], []],
		[
			'one of two ways is not enough any more',
			[{ key: [] }, { basic: [] }],
			[{ key: [] }],
			['breaking | GET /a | basic is not enough any more: it wants key']
		],
		[
			'both are wanted',
			[{ key: [] }],
			[{ key: [], basic: [] }],
			['breaking | GET /a | key is not enough any more: it wants key and basic']
		],
		[
			'a scope more is wanted',
			[{ key: ['read'] }],
			[{ key: ['read', 'write'] }],
			['breaking | GET /a | key (read) is not enough any more: it wants key (read, write)']
		]
	])('security: %s', (_, a, b, wanted) =>
		expect(lines({ '/a': get(a ? { security: a } : {}) }, { '/a': get(b ? { security: b } : {}) }, secured)).toEqual(
			wanted
		)
	);
	test.each<[string, object, object, string[]]>([
		[
			'a key goes elsewhere',
			{ key: { type: 'apiKey', in: 'header', name: 'X-Key' } },
			{ key: { type: 'apiKey', in: 'query', name: 'key' } },
			['breaking | the security scheme key was an API key (header x-key), is an API key (query key)']
		],
		[
			'a header field in other letters',
			{ key: { type: 'apiKey', in: 'header', name: 'X-Key' } },
			{ key: { type: 'apiKey', in: 'header', name: 'x-key' } },
			[]
		],
		[
			'another kind',
			{ key: { type: 'http', scheme: 'Basic' } },
			{ key: { type: 'http', scheme: 'bearer' } },
			['breaking | the security scheme key was HTTP authentication (basic), is HTTP authentication (bearer)']
		],
		[
			'a kind that nobody knows',
			{ key: { type: 'http', scheme: 'basic' } },
			{ key: { type: 'constructor' } },
			['breaking | the security scheme key was HTTP authentication (basic), is constructor']
		],
		[
			'the same under another name',
			{ key: { type: 'apiKey', in: 'header', name: 'X-Key' } },
			{ pass: { type: 'apiKey', in: 'header', name: 'X-Key' } },
			[]
		],
		[
			'another one under another name',
			{ key: { type: 'apiKey', in: 'header', name: 'X-Key' } },
			{ pass: { type: 'apiKey', in: 'header', name: 'X-Pass' } },
			['breaking | GET /a | key is not enough any more: it wants pass']
		],
		[
			'a flow is gone, another one has another address for tokens',
			{
				key: {
					type: 'oauth2',
					flows: {
						password: { tokenUrl: 'http://a/t', scopes: {} },
						clientCredentials: { tokenUrl: 'http://a/t', scopes: {} }
					}
				}
			},
			{ key: { type: 'oauth2', flows: { clientCredentials: { tokenUrl: 'http://b/t', scopes: {} } } } },
			[
				'breaking | the flow password of the security scheme key is gone',
				'careful | the flow client credentials of the security scheme key has another token address: http://b/t'
			]
		],
		[
			'OpenID Connect elsewhere',
			{ key: { type: 'openIdConnect', openIdConnectUrl: 'http://a/o' } },
			{ key: { type: 'openIdConnect', openIdConnectUrl: 'http://b/o' } },
			['careful | the security scheme key is signed in with elsewhere: http://b/o']
		]
	])('a security scheme: %s', (_, a, b, wanted) => {
		const [[was], [is]] = [Object.keys(a), Object.keys(b)];
		const path = (name: string) => ({ '/a': get({ security: [{ [name]: [] }] }) });
		const schemes = (securitySchemes: object) => ({ components: { securitySchemes } });
		expect(lines(path(was!), path(is!), schemes(a), schemes(b))).toEqual(wanted);
		// what nobody uses is nobody's concern
		expect(lines({ '/a': get() }, { '/a': get() }, schemes(a), schemes(b))).toEqual([]);
	});
	test('integers of any size are told with all their digits', () => {
		const schema = (text: string) => ({
			'/a': get({ parameters: [{ name: 'n', in: 'query', schema: parseJson(text) }] })
		});
		const [before, after] = [
			schema('{ "enum": [9007199254740993, 2], "multipleOf": 9007199254740993, "minimum": 9007199254740993 }'),
			schema('{ "enum": [9007199254740995, 2], "multipleOf": 9007199254740995, "minimum": 9007199254740992 }')
		];
		expect(lines(before, after)).toEqual([
			'breaking | GET /a | query n | 9007199254740993 is not allowed any more',
			'breaking | GET /a | query n | must be a multiple of 9007199254740995',
			'harmless | GET /a | query n | may be 9007199254740995 as well',
			'harmless | GET /a | query n | minimum 9007199254740993 → 9007199254740992'
		]);
	});
	test('a header of an answer that need not be there any more is told', () => {
		const with_ = (required: boolean) => ({
			'/a': get({
				responses: { 200: { description: '', headers: { 'X-Total': { required, schema: { type: 'integer' } } } } }
			})
		});
		expect(lines(with_(true), with_(false))).toEqual([
			'careful | GET /a | reply 200 header x-total | need not be there any more'
		]);
		expect(lines(with_(false), with_(true))).toEqual([]);
	});
	test('servers that go and come are told, what breaks first', () => {
		const servers = (...urls: string[]) => ({ servers: urls.map((url) => ({ url })) });
		const [a, b] = ['http://a.example', 'http://b.example'] as const;
		expect(lines({ '/a': get() }, { '/a': get() }, servers(a, b))).toEqual([]);
		expect(lines({ '/a': get() }, {}, servers(a), servers(b))).toEqual([
			'breaking | GET /a | is gone',
			`careful | the server ${a} is gone`,
			`harmless | the server ${b} is new`
		]);
	});
	test(
		'no public document differs from itself, and each says what is gone when it is emptied',
		{ timeout: 60_000 },
		() => {
			const examples = join(import.meta.dirname, '../../../node_modules/@readme/oas-examples');
			let read = 0;
			for (const version of ['2.0', '3.0', '3.1'])
				for (const name of readdirSync(join(examples, version, 'json')).filter((file) => file.endsWith('.json'))) {
					const text = readFileSync(join(examples, version, 'json', name), 'utf8');
					const open = () => readOpenapi(`definitions/${name}`, (path) => (path.endsWith(name) ? text : undefined));
					let document: ReturnType<typeof open>;
					try {
						document = open();
					} catch {
						continue;
					}
					read++;
					expect(compareDefinitions(document, open()), name).toEqual([]);
					const empty = readOpenapi('definitions/e.json', () => '{"openapi":"3.1.0","info":{},"paths":{}}');
					const gone = compareDefinitions(document, empty).filter(({ rule }) => rule === 'operation removed');
					expect(gone.length, name).toBe(operationsOf(document).length);
				}
			expect(read).toBeGreaterThan(40);
		}
	);
});
