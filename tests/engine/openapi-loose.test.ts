import { headerValue } from '#core/model/reply.ts';
import { viewReply } from '#core/model/view.ts';
import {
	operationsOf,
	parametersOf,
	pathValues,
	readOpenapi,
	replyFaults,
	requestFaults,
	sampleCall,
	sampleOf,
	sampleReply
} from '#core/openapi/index.ts';
import { byItself, callSchema, lazySchema, replySchema } from '../../src/core/openapi/schema.ts';
import { seeded } from '#core/model/seed.ts';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { scalarOf } from '../../src/core/openapi/scalar.ts';
import { inside, type Node } from '../../src/core/openapi/document.ts';
import type { JsonObject } from '#core/model/json.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { describe, expect, test } from 'vitest';

const validate = createSchemas(() => undefined);
const BLANK = {
	...{ reason: '', version: 'HTTP/1.1', reused: false },
	phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
};
const viewOf = (status: number, type: string, text: string) => {
	const body = new TextEncoder().encode(text);
	return viewReply({ ...BLANK, status, headers: [['Content-Type', type]], body, wireSize: body.length });
};
const schemas = {
	Ids: { type: 'array', items: { $ref: '#/components/schemas/Id' } },
	Id: { type: 'integer', minimum: 1 },
	Day: { allOf: [{ type: 'string', format: 'date' }] },
	Filter: { type: 'object', properties: { min: { $ref: '#/components/schemas/Id' }, parts: { type: 'array' } } }
};
const to = (name: string) => ({ $ref: `#/components/schemas/${name}` });
const of = (kind: string, names: string) => Object.fromEntries(names.split(' ').map((name) => [name, kind]));
/** Keywords of schemas and what stands behind them, of all drafts that are met. */
const KEYWORDS: Record<string, string> = {
	...of('schema', 'not if then else contains propertyNames additionalProperties additionalItems items contentSchema'),
	...of('list', 'allOf anyOf oneOf prefixItems items'),
	...of('named', 'properties patternProperties dependentSchemas $defs definitions dependencies'),
	...of('value', 'type enum const minimum maximum exclusiveMinimum exclusiveMaximum multipleOf minLength maxLength'),
	...of('value', 'pattern format minItems maxItems uniqueItems minContains maxContains required minProperties'),
	...of('value', 'maxProperties dependentRequired nullable readOnly writeOnly discriminator title description default'),
	...of('value', 'example examples deprecated xml id $id $anchor $comment contentMediaType contentEncoding $schema')
};
/** A document of one operation, `GET /boats`. */
const documentOf = (operation: object, more: object = {}) =>
	readOpenapi('definitions/boats.json', () =>
		JSON.stringify({
			openapi: '3.1.0',
			info: { title: 'Boats', version: '1' },
			paths: { '/boats': { get: { responses: { 200: { description: 'fine' } }, ...operation } } },
			components: { schemas: { ...schemas, ...more } }
		})
	);
const operationIn = (...given: Parameters<typeof documentOf>) => operationsOf(documentOf(...given))[0]!;

describe('a schema that breaks its own rules is judged by in all else', () => {
	test.each<[string, object, unknown, string[]]>([
		['names that are required twice', { required: ['a', 'a'] }, {}, ["must have required property 'a'"]],
		[
			'a limit in quotes',
			{ properties: { a: { maxLength: '2' } } },
			{ a: 'abc' },
			['must NOT have more than 2 characters, and is "abc"']
		],
		[
			'a limit that is none',
			{ properties: { a: { type: 'string', maxLength: 5.5 } } },
			{ a: 1 },
			['must be string, and is 1']
		],
		[
			'a switch in quotes',
			{ properties: { a: { type: 'integer', writeOnly: 'true' } } },
			{ a: 1 },
			['boolean schema is false']
		],
		['a list of no values', { properties: { a: { type: 'string', enum: [] } } }, { a: 'x' }, []],
		['a choice of nothing', { oneOf: [], anyOf: 'x', required: ['a'] }, {}, ["must have required property 'a'"]],
		['properties as a list', { properties: [], required: ['a'] }, {}, ["must have required property 'a'"]],
		['an id of an older draft', { id: 'boat', type: 'array' }, {}, ['must be array, and is {}']]
	])('%s', async (_, schema, value, wanted) => {
		const operation = operationIn({
			responses: { 200: { description: '', content: { 'application/json': { schema } } } }
		});
		const found = await replyFaults(viewOf(200, 'application/json', JSON.stringify(value)), operation, validate);
		expect(found.map(({ message }) => message)).toEqual(wanted);
	});
	test('whatever a definition says: what is judged by is a schema, and allows what another validator allows by it', async () => {
		const random = seeded(20261130);
		const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]!;
		const odd = [
			null,
			true,
			false,
			0,
			-1,
			5,
			5.5,
			-5.5,
			'',
			'5',
			'x',
			'string',
			[],
			{},
			[1, 1],
			['a', 'a'],
			[{}],
			{ a: [] },
			{ a: 'x' }
		];
		const keys = Object.keys(KEYWORDS);
		const schemaOf = (deep: number, names: string[]): unknown => {
			if (deep > 3 || random() < 0.1) return pick(odd);
			const made: JsonObject = {};
			for (let count = Math.floor(random() * 5); count >= 0; count--) {
				const key = pick(keys);
				const kind = KEYWORDS[key]!;
				const inner = () => schemaOf(deep + 1, names) as never;
				made[key] =
					random() < 0.4
						? (pick(odd) as never)
						: kind === 'schema'
							? inner()
							: kind === 'list'
								? ([inner(), inner()] as never)
								: kind === 'named'
									? ({ a: inner(), b: inner() } as never)
									: (pick(odd) as never);
			}
			return random() < 0.1 ? to(pick(names)) : made;
		};
		const judge = new Ajv2020({ strict: false, allErrors: true });
		const compiler = new Ajv2020({ strict: false, validateSchema: false, allErrors: true });
		const wrong: string[] = [];
		for (let round = 0; round < 800; round++) {
			const [schema, Own] = [schemaOf(0, ['Id', 'Ids', 'Own']), schemaOf(1, ['Id', 'Ids'])];
			const openapi = pick(['3.0.3', '3.1.0']);
			const document = readOpenapi('definitions/x.json', () =>
				JSON.stringify({ openapi, info: {}, paths: {}, components: { schemas: { ...schemas, Own, Top: schema } } })
			);
			const node = document.at('definitions/x.json', '#/components/schemas/Top');
			for (const make of [replySchema, callSchema]) {
				const made = make(document, node);
				let fault = judge.validateSchema(made) ? '' : judge.errorsText(judge.errors);
				try {
					const other = fault ? undefined : compiler.compile(made);
					for (const value of other ? odd : []) {
						const allowed = (await validate(value, byItself(made, 'x'))).length === 0;
						if (allowed !== other!(value)) fault ||= `${JSON.stringify(value)} is ${allowed ? '' : 'not '}allowed`;
					}
				} catch (error) {
					fault = String(error);
				}
				if (fault) wrong.push(`${fault}: ${JSON.stringify(made)}`);
			}
		}
		expect(wrong.slice(0, 5)).toEqual([]);
	});
});

test('what goes one way only is told by the direction, whatever was compiled before', async () => {
	const Boat = {
		type: 'object',
		properties: { id: { type: 'integer', readOnly: true }, pin: { type: 'string', writeOnly: true }, next: to('Boat') }
	};
	const content = { 'application/json': { schema: to('Boat') } };
	const list = { 'application/json': { schema: { type: 'array', items: to('Boat') } } };
	const document = documentOf(
		{
			requestBody: { content },
			responses: { 200: { description: '', content }, 201: { description: '', content: list } }
		},
		{ Boat }
	);
	const operation = operationsOf(document)[0]!;
	const one = { next: { id: 1, pin: 'x' } };
	const replied = async (status: number, value: unknown) =>
		(await replyFaults(viewOf(status, 'application/json', JSON.stringify(value)), operation, validate)).map(
			({ path }) => path
		);
	const asked = async () => {
		const view = viewOf(200, 'application/json', JSON.stringify(one));
		const headers: [string, string][] = [['Content-Type', 'application/json']];
		return (await requestFaults({ path: {}, search: '', headers, view }, operation, validate)).map(({ path }) => path);
	};
	expect(await replied(200, one)).toEqual(['$.next.pin']);
	expect(await asked()).toEqual(['$.next.id']);
	expect(await replied(201, [one])).toEqual(['$[0].next.pin']);
	expect(await asked()).toEqual(['$.next.id']);
});

test('a thousand schemas that each refer to the next are judged by, as far as a value goes', async () => {
	const chain = Object.fromEntries(
		Array.from({ length: 1000 }, (_, at) => [
			`Part${at}`,
			{ type: 'object', required: ['n'], properties: { n: { type: 'integer' }, next: to(`Part${(at + 1) % 1000}`) } }
		])
	);
	const content = { 'application/json': { schema: to('Part0') } };
	const operation = operationIn({ responses: { 200: { description: '', content } } }, chain);
	const nested = (deep: number): object => (deep === 0 ? {} : { n: deep, next: nested(deep - 1) });
	const found = await replyFaults(viewOf(200, 'application/json', JSON.stringify(nested(40))), operation, validate);
	expect(found).toEqual([{ message: "must have required property 'n'", path: `$${'.next'.repeat(40)}` }]);
});

test('a schema that is one of its own alternatives is at an end', () => {
	const Own = { oneOf: [to('Own'), { type: 'object', properties: { a: { type: 'integer' } }, anyOf: [to('Own')] }] };
	const document = documentOf({}, { Own, Other: { oneOf: [to('Other'), { type: 'integer', minimum: 3 }] } });
	const sample = (name: string) =>
		sampleOf(lazySchema(document, document.at('definitions/boats.json', `#/components/schemas/${name}`), 'readOnly'));
	expect(() => sample('Own')).not.toThrow();
	expect(sample('Other')).toBe(3);
});

describe('a parameter is a number, a list or an object', () => {
	test.each<[string, object, string, string[]]>([
		['by reference, which fits', to('Id'), '7', []],
		['by reference, which does not', to('Id'), '0', ['query it must be >= 1, and is 0']],
		['of a list by reference', to('Ids'), '7&it=8', []],
		[
			'of a list by reference, with a wrong item',
			to('Ids'),
			'7&it=x',
			['query it at $[1] must be integer, and is "x"']
		],
		['by parts', { allOf: [to('Id'), { maximum: 9 }] }, '10', ['query it must be <= 9, and is 10']],
		['or nothing', { anyOf: [{ type: 'integer' }, { type: 'null' }] }, '7', []],
		['or another', { oneOf: [to('Id'), { type: 'boolean' }] }, 'true', []],
		[
			'of alternatives, none of which fits',
			{ anyOf: [to('Id'), { type: 'null' }] },
			'x',
			[
				'query it must be integer, and is "x"',
				'query it must be null, and is "x"',
				'query it must match a schema in anyOf'
			]
		],
		['by its values alone', { enum: [1, 2] }, '2', []],
		[
			'of a list, whose values are listed for its items',
			{ type: 'array', enum: ['a'], items: { type: 'string' } },
			'a',
			[]
		],
		['text stays text', to('Day'), '2027-05-01', []],
		['a text of digits stays one', { type: 'string' }, '7', []]
	])('%s', async (_, schema, sent, expected) => {
		const operation = operationIn({ parameters: [{ name: 'it', in: 'query', schema }] });
		const view = viewOf(200, '', '');
		const faults = await requestFaults({ path: {}, search: `?it=${sent}`, headers: [], view }, operation, validate);
		expect(faults.map(({ message }) => message)).toEqual(expected);
	});
	test('an object by reference is spread over the query, what is in it as JSON', async () => {
		const operation = operationIn({ parameters: [{ name: 'by', in: 'query', required: true, schema: to('Filter') }] });
		const faults = async (search: string) =>
			(await requestFaults({ path: {}, search, headers: [], view: viewOf(200, '', '') }, operation, validate)).map(
				({ message }) => message
			);
		expect(await faults('?min=2&parts=%5B%7B%7D%5D')).toEqual([]);
		expect(await faults('?min=x')).toEqual(['query by at $.min must be integer, and is "x"']);
		// an empty one leaves no trace
		expect(await faults('?other=2')).toEqual([]);
	});
	test('alternatives that all refer to each other are looked at once each', async () => {
		const all = Array.from({ length: 30 }, (_, at) => `Way${at}`);
		const more = Object.fromEntries(all.map((name) => [name, { anyOf: [...all.map(to), { type: 'integer' }] }]));
		const { schema } = parametersOf(
			operationIn({ parameters: [{ name: 'it', in: 'query', schema: to('Way0') }] }, more)
		)[0]!;
		expect(scalarOf('7', schema, schema)).toBe(7);
	});
	test('an object of any names takes what is no other parameter', async () => {
		const schema = { type: 'object', required: ['a'], additionalProperties: { type: 'integer' } };
		const parameters = [
			{ name: 'map', in: 'query', required: true, schema },
			{ name: 'page', in: 'query', schema: { type: 'string' } }
		];
		const faults = async (search: string) =>
			(
				await requestFaults(
					{ path: {}, search, headers: [], view: viewOf(200, '', '') },
					operationIn({ parameters }),
					validate
				)
			).map(({ message }) => message);
		expect(await faults('?a=1&page=x')).toEqual([]);
		expect(await faults('?a=1&b=x')).toEqual(['query map at $.b must be integer, and is "x"']);
		expect(await faults('?page=1')).toEqual(["query map must have required property 'a'"]);
	});
	test('a header of a reply, too', async () => {
		const responses = { 200: { description: '', headers: { 'X-Left': { schema: to('Id') } } } };
		const view = viewReply({ ...BLANK, status: 200, headers: [['X-Left', '3']], body: new Uint8Array(), wireSize: 0 });
		expect(await replyFaults(view, operationIn({ responses }), validate)).toEqual([]);
	});
});

describe('a reply', () => {
	const object = { type: 'object', required: ['name'] };
	test.each<[string, number, object, string, string, string[]]>([
		[
			'204 has no body, though one is defined',
			204,
			{ 'application/json': { schema: object } },
			'application/json',
			'',
			[]
		],
		['JSON may travel as text', 200, { 'text/plain': { schema: object } }, 'text/plain', '{"name":"x"}', []],
		[
			'JSON as text that does not fit',
			200,
			{ 'text/plain': { schema: object } },
			'text/plain',
			'{}',
			["must have required property 'name'"]
		],
		[
			'a text that is no JSON',
			200,
			{ 'text/plain': { schema: object } },
			'text/plain',
			'x',
			['must be object, and is "x"']
		]
	])('%s', async (_, status, content, type, text, expected) => {
		const operation = operationIn({ responses: { [status]: { description: '', content } } });
		const faults = await replyFaults(viewOf(status, type, text), operation, validate);
		expect(faults.map(({ message }) => message)).toEqual(expected);
	});
	test.each([
		['bytes of which nothing is said', 'audio/mpeg', {}, 'audio/mpeg'],
		['one of a range', 'image/*', {}, 'image/png'],
		['an example that is empty', 'image/gif', { example: '' }, 'image/gif']
	])('that is made of %s has a body', (_, type, media, expected) => {
		const made = sampleReply(operationIn({ responses: { 200: { description: '', content: { [type]: media } } } }));
		expect([headerValue(made.headers, 'content-type'), made.body.length > 0]).toEqual([expected, true]);
	});
});

test('an example of JSON that is written as its text is the JSON', () => {
	const example = '{ "id": 7 }';
	const own = { properties: { id: { type: 'integer' } } };
	for (const media of [{ example }, { example, schema: own }, { schema: { ...own, example } }]) {
		const content = { 'application/json': media };
		const made = sampleReply(operationIn({ responses: { 200: { description: '', content } } }));
		expect(new TextDecoder().decode(made.body)).toBe('{"id":7}');
	}
	const text = { 'application/json': { schema: { type: 'string' }, example } };
	const made = sampleReply(operationIn({ responses: { 200: { description: '', content: text } } }));
	expect(JSON.parse(new TextDecoder().decode(made.body))).toBe(example);
});

test('a path has a value, though its example is empty', () => {
	const document = readOpenapi('definitions/boats.json', () =>
		JSON.stringify({
			openapi: '3.1.0',
			info: {},
			paths: {
				'/boats/{name}': {
					get: { parameters: [{ in: 'path', name: 'name', required: true, schema: { type: 'string', example: '' } }] }
				}
			}
		})
	);
	expect(sampleCall(operationsOf(document)[0]!).path).toEqual([{ name: 'name', value: 'text', off: false }]);
});

test('what who sends writes by itself is no parameter', () => {
	const parameters = ['Content-Length', 'Host', 'Transfer-Encoding', 'X-Berth'].map((name) => ({
		...{ name, in: 'header', required: true, schema: { type: 'string', example: '2183' } }
	}));
	const operation = operationIn({ parameters });
	expect(parametersOf(operation).map(({ name }) => name)).toEqual(['X-Berth']);
	expect(sampleCall(operation).headers.map(({ name }) => name)).toEqual(['X-Berth']);
});

describe('a discriminator whose property has other values than the names of its schemas', () => {
	const kinds = {
		Craft: {
			type: 'object',
			required: ['kind'],
			properties: { kind: { type: 'string', enum: ['Sail', 'Motor'] } },
			discriminator: { propertyName: 'kind' }
		},
		MotorCraft: {
			allOf: [to('Craft'), { type: 'object', required: ['power'], properties: { power: { type: 'integer' } } }]
		}
	};
	const document = documentOf({}, kinds);
	const sample = (name: string) => {
		const all = inside(inside(document.root, 'components') as Node<JsonObject>, 'schemas') as Node<JsonObject>;
		return sampleOf(lazySchema(document, inside(all, name) as Node, 'readOnly'));
	};
	test('says the one that comes nearest', () => {
		expect(sample('Craft')).toEqual({ kind: 'Motor', power: 1 });
		expect(sample('MotorCraft')).toEqual({ kind: 'Motor', power: 1 });
	});
});

test('a discriminator by values that the schemas list themselves, and no name', async () => {
	const kind = (value: string) => ({
		...{ type: 'object', required: ['kind', value] },
		properties: { kind: { type: 'string', enum: [value] }, [value]: { type: 'integer' } }
	});
	const Boat = { oneOf: [to('SailCraft'), to('MotorCraft')], discriminator: { propertyName: 'kind' } };
	const content = { 'application/json': { schema: to('Boat') } };
	const more = { Boat, SailCraft: kind('sail'), MotorCraft: kind('motor') };
	const operation = operationIn({ responses: { 200: { description: '', content } } }, more);
	const faults = async (body: object) =>
		(await replyFaults(viewOf(200, 'application/json', JSON.stringify(body)), operation, validate)).map(
			({ message }) => message
		);
	expect(await faults({ kind: 'motor', motor: 1 })).toEqual([]);
	expect(await faults({ kind: 'motor', sail: 1 })).toEqual(["must have required property 'motor'"]);
	expect(await faults({ kind: 'SailCraft', sail: 1 })).toEqual([
		'must be equal to one of the allowed values: ["sail","motor"], and is "SailCraft"'
	]);
	expect(JSON.parse(new TextDecoder().decode(sampleReply(operation).body))).toEqual({ kind: 'sail', sail: 1 });
});

describe('a value that is made', () => {
	test.each<[string, JsonObject, unknown]>([
		['is no empty text where there is another', { enum: ['', 'red'] }, 'red'],
		[
			'is as long as it has to be, where a pattern lets more follow',
			{ type: 'string', pattern: '[a-f]+', minLength: 9, maxLength: 9 },
			9
		],
		[
			'leaves out what contradicts itself, and keeps the rest',
			{
				type: 'object',
				properties: {
					name: { type: 'string' },
					marks: {
						type: 'array',
						items: { type: 'object', properties: { id: { type: 'integer' }, no: { type: 'string', enum: [1] } } }
					}
				}
			},
			{ name: 'text', marks: [{ id: 1 }] }
		]
	])('%s', (_, schema, expected) => {
		const made = sampleOf(schema, { fill: 'full' });
		expect(typeof expected === 'number' ? String(made).length : made).toEqual(expected);
	});
});

test('of two values in one part the first takes the most', () => {
	const document = readOpenapi('definitions/boats.json', () =>
		JSON.stringify({ openapi: '3.1.0', info: {}, paths: { '/near/{place}.{form}': { get: { responses: {} } } } })
	);
	expect(pathValues(operationsOf(document)[0]!, '/near/52.1,4.3.json', '')).toEqual({
		place: '52.1,4.3',
		form: 'json'
	});
});

test('values of a template that is written to keep a reader busy are found, or not, at once', () => {
	const names = Array.from({ length: 60 }, (_, at) => `n${at}`);
	const template = `/${names.map((name) => `{${name}}`).join('')}!`;
	const document = readOpenapi('definitions/boats.json', () =>
		JSON.stringify({ openapi: '3.1.0', info: {}, paths: { [template]: { get: { responses: {} } } } })
	);
	const [operation] = operationsOf(document);
	expect(pathValues(operation!, `/${'x'.repeat(5000)}`, '')).toEqual({});
	expect(Object.values(pathValues(operation!, `/${'x'.repeat(5000)}!`, '')).join('')).toHaveLength(5000);
});

test('a schema that is one of the branches of its own discriminator is at an end', async () => {
	const Call = {
		type: 'object',
		required: ['method'],
		properties: { method: { type: 'string' } },
		discriminator: { propertyName: 'method', mapping: { open: to('OpenCall').$ref, close: to('OpenCall').$ref } }
	};
	const OpenCall = {
		allOf: [to('Call')],
		required: ['gate'],
		properties: { method: { enum: ['open', 'close'] }, gate: { type: 'integer' } },
		discriminator: Call.discriminator
	};
	const content = { 'application/json': { schema: to('OpenCall') } };
	const operation = operationIn({ responses: { 200: { description: '', content } } }, { Call, OpenCall });
	const faults = async (body: object) =>
		(await replyFaults(viewOf(200, 'application/json', JSON.stringify(body)), operation, validate)).map(
			({ message }) => message
		);
	expect(await faults({ method: 'open', gate: 1 })).toEqual([]);
	expect(await faults({ method: 'open' })).toEqual(["must have required property 'gate'"]);
	expect(JSON.parse(new TextDecoder().decode(sampleReply(operation).body))).toEqual({ method: 'open', gate: 1 });
});

test('an example of a day that no month has is left aside', () => {
	const schema = { type: 'string', format: 'date-time', example: '2026-02-30T17:32:28Z' };
	expect(sampleOf(schema)).not.toBe(schema.example);
	expect(sampleOf({ ...schema, example: '2028-02-29T17:32:28Z' })).toBe('2028-02-29T17:32:28Z');
});
