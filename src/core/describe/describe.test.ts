import { Validator } from '@seriousme/openapi-schema-validator';
import { describe, expect, test } from 'vitest';
import type { Json, JsonObject } from '../model/json.ts';
import { describeApi, type SeenCall } from './index.ts';
import { pathOfCall, templateOf } from './path.ts';

const HOST = 'https://api.reedmere.example/v1';
const bytes = (value: unknown): Uint8Array =>
	value === undefined
		? new Uint8Array()
		: new TextEncoder().encode(typeof value === 'string' ? value : JSON.stringify(value));
const JSON_TYPE: [string, string] = ['Content-Type', 'application/json'];

function seen(
	what: string,
	answer: unknown,
	more: Partial<SeenCall> & { sent?: unknown; fields?: [string, string][] } = {}
): SeenCall {
	const [method = '', path = ''] = what.split(' ');
	const { sent, fields = [], ...rest } = more;
	return {
		...{ method, url: path.startsWith('/') ? HOST + path : path, title: '', status: 200, reason: 'OK' },
		requestHeaders: [...(sent === undefined ? [] : [JSON_TYPE]), ...fields],
		requestBody: bytes(sent),
		headers: answer === undefined ? [] : [JSON_TYPE],
		body: bytes(answer),
		...rest
	};
}
function described(...calls: SeenCall[]): JsonObject & { paths: Record<string, Record<string, JsonObject>> } {
	const describing = describeApi();
	for (const call of calls) describing.look(call);
	return describing.document('Boats') as never;
}
const valid = async (document: JsonObject): Promise<unknown> => {
	const { valid: is, errors } = await new Validator().validate(structuredClone(document));
	const text = JSON.stringify(document);
	const { schemas } = document.components as { schemas: JsonObject };
	// the validator does not follow references
	for (const [, name] of text.matchAll(/#\/components\/schemas\/(\w+)/g))
		if (!schemas[name!]) return `${name} is missing`;
	return is ? 'valid' : errors;
};

describe('the path of a call', () => {
	test.each<[string, string, string | undefined, string, string]>([
		['parameters as the step has them', '/v1/boats/41', '/boats/{boat}', '/v1', '/boats/{boat}'],
		['an expression by its last word', '/v1/boats/x', '/boats/{$steps.make.ref}', '/v1', '/boats/{ref}'],
		[
			'an id by what it is of',
			'/v1/boats/x/crews/y',
			'/boats/{$steps.a.id}/crews/{id}',
			'/v1',
			'/boats/{boatId}/crews/{crewId}'
		],
		['an expression with slashes and braces in it', '/a/9', '/a/{$split($steps.b.location, "/")[-1]}', '', '/a/{aId}'],
		['a query and a whole address', '/v1/a/b', 'https://x.example/a/b?c={$env.d}', '/v1', '/a/b'],
		['what looks like an id where nobody knows', '/api/v2/boats/41', undefined, '/api/v2', '/boats/{boatId}'],
		['words stay words', '/api/boats/search', undefined, '/api', '/boats/search'],
		['an id that a step writes out', '/v1/boats/41', '/boats/41', '/v1', '/boats/{boatId}'],
		['a target that is of another path', '/elsewhere/7', '/boats/{id}', '', '/elsewhere/{elsewhereId}'],
		['letters of other scripts', '/sch%C3%BCtze/1', '/schütze/{nr}', '', '/schütze/{nr}'],
		['a part beside text', '/boats/b-41', '/boats/b-{$env.n}', '', '/boats/{boatId}'],
		['nothing', '/', '/', '', '/']
	])('%s', (_, path, target, base, template) => {
		const found = pathOfCall(new URL(`https://h.example${path}`), target);
		expect([found.server, templateOf(found)]).toEqual([`https://h.example${base}`, template]);
	});
});

describe('a description', () => {
	const pike = { id: 41, name: 'Pike', length: 12.5 };
	const calls = [
		seen('POST /boats', pike, {
			...{ sent: { name: 'Pike', length: 12.5 }, status: 201, reason: 'Created', title: 'A boat is made' },
			...{ target: '/boats', fields: [['Authorization', 'Bearer ‹token›']] as [string, string][] },
			headers: [JSON_TYPE, ['Location', '/v1/boats/41'], ['Date', 'x']]
		}),
		seen('GET /boats/41?full=true', pike, { target: '/boats/{id}' }),
		seen('GET /boats/42', { ...pike, id: 42, note: null }, { target: '/boats/{id}' }),
		seen(
			'POST /boats',
			{ title: 'length is wrong' },
			{ sent: { length: 'x' }, status: 422, reason: '', target: '/boats' }
		)
	];
	test('has paths with their parameters, bodies, answers and proofs, and is valid by the official schema', async () => {
		const document = described(...calls);
		expect(await valid(document)).toBe('valid');
		expect(document.servers).toEqual([{ url: HOST }]);
		expect(Object.keys(document.paths)).toEqual(['/boats', '/boats/{boatId}']);
		const { post } = document.paths['/boats']!;
		expect(post).toMatchObject({
			...{ operationId: 'postBoats', summary: 'A boat is made', tags: ['boats'], security: [{ bearer: [] }] },
			requestBody: {
				required: true,
				content: {
					'application/json': {
						schema: {
							...{ type: 'object', required: ['name', 'length'] },
							properties: { name: { type: 'string' }, length: { type: 'number' } }
						},
						example: { name: 'Pike', length: 12.5 }
					}
				}
			},
			responses: {
				'201': { description: 'Created', headers: { Location: { schema: { type: 'string' } } } },
				'422': { description: 'as it was seen' }
			}
		});
		expect(document.paths['/boats/{boatId}']!.get).toMatchObject({
			operationId: 'getBoatsByBoatId',
			parameters: [
				{ name: 'boatId', in: 'path', required: true, schema: { type: 'integer' }, example: 41 },
				{ name: 'full', in: 'query', required: false, schema: { type: 'boolean' } }
			]
		});
		const answer = (document.paths['/boats/{boatId}']!.get!.responses as Record<string, JsonObject>)['200'];
		expect(answer).toMatchObject({
			content: {
				'application/json': { schema: { required: ['id', 'name', 'length'], properties: { note: { type: 'null' } } } }
			}
		});
	});
	test('gives a name to what stands in several places', async () => {
		const document = described(
			seen('GET /boats/1', pike, { target: '/boats/{id}' }),
			seen('PUT /boats/1', pike, { target: '/boats/{id}', sent: pike }),
			seen('GET /boats', { items: [pike], next: null, total: 1 }, { target: '/boats' })
		);
		expect(await valid(document)).toBe('valid');
		expect(Object.keys((document.components as { schemas: JsonObject }).schemas)).toEqual(['Boat']);
		expect(JSON.stringify(document.paths).match(/#\/components\/schemas\/Boat"/g)).toHaveLength(4);
	});
	test('names what stands in what has a name, and problems as such; what is not there is no operation', async () => {
		const boat = { ...pike, lock: { id: 1, name: 'Mill' } };
		const problem = { title: 'x', status: 409 };
		const document = described(
			seen('GET /boats/1', boat, { target: '/boats/{id}' }),
			seen('GET /boats/9', problem, { target: '/boats/{id}', status: 404 }),
			seen('PUT /boats/1', boat, { target: '/boats/{id}', sent: boat }),
			seen('PUT /boats/1', problem, { target: '/boats/{id}', status: 409 }),
			seen('GET /nothing', problem, { status: 404 })
		);
		expect(await valid(document)).toBe('valid');
		const { schemas } = document.components as { schemas: Record<string, JsonObject> };
		expect(Object.keys(schemas).sort()).toEqual(['Boat', 'Lock', 'Problem']);
		expect(schemas.Boat).toMatchObject({ properties: { lock: { $ref: '#/components/schemas/Lock' } } });
		expect(Object.keys(document.paths)).toEqual(['/boats/{boatId}']);
	});
	test('shows nothing that is secret', async () => {
		const document = described(
			seen(
				'POST /sign-in?api_key=abcdefgh1',
				{ accessToken: 'tok-1234567890', items: [{ password: 'pond-77' }] },
				{
					...{ sent: { user: 'avery', password: 'pond-78' }, target: '/sign-in' },
					fields: [
						['X-Api-Key', 'key-998877'],
						['X-Lock', '‹lockKey›']
					]
				}
			)
		);
		expect(await valid(document)).toBe('valid');
		expect(JSON.stringify(document)).not.toMatch(/tok-1234567890|pond-77|pond-78|key-998877|abcdefgh1|lockKey/);
		expect((document.components as JsonObject).securitySchemes).toEqual({
			'X-Api-Key': { type: 'apiKey', in: 'header', name: 'X-Api-Key' },
			'X-Lock': { type: 'apiKey', in: 'header', name: 'X-Lock' },
			api_key: { type: 'apiKey', in: 'query', name: 'api_key' }
		});
		expect(document.paths['/sign-in']!.post!.parameters).toBeUndefined();
	});
	test('knows forms, parts, texts and bytes; and paths of the same name at another server', async () => {
		const typed = (type: string): [string, string][] => [['Content-Type', type]];
		const document = described(
			seen('POST /f', 'plain', {
				requestHeaders: typed('application/x-www-form-urlencoded'),
				requestBody: bytes('a=1&b=x'),
				headers: typed('text/plain; charset=utf-8')
			}),
			seen('POST /m', '<a/>', {
				requestHeaders: typed('multipart/form-data; boundary=X'),
				requestBody: bytes('--X\r\nContent-Disposition: form-data; name="f"\r\n\r\n1\r\n--X--'),
				headers: typed('application/xml')
			}),
			seen('GET /p', '', { headers: typed('image/png'), body: new Uint8Array([1, 2, 255]) }),
			seen('GET https://other.example/p', '{broken', { target: '/p' }),
			seen('GET https://other.example/q', '{broken', { target: '/q' }),
			seen('GET ftp://h/p', {}),
			seen('LINK /p', {})
		);
		expect(await valid(document)).toBe('valid');
		const content = (path: string, method = 'post') =>
			(document.paths[path]![method]!.requestBody as { content: Record<string, Json> } | undefined)?.content;
		expect(content('/f')).toEqual({
			'application/x-www-form-urlencoded': {
				schema: {
					...{ type: 'object', required: ['a', 'b'] },
					properties: { a: { type: 'integer' }, b: { type: 'string' } }
				},
				example: { a: 1, b: 'x' }
			}
		});
		expect(content('/m')).toEqual({
			'multipart/form-data': { schema: { type: 'object', properties: { f: {} } } }
		});
		expect(document.servers).toEqual([{ url: HOST }]);
		expect(document.paths['/q']!.get).toMatchObject({ servers: [{ url: 'https://other.example' }] });
		expect(document.paths['/p']!.get).not.toHaveProperty('servers');
		expect((document.info as JsonObject).description).toContain(
			'Left out: 1 that other servers have under the same path'
		);
	});
	test('numbers larger than a double holds are shown as they are', () => {
		const document = described(seen('GET /n', '{"n":90071992547409931}'));
		const answer = (document.paths['/n']!.get!.responses as Record<string, JsonObject>)['200'];
		expect(answer).toMatchObject({ content: { 'application/json': { example: { n: 90071992547409931n } } } });
	});
	test('of nothing is valid, too', async () => {
		expect(await valid(described())).toBe('valid');
	});
});
