import { HeronError } from '#core/errors.ts';
import type { HeaderList } from '#core/model/reply.ts';
import { viewReply } from '#core/model/view.ts';
import { loadProject } from '#core/project/index.ts';
import { checkKind } from '#core/checks/index.ts';
import {
	createOpenapiRegistry,
	filesReferred,
	nameOf,
	replyFaults,
	replySchema,
	typesOf
} from '#core/openapi/index.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { describe, expect, it } from 'vitest';
import { stringify } from 'yaml';
import { openapi as moorings } from '../../standins/moorings/openapi.ts';

const validate = createSchemas(() => undefined);
const registryOf = (files: Record<string, unknown>) =>
	createOpenapiRegistry(Object.keys(files), (path) => {
		const given = files[path];
		return given === undefined || typeof given === 'string' ? given : JSON.stringify(given);
	});

interface Came {
	status?: number;
	type?: string;
	headers?: HeaderList;
	body?: unknown;
}
/** What is told of a reply to a call, as `place message`. */
async function faultsOf(files: Record<string, unknown>, call: string, came: Came, base = ''): Promise<string[]> {
	const [method = '', path = ''] = call.split(' ');
	const operation = registryOf(files).find({ method, path, base });
	const { status = 200, type = 'application/json', headers = [], body = '' } = came;
	const bytes = new TextEncoder().encode(typeof body === 'string' ? body : JSON.stringify(body));
	const view = viewReply({
		status,
		reason: '',
		version: 'HTTP/1.1',
		headers: [...(type ? ([['Content-Type', type]] as HeaderList) : []), ...headers],
		body: bytes,
		wireSize: bytes.length,
		reused: false,
		phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
	});
	const faults = await replyFaults(view, operation, validate);
	return faults.map(({ path: place, message }) => (place ? `${place} ${message}` : message));
}
const FILE = 'definitions/locks.yaml';

it.each([
	['a bound of a document in YAML', 'YAML'],
	['a bound of a document in JSON', 'JSON']
])('%s is exact beyond 2^53', async (_, form) => {
	const text = `openapi: 3.1.0\ninfo: { title: Big, version: '1' }\npaths:\n  /n:\n    get:\n      responses:\n        '200':\n          description: a number\n          content:\n            application/json:\n              schema: { type: integer, format: int64, maximum: 9007199254740993 }\n`;
	const json =
		'{"openapi":"3.1.0","info":{"title":"Big","version":"1"},"paths":{"/n":{"get":{"responses":{"200":{"description":"a number","content":{"application/json":{"schema":{"type":"integer","format":"int64","maximum":9007199254740993}}}}}}}}}';
	const files = form === 'YAML' ? { 'definitions/n.yaml': text } : { 'definitions/n.json': json };
	expect(await faultsOf(files, 'GET /n', { body: '9007199254740993' })).toEqual([]);
	expect(await faultsOf(files, 'GET /n', { body: '9007199254740994' })).toEqual([
		'$ must be <= 9007199254740993, and is 9007199254740994'
	]);
	expect(await faultsOf(files, 'GET /n', { body: '9223372036854775808' })).toEqual([
		'$ must match format "int64", a whole number from -9223372036854775808 to 9223372036854775807, and is 9223372036854775808',
		'$ must be <= 9007199254740993, and is 9223372036854775808'
	]);
});

const three = {
	[FILE]: stringify({
		openapi: '3.0.3',
		info: { title: 'Locks', version: '1' },
		servers: [{ url: 'https://{host}/{edition}/', variables: { edition: { default: 'v2' } } }],
		paths: {
			'/locks/{id}': {
				get: {
					operationId: 'getLock',
					responses: {
						200: {
							description: 'a lock',
							headers: {
								'X-Left': { required: true, schema: { type: 'integer', maximum: 10 } },
								'X-Tags': { schema: { type: 'array', items: { enum: ['a', 'b'] } } },
								'Content-Type': { required: true, schema: { enum: ['never looked at'] } }
							},
							content: { 'application/json; charset=utf-8': { schema: { $ref: '#/components/schemas/Lock' } } }
						},
						'4XX': { $ref: 'parts/answers.yaml#/Problem' },
						default: { description: 'all else' }
					}
				},
				delete: { responses: { 204: { description: 'gone' } } },
				head: { responses: { 200: { description: 'there', content: { 'application/json': {} } } } }
			},
			'/locks/latest': {
				get: {
					operationId: 'latest',
					responses: {
						200: {
							description: '',
							content: { 'text/plain': { schema: { type: 'string', pattern: '^L-' } }, 'image/*': {} }
						}
					}
				}
			},
			'/keepers/{name}.{form}': { get: { operationId: 'keeper', responses: { 200: { description: '' } } } },
			'/tree': {
				get: {
					responses: { 200: { description: '', content: { '*/*': { schema: { $ref: '#/components/schemas/Tree' } } } } }
				}
			}
		},
		components: {
			schemas: {
				Lock: {
					type: 'object',
					required: ['id', 'key'],
					properties: {
						id: { type: 'string', format: 'uuid' },
						key: { type: 'string', writeOnly: true },
						rise: { type: 'number', minimum: 0, exclusiveMinimum: true },
						note: { type: 'string', nullable: true },
						example: { type: 'string' },
						keeper: { $ref: '#/components/schemas/Keeper', description: 'ignored beside a reference' }
					},
					additionalProperties: false
				},
				Keeper: {
					type: 'object',
					properties: { since: { type: 'string', format: 'date' }, age: { type: 'integer', format: 'int32' } }
				},
				Tree: {
					type: 'object',
					properties: { left: { $ref: '#/components/schemas/Tree' } },
					additionalProperties: false
				}
			}
		}
	}),
	'definitions/parts/answers.yaml':
		'Problem:\n  description: no\n  content:\n    application/problem+json:\n      schema: { type: object, required: [title], properties: { title: { $ref: "#/Text" } } }\nText: { type: string, maxLength: 5 }\n'
};
const ID = '6f1c1e9e-3c1f-4f6b-9a51-0b0f5a0c7d11';
const left: HeaderList = [['X-Left', '3']];

describe('a reply against an operation of OpenAPI 3.0', () => {
	it.each<[string, string, Came, (string | RegExp)[]]>([
		['what fits', 'GET /v2/locks/7', { headers: left, body: { id: ID, rise: 0.5, note: null } }, []],
		[
			'a property called like a keyword',
			'GET /v2/locks/7',
			{ headers: left, body: { id: ID, example: 1 } },
			[/^\$\.example must be string/]
		],
		[
			'what is required, but only for calls, is not missing',
			'GET /v2/locks/7',
			{ headers: left, body: { id: ID } },
			[]
		],
		[
			'what is only for calls may not come back',
			'GET /v2/locks/7',
			{ headers: left, body: { id: ID, key: 'x' } },
			[/^\$\.key /]
		],
		[
			'null where it is not allowed',
			'GET /v2/locks/7',
			{ headers: left, body: { id: null } },
			[/^\$\.id must be string/]
		],
		[
			'a limit that is left out itself',
			'GET /v2/locks/7',
			{ headers: left, body: { id: ID, rise: 0 } },
			[/^\$\.rise must be > 0/]
		],
		[
			'what nobody knows',
			'GET /v2/locks/7',
			{ headers: left, body: { id: ID, colour: 1 } },
			[/additional properties: colour/]
		],
		[
			'a reference inside',
			'GET /v2/locks/7',
			{ headers: left, body: { id: ID, keeper: { since: 'soon', age: 1.5 } } },
			[/^\$\.keeper\.since/, /^\$\.keeper\.age must be integer/, /^\$\.keeper\.age/]
		],
		['a schema that refers to itself', 'GET /v2/tree', { body: { left: { left: { up: 1 } } } }, [/^\$\.left\.left/]],
		['a header that is missing', 'GET /v2/locks/7', { body: { id: ID } }, ['the header X-Left is missing']],
		[
			'a header of the wrong type',
			'GET /v2/locks/7',
			{ headers: [['X-Left', 'many']], body: { id: ID } },
			[/^the header X-Left must be integer, and is "many"$/]
		],
		[
			'a header beyond its limit',
			'GET /v2/locks/7',
			{ headers: [['X-Left', '11']], body: { id: ID } },
			[/X-Left must be <= 10/]
		],
		[
			'a header that is a list',
			'GET /v2/locks/7',
			{ headers: [...left, ['X-Tags', 'a, c']], body: { id: ID } },
			[/^the header X-Tags at \$\[1\] must be equal to one of/]
		],
		[
			'a range of codes, answered from another file',
			'GET /v2/locks/7',
			{ status: 404, type: 'application/problem+json', body: { title: 'no such lock' } },
			[/^\$\.title must NOT have more than 5/]
		],
		['the default', 'GET /v2/locks/7', { status: 500, type: '' }, []],
		[
			'a status that is not defined',
			'DELETE /v2/locks/7',
			{ status: 200, type: '' },
			['status 200 is not defined for DELETE /locks/{id}; defined: 204']
		],
		[
			'a body where none is defined',
			'DELETE /v2/locks/7',
			{ status: 204, body: '{}' },
			['204 is defined without a body, and 2 bytes came']
		],
		[
			'no body where one is defined',
			'GET /v2/locks/7',
			{ headers: left, type: '' },
			['the body is empty; application/json; charset=utf-8 is defined']
		],
		[
			'another media type',
			'GET /v2/locks/7',
			{ headers: left, type: 'text/html', body: '<p>' },
			[/^Content-Type is text\/html; defined for 200: application\/json/]
		],
		['no media type', 'GET /v2/locks/7', { headers: left, type: '', body: '{}' }, [/^Content-Type is missing/]],
		['what is no JSON', 'GET /v2/locks/7', { headers: left, body: '{"id":' }, [/^the body is not JSON/]],
		['HEAD has no body', 'HEAD /v2/locks/7', { type: 'application/json' }, []],
		[
			'a concrete path before a template',
			'GET /v2/locks/latest',
			{ type: 'text/plain', body: 'X-1' },
			[/must match pattern/]
		],
		['a range of media types', 'GET /v2/locks/latest', { type: 'image/png', body: 'PNG' }, []]
	])('%s', async (_, call, came, expected) => {
		const found = await faultsOf(three, call, came);
		expect(found, found.join('\n')).toHaveLength(expected.length);
		expected.forEach((one, index) =>
			typeof one === 'string' ? expect(found[index]).toBe(one) : expect(found[index]).toMatch(one)
		);
	});
});

describe('what documents say in their own ways', () => {
	const json = (schema: unknown) => ({ 'application/json': { schema } });
	const doc = (responses: unknown, more: object = {}) => ({
		[FILE]: { openapi: '3.1.0', info: { title: '', version: '' }, paths: { '/a': { get: { responses } } }, ...more }
	});
	const booking = {
		components: {
			schemas: {
				Secret: { type: 'object', properties: { pin: { type: 'string', writeOnly: true } } },
				Whole: { allOf: [{ $ref: '#/components/schemas/Secret' }, { $ref: '#/components/schemas/Base' }] },
				Base: { type: 'object', required: ['id', 'pin'], properties: { id: { type: 'integer' } } },
				Named: { $anchor: 'named', type: 'object', required: ['name'] },
				Chain: {
					$dynamicAnchor: 'chain',
					type: 'object',
					required: ['n'],
					properties: { next: { $dynamicRef: '#chain' }, again: { $ref: '#chain' } }
				},
				// a schema that was written elsewhere, and refers to itself
				Tree: {
					$id: 'https://schemas.test/tree/node',
					type: 'object',
					required: ['size'],
					properties: {
						size: { $ref: '#/$defs/size' },
						tag: { $ref: '#tag' },
						left: { $ref: '#' },
						right: { $ref: 'node' },
						other: { $ref: '#/components/schemas/Named' }
					},
					$defs: { size: { type: 'integer', minimum: 1 }, tag: { $anchor: 'tag', type: 'string', maxLength: 3 } }
				}
			}
		}
	};
	const header = (name: string, given: object) => doc({ 200: { description: '', headers: { [name]: given } } });
	const size = { type: 'object', properties: { w: { type: 'integer' }, h: { type: 'integer', maximum: 9 } } };
	it.each<[string, Record<string, unknown>, Came, (string | RegExp)[]]>([
		[
			'a secret of one part is not wanted back by another',
			doc({ 200: { content: json({ $ref: '#/components/schemas/Whole' }) } }, booking),
			{ body: { id: 1 } },
			[]
		],
		[
			'what else is required there still is',
			doc({ 200: { content: json({ $ref: '#/components/schemas/Whole' }) } }, booking),
			{ body: {} },
			["$ must have required property 'id'"]
		],
		[
			'the part by itself still wants it',
			doc({ 200: { content: json({ $ref: '#/components/schemas/Base' }) } }, booking),
			{ body: { id: 1 } },
			["$ must have required property 'pin'"]
		],
		[
			'a name after # is an anchor',
			doc({ 200: { content: json({ $ref: '#named' }) } }, booking),
			{ body: {} },
			["$ must have required property 'name'"]
		],
		[
			'a name that nothing bears is said',
			doc({ 200: { content: json({ $ref: '#nobody' }) } }, booking),
			{ body: {} },
			[/nothing there has the \$anchor nobody/]
		],
		[
			'a $dynamicRef that one place alone can mean',
			doc({ 200: { content: json({ $ref: '#/components/schemas/Chain' }) } }, booking),
			{ body: { n: 1, next: { n: 1, again: {} } } },
			["$.next.again must have required property 'n'"]
		],
		...[
			['within the schema', { size: 0 }, ['$.size must be >= 1, and is 0']],
			[
				'to an anchor of the schema',
				{ size: 1, tag: 'long' },
				['$.tag must NOT have more than 3 characters, and is "long"']
			],
			['to the schema itself', { size: 1, left: {} }, ["$.left must have required property 'size'"]],
			['to the schema by its name', { size: 1, right: { size: 0 } }, ['$.right.size must be >= 1, and is 0']],
			['to what only the document has', { size: 1, other: {} }, ["$.other must have required property 'name'"]]
		].map(([what, body, problems]): [string, Record<string, unknown>, Came, (string | RegExp)[]] => [
			`a schema with an $id refers ${what}`,
			doc({ 200: { content: json({ $ref: 'https://schemas.test/tree/node' }) } }, booking),
			{ body },
			problems as string[]
		]),
		[
			'a header that is an object',
			header('X-Size', { schema: size }),
			{ type: '', headers: [['X-Size', 'w,3,h,12']] },
			['the header X-Size at $.h must be <= 9, and is 12']
		],
		[
			'a header that is an object, exploded',
			header('X-Size', { explode: true, schema: size }),
			{ type: '', headers: [['X-Size', 'w=3,h=4']] },
			[]
		],
		[
			'a header of JSON',
			header('X-Size', { content: json(size) }),
			{ type: '', headers: [['X-Size', '{"w":3,"h":12}']] },
			['the header X-Size at $.h must be <= 9, and is 12']
		],
		[
			'a header that is to be JSON and is none',
			header('X-Size', { content: json(size) }),
			{ type: '', headers: [['X-Size', '{w']] },
			[/^the header X-Size is not JSON/]
		],
		[
			'a number as plain text',
			doc({ 200: { content: { 'text/plain': { schema: { type: 'integer', maximum: 3 } } } } }),
			{ type: 'text/plain', body: '4' },
			['$ must be <= 3, and is 4']
		],
		[
			'a text as plain text',
			doc({ 200: { content: { 'text/plain': { schema: { type: 'string' } } } } }),
			{ type: 'text/plain', body: '4' },
			[]
		],
		[
			'a JSON type without a schema still is JSON',
			doc({ 200: { content: { 'application/json': {} } } }),
			{ body: '{"a":' },
			[/^the body is not JSON/]
		],
		['JSON without a schema may be any', doc({ 200: { content: { 'application/json': {} } } }), { body: '7' }, []]
	])('%s', async (_, files, came, expected) => {
		const found = await faultsOf(files, 'GET /a', came).catch((error: Error) => [error.message]);
		expect(found, found.join('\n')).toHaveLength(expected.length);
		expected.forEach((one, index) =>
			typeof one === 'string' ? expect(found[index]).toBe(one) : expect(found[index]).toMatch(one)
		);
	});
	it('a body of which nothing is said is a note, and the check holds', async () => {
		const files = doc({ 200: { description: 'all well' } });
		const operation = registryOf(files).find({ method: 'GET', path: '/a', base: '' });
		const view = viewReply({
			status: 200,
			reason: '',
			version: 'HTTP/1.1',
			headers: [],
			body: new TextEncoder().encode('fine'),
			wireSize: 4,
			reused: false,
			phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
		});
		const faults = await replyFaults(view, operation, validate);
		expect(faults).toEqual([{ message: '200 is defined without a body, and 4 bytes came', note: true }]);
		const tools = { contract: () => Promise.resolve(faults) } as never;
		const judged = await checkKind('contract')!.judge!({ found: true, value: undefined }, true, tools, {});
		expect(judged).toMatchObject({ holds: true, received: 'it fits; 200 is defined without a body, and 4 bytes came' });
	});
	it('each value of a server’s variable makes a path', () => {
		const files = {
			[FILE]: {
				openapi: '3.1.0',
				info: { title: '', version: '' },
				servers: [
					{
						url: '/{edition}/{region}',
						variables: { edition: { default: 'v1', enum: ['v1', 'v2'] }, region: { enum: ['east', 'west'] } }
					}
				],
				paths: { '/a': { get: { responses: {} } } }
			}
		};
		for (const path of ['/v1/east/a', '/v2/west/a'])
			expect(nameOf(registryOf(files).find({ method: 'GET', path, base: '' }))).toBe('GET /a');
		expect(() => registryOf(files).find({ method: 'GET', path: '/v3/east/a', base: '' })).toThrow(/is in none of/);
	});
	it('a document is one though its version stands behind long examples', () => {
		const long = 'x'.repeat(30_000);
		const files = {
			'definitions/sorted.json': JSON.stringify({
				components: { examples: { a: { value: long } } },
				info: { title: '', version: '' },
				openapi: '3.1.0',
				paths: {}
			}),
			'definitions/data.json': JSON.stringify({ long, list: [{ openapi: '3.1.0' }] }),
			'definitions/sorted.yaml': `info:\n  title: "${long}"\nopenapi: 3.1.0\npaths: {}\n`,
			'definitions/notes.yaml': `text: "${long}"\nold:\n  openapi: 3.1.0\n`
		};
		expect(registryOf(files).files()).toEqual(['definitions/sorted.json', 'definitions/sorted.yaml']);
	});
	it.each([
		['in double quotes', '"$ref": "parts {v1}.yaml#/A"', 'parts {v1}.yaml'],
		['in single quotes', "$ref: 'parts {v1}.yaml'", 'parts {v1}.yaml'],
		['plain', '$ref: parts-{v1}.yaml', 'parts-{v1}.yaml'],
		['in a flow', '{ $ref: parts.yaml }', 'parts.yaml']
	])('a file that is referred to %s is found', (_, text, file) => {
		expect(filesReferred(text)).toEqual([file]);
	});
});

describe('a reply against OpenAPI 3.1 and 2.0', () => {
	const newest = {
		[FILE]: {
			openapi: '3.1.1',
			info: { title: '', version: '' },
			paths: {
				'/a': {
					get: {
						responses: {
							'200': {
								description: '',
								content: {
									'application/json': {
										schema: { $ref: '#/components/schemas/N', maximum: 3 }
									},
									'application/vnd.locks+json': { schema: false }
								}
							}
						}
					}
				}
			},
			components: { schemas: { N: { type: ['integer', 'null'], exclusiveMinimum: 0 } } }
		}
	};
	it.each<[string, Came, RegExp[]]>([
		['what stands beside a reference counts', { body: '4' }, [/must be <= 3/]],
		['a list of types', { body: 'null' }, []],
		['a limit as a number', { body: '0' }, [/must be > 0/]],
		['a schema that nothing fits', { type: 'application/vnd.locks+json', body: '1' }, [/must NOT be valid/]],
		['a number beyond 2^53', { body: '9007199254740993' }, [/must be <= 3/]]
	])('3.1: %s', async (_, came, expected) => {
		const found = await faultsOf(newest, 'GET /a', came);
		expect(found, found.join('\n')).toHaveLength(expected.length);
		expected.forEach((one, index) => expect(found[index]).toMatch(one));
	});
	const oldest = {
		[FILE]: {
			swagger: '2.0',
			info: { title: '', version: '' },
			basePath: '/v1/',
			produces: ['application/json'],
			paths: {
				'/a': {
					get: {
						responses: {
							'200': {
								description: '',
								headers: { 'X-Left': { type: 'integer' } },
								schema: { $ref: '#/definitions/A' }
							}
						}
					},
					post: { produces: ['text/plain'], responses: { '201': { description: '', schema: { type: 'string' } } } }
				}
			},
			definitions: {
				A: {
					type: 'object',
					required: ['x'],
					properties: { x: { type: 'integer', exclusiveMaximum: true, maximum: 3 } }
				}
			}
		}
	};
	it.each<[string, string, Came, RegExp[]]>([
		['what fits', 'GET /v1/a', { body: { x: 2 } }, []],
		['the limit itself', 'GET /v1/a', { body: { x: 3 } }, [/\$\.x must be < 3/]],
		['a header', 'GET /v1/a', { body: { x: 2 }, headers: [['X-Left', 'no']] }, [/X-Left must be integer/]],
		['media types of the operation', 'POST /v1/a', { status: 201, body: '{}' }, [/Content-Type is application\/json/]]
	])('2.0: %s', async (_, call, came, expected) => {
		const found = await faultsOf(oldest, call, came);
		expect(found, found.join('\n')).toHaveLength(expected.length);
		expected.forEach((one, index) => expect(found[index]).toMatch(one));
	});
});

describe('the operation that a call is one of', () => {
	const found = (method: string, path: string, base = '', files: Record<string, unknown> = three, named?: string) => {
		try {
			return nameOf(registryOf(files).find({ method, path, base }, named));
		} catch (error) {
			return (error as HeronError).message;
		}
	};
	it.each<[string, () => string, string | RegExp]>([
		['by the path of a server', () => found('GET', '/v2/locks/7'), 'GET /locks/{id}'],
		[
			'by the path of the connection, where a gateway stands before',
			() => found('GET', '/canal/locks/7', '/canal'),
			'GET /locks/{id}'
		],
		['the more concrete one', () => found('GET', '/v2/locks/latest'), 'GET /locks/latest'],
		['with a slash in a value', () => found('GET', '/v2/locks/a%2Fb'), 'GET /locks/{id}'],
		['with two values in one part', () => found('GET', '/v2/keepers/avery.json'), 'GET /keepers/{name}.{form}'],
		['not below another path', () => found('GET', '/v9/locks/7'), /GET \/v9\/locks\/7 is in none of locks\.yaml$/],
		['not for more parts', () => found('GET', '/v2/locks/7/keys'), /is in none of/],
		[
			'a method that is not there',
			() => found('PUT', '/v2/locks/7'),
			/is in none of locks\.yaml; there is GET \/locks\/\{id\}, DELETE \/locks\/\{id\}/
		],
		[
			'without any definition',
			() => found('GET', '/', '', { 'definitions/notes.yaml': 'a: 1' }),
			/definitions\/ holds no OpenAPI document/
		],
		[
			'in two definitions',
			() => found('GET', '/v2/locks/7', '', { ...three, 'definitions/again.yaml': three[FILE] }),
			/is in again\.yaml and locks\.yaml: name one of them/
		],
		[
			'in the one that is named',
			() => found('GET', '/v2/locks/7', '', { ...three, 'definitions/again.yaml': three[FILE] }, 'locks.yaml'),
			'GET /locks/{id}'
		]
	])('%s', (_, find, expected) => {
		if (typeof expected === 'string') expect(find()).toBe(expected);
		else expect(find()).toMatch(expected);
	});
});

it('a document that is kept is read anew when a file that it refers to has changed', async () => {
	const changed = { ...three, 'definitions/parts/answers.yaml': 'Problem: { description: no }\n' };
	const came = { status: 404, type: 'application/problem+json', body: { title: 'no such lock' } };
	// found, and not yet followed
	registryOf(three).find({ method: 'GET', path: '/v2/locks/7', base: '' });
	expect(await faultsOf(changed, 'GET /v2/locks/7', came)).toEqual([
		'4XX is defined without a body, and 24 bytes came'
	]);
	expect(await faultsOf(three, 'GET /v2/locks/7', came)).toEqual([expect.stringMatching(/^\$\.title must NOT/)]);
});

it('a template that is written to keep a reader busy does not', () => {
	const template = `/${'{a}'.repeat(30)}!`;
	const files = { [FILE]: { openapi: '3.1.0', paths: { [template]: { get: { responses: {} } } } } };
	expect(() => registryOf(files).find({ method: 'GET', path: `/${'a'.repeat(3000)}`, base: '' })).toThrow(
		/is in none of/
	);
});

describe('a definition that cannot be followed', () => {
	const minimal = (schema: unknown) => ({
		openapi: '3.1.0',
		paths: { '/a': { get: { responses: { '200': { description: '', content: { 'application/json': { schema } } } } } } }
	});
	it.each<[string, Record<string, unknown>, RegExp]>([
		['what is no YAML', { [FILE]: 'openapi: 3.1.0\npaths: {' }, /locks\.yaml is not a definition that can be read/],
		[
			'what is no JSON',
			{ 'definitions/a.json': '{"openapi":"3.1.0",' },
			/a\.json is not a definition that can be read/
		],
		[
			'a version to come',
			{ [FILE]: 'openapi: 4.0.0\npaths: {}' },
			/its version is 4\.0\.0; 2\.0, 3\.0 and 3\.1 are read/
		],
		['no paths', { [FILE]: 'openapi: 3.1.0\ninfo: {}' }, /it has no paths/],
		[
			'a reference to nothing',
			{ [FILE]: minimal({ $ref: '#/components/schemas/Gone' }) },
			/refers to #\/components\/schemas\/Gone, and nothing is there/
		],
		[
			'a reference out of the project',
			{ [FILE]: minimal({ $ref: '../../secrets.yaml' }) },
			/which is not in the project/
		],
		['a reference to the machine', { [FILE]: minimal({ $ref: '/etc/hostname' }) }, /which is not in the project/],
		[
			'a reference to an address',
			{ [FILE]: minimal({ $ref: 'https://schemas.example/a.json' }) },
			/which is not in the project/
		],
		[
			'a reference to a file that is not there',
			{ [FILE]: minimal({ $ref: 'b.yaml#/B' }) },
			/there is no file definitions\/b\.yaml/
		],
		['what every object has, and no document', { [FILE]: minimal({ $ref: '#/constructor' }) }, /nothing is there/],
		[
			'a circle of path items',
			{ [FILE]: 'openapi: 3.1.0\npaths: { /a: { $ref: "#/paths/~1b" }, /b: { $ref: "#/paths/~1a" } }' },
			/refers in a circle/
		],
		[
			'a schema that is never at an end',
			{ [FILE]: minimal({ allOf: [{ $ref: '#/paths/~1a/get/responses/200/content/application~1json/schema' }] }) },
			/cannot be used: .*leads back to itself/
		]
	])('%s', async (_, files, expected) => {
		await expect(faultsOf(files, 'GET /a', { body: '1' })).rejects.toThrow(expected);
	});
	it('names a text that unfolds without end', async () => {
		const lines = [
			'openapi: 3.1.0',
			'paths: { /a: { get: { responses: { "200": { description: "", content: { application/json: { schema: *z } } } } } } }'
		];
		const bombs = ['x0: &x0 { allOf: [ {}, {} ] }'];
		for (let i = 1; i < 40; i++) bombs.push(`x${i}: &x${i} { allOf: [ *x${i - 1}, *x${i - 1}, *x${i - 1} ] }`);
		const text = [lines[0], ...bombs, lines[1]!.replace('*z', '*x39')].join('\n');
		await expect(faultsOf({ [FILE]: text }, 'GET /a', { body: '1' })).rejects.toThrow(
			/aliases make more than 2000000 values/
		);
	});
});

describe('what is known of the names in an answer', () => {
	it('tells their types, through references, and of choices', () => {
		const operation = registryOf({ [FILE]: moorings('http://here.example/v1') }).find({
			method: 'GET',
			path: '/v1/moorings',
			base: ''
		});
		const types = Object.fromEntries([...typesOf(operation)].map(([name, known]) => [name, [...known].join()]));
		expect(types).toMatchObject({
			lengthMetres: 'number',
			name: 'string',
			state: 'string',
			total: 'number',
			links: 'object'
		});
		// once for each operation
		expect(typesOf(operation)).toBe(typesOf(operation));
	});
	it('the schema of a reply holds all that it refers to', () => {
		const { document } = registryOf(three).find({ method: 'GET', path: '/v2/locks/7', base: '' });
		const schema = replySchema(document, document.at(FILE, '#/components/schemas/Lock'));
		expect(Object.keys(schema.$defs as object)).toEqual(['1-Keeper']);
		expect(JSON.stringify(schema)).not.toContain('components');
	});
});

describe('a project that holds definitions', () => {
	const faultsOf = (definitions: Record<string, unknown>, collection: string, connection = '') => {
		const files: Record<string, string> = {
			'heron.yaml': 'heron: 1\nenvironment: here\n',
			'environments/here.yaml': 'heron: 1\nvariables: { host: "http://127.0.0.1:1/v1" }\n',
			'connections/m.yaml': `heron: 1\nbase: "{$env.host}"\n${connection}`,
			'collections/c.yaml': `heron: 1\ntitle: C\nconnection: m\nscenarios:\n  - id: s\n    title: S\n    steps:\n${collection}`,
			...Object.fromEntries(
				Object.entries(definitions).map(([path, given]) => [
					path,
					typeof given === 'string' ? given : JSON.stringify(given)
				])
			)
		};
		const { workspace } = loadProject(
			Object.entries(files)
				.filter(([path]) => path.endsWith('.yaml') && !path.startsWith('definitions/'))
				.map(([path, text]) => ({ path, text })),
			new Set(Object.keys(files)),
			(path) => (Object.hasOwn(files, path) ? new TextEncoder().encode(files[path]) : undefined)
		);
		const lines = (list: typeof workspace.problems) =>
			list.map(({ file, line, message, fix }) => `${file}:${line ?? ''} ${message}${fix ? ` [${fix.label}]` : ''}`);
		return { problems: lines(workspace.problems), warnings: lines(workspace.definitionWarnings()) };
	};
	const step = (more: string) => `      - { id: a, send: "GET /moorings/{id}", path: { id: 1 }, ${more} }\n`;
	const definition = { 'definitions/m.json': moorings('http://elsewhere.example/v1') };

	it('says what compares a number as a text, by the definition, and how to fix it', () => {
		const { problems, warnings } = faultsOf(
			definition,
			step('checks: [{ body: $.lengthMetres, equals: "12" }, { body: $.name, equals: x }]')
		);
		expect(problems).toEqual([]);
		expect(warnings).toEqual([
			'collections/c.yaml:8 lengthMetres is a number in the definition, and is compared with a text [compare it with a number]'
		]);
	});
	it('leaves alone what no definition knows', () => {
		const checks = 'checks: [{ body: $.lengthMetres, equals: "12" }]';
		expect(faultsOf({}, step(checks)).warnings).toEqual([]);
		expect(faultsOf(definition, `      - { id: a, send: GET /elsewhere, ${checks} }\n`).warnings).toEqual([]);
		expect(faultsOf(definition, `      - { id: a, send: "{$env.way}", ${checks} }\n`).warnings).toEqual([]);
	});
	it('names a document that cannot be read, and one that is not there', () => {
		const { problems, warnings } = faultsOf(
			{ 'definitions/m.yaml': 'openapi: 3.1.0\npaths: {' },
			step('checks: [{ status: 200 }]'),
			'definition: other.yaml\n'
		);
		expect(problems).toEqual(['connections/m.yaml:3 there is no file definitions/other.yaml in the project']);
		expect(warnings).toEqual([expect.stringContaining('definitions/m.yaml: it cannot be read: ')]);
	});
});
