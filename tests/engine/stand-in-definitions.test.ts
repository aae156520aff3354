import type { StandInsNow } from '#server/engine/stand-in/index.ts';
import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createClientAsync } from 'soap';
import { afterEach, describe, expect, test } from 'vitest';
import { schema as tollTypes } from '../../standins/tolls/definition.ts';
import { inside, members } from '../../src/core/openapi/document.ts';
import { callsByDefinition } from '../support/definition-calls.ts';
import { runAll } from '../support/project.ts';
import { ask, running, type StandInsGiven } from '../support/stand-in.ts';

const open: StandInsNow[] = [];
afterEach(async () => {
	for (const one of open.splice(0)) await one.close();
});
async function start(given: StandInsGiven) {
	const now = await running(given);
	open.push(now);
	return { base: now.list[0]!.address, log: now.list[0]!.log };
}

/** Documents that others wrote, as the package brings them. */
const examples = join(import.meta.dirname, '../../node_modules/@readme/oas-examples');
const documents = ['2.0', '3.0', '3.1'].flatMap((version) =>
	readdirSync(join(examples, version, 'json'))
		.filter((file) => file.endsWith('.json'))
		.map((file) => [`${version}/${file}`, join(examples, version, 'json', file)] as const)
		.filter(([, file]) => existsSync(file))
);

/** What no value fits, or contradicts itself: as the tests of imports have it. */
const NOTHING_FITS = new RegExp(
	[
		'POST /direct\\b',
		'(PATCH|GET|POST) (/anything)?/embedded-discriminator',
		'/nested-one-of-object-with-nested-one-of',
		'POST /anything/one-of-object',
		'POST /anything/nested-one-of',
		'POST /one-of-with-type',
		'/anything/quirks/polymorphism'
	].join('|')
);

/** A link that looks for a property in a list; names that one answer gives and another call does not take. */
const SAYS_OTHERWISE =
	/^GET \/branches\/\{branch\}\/(apis\/\{filename\}|categories\/\{section\})|^GET \/2\.0\/repositories\/\{username\}.* keep slug|^GET \/2\.0\/repositories\/\{username\}\/\{slug\}/;

describe.each(documents)('a stand-in of %s', (_, file) => {
	test('takes every call that is made of it, and answers each as it says', async () => {
		const { operations, results, calls } = await callsByDefinition(readFileSync(file, 'utf8'));
		const wrong = results.flatMap(({ call, exchanges, checks, error }) =>
			[
				...(error ? [error.message] : []),
				...checks.filter(({ holds }) => !holds).map((one) => `${one.subject}: ${one.received} ${one.error ?? ''}`)
			].map(
				(one) =>
					`${call} as ${exchanges[0]?.url}: ${one} ${Buffer.from(exchanges.at(-1)?.reply?.body ?? [])
						.toString()
						.slice(0, 300)}`
			)
		);
		// an operation that defines failures alone is answered with one of them
		const fails = new Set(
			operations
				.filter((one) => !members(inside(one.node, 'responses')).some(([key]) => /^(2|default)/i.test(key)))
				.map(({ method, template }) => `${method} ${template}`)
		);
		const expected = (one: string) =>
			fails.has(one.split(' ').slice(0, 2).join(' ')) && / (status|contract): /.test(one);
		expect(wrong.filter((one) => !NOTHING_FITS.test(one) && !SAYS_OTHERWISE.test(one) && !expected(one))).toEqual([]);
		expect(
			calls.filter(({ by, target }) => by !== 'definition' && !NOTHING_FITS.test(target)).map(({ target }) => target)
		).toEqual([]);
		expect(
			calls
				.flatMap(({ method, target, drift }) => drift.map((one) => `${method} ${target}: ${one}`))
				.filter((one) => !NOTHING_FITS.test(one))
		).toEqual([]);
	});
});

describe('a request that is not as the definition has it', () => {
	const definition = JSON.stringify({
		openapi: '3.1.0',
		info: { title: 'Locks', version: '1' },
		paths: {
			'/locks/{number}': {
				parameters: [{ name: 'number', in: 'path', required: true, schema: { type: 'integer', minimum: 1 } }],
				get: {
					parameters: [
						{ name: 'side', in: 'query', required: true, schema: { enum: ['left', 'right'] } },
						{ name: 'ids', in: 'query', schema: { type: 'array', items: { type: 'integer' } } },
						{ name: 'X-Day', in: 'header', schema: { type: 'string', format: 'date' } },
						{
							name: 'size',
							in: 'query',
							style: 'deepObject',
							schema: { type: 'object', properties: { min: { type: 'integer' } } }
						}
					],
					responses: {
						200: {
							description: 'fine',
							content: {
								'application/json': {
									schema: {
										type: 'object',
										required: ['name'],
										properties: { name: { type: 'string', example: 'Mill Lock' } }
									}
								}
							}
						},
						404: { description: 'none', content: { 'application/json': { example: { title: 'no such lock' } } } }
					}
				},
				put: {
					requestBody: {
						required: true,
						content: {
							'application/json': {
								schema: {
									type: 'object',
									required: ['name'],
									properties: { name: { type: 'string' }, id: { type: 'integer', readOnly: true } }
								}
							}
						}
					},
					responses: { 204: { description: 'done' } }
				}
			}
		}
	});
	const standIn = () =>
		start({
			standIns: { own: { definition: 'own.json', otherwise: 'definition' } },
			files: { 'definitions/own.json': definition }
		});
	test.each<[string, string, unknown, Record<string, string>, string]>([
		['a path value of another type', 'GET /locks/mill?side=left', undefined, {}, 'path number must be integer'],
		['a path value out of its range', 'GET /locks/0?side=left', undefined, {}, 'path number must be >= 1'],
		['a parameter that is missing', 'GET /locks/1', undefined, {}, 'query side is missing'],
		['a value that is none of a list', 'GET /locks/1?side=top', undefined, {}, 'query side must be equal to one of'],
		['an item of a list', 'GET /locks/1?side=left&ids=1&ids=x', undefined, {}, 'query ids at $[1] must be integer'],
		[
			'a field of an object',
			'GET /locks/1?side=left&size[min]=x',
			undefined,
			{},
			'query size at $.min must be integer'
		],
		[
			'a header of another format',
			'GET /locks/1?side=left',
			undefined,
			{ 'X-Day': 'today' },
			'header X-Day must match format'
		],
		['a body that is missing', 'PUT /locks/1', undefined, {}, 'the body is missing'],
		[
			'a body of another type',
			'PUT /locks/1',
			'name=x',
			{ 'Content-Type': 'text/plain' },
			'Content-Type is text/plain'
		],
		['a property that is missing', 'PUT /locks/1', {}, {}, "must have required property 'name'"],
		['a property that is for replies alone', 'PUT /locks/1', { name: 'x', id: 1 }, {}, 'boolean schema is false'],
		['a body that is no JSON', 'PUT /locks/1', '{', { 'Content-Type': 'application/json' }, 'not JSON']
	])('%s is 400, with the place', async (_, call, body, headers, said) => {
		const { base } = await standIn();
		const came = await ask(base, call, body, headers);
		expect(came.status).toBe(400);
		expect(came.text.replaceAll('\\"', '"')).toContain(said);
	});
	test('right ones are answered, with an example; another status by a header', async () => {
		const { base } = await standIn();
		expect((await ask(base, 'GET /locks/1?side=left&ids=1&ids=2')).json()).toEqual({ name: 'Mill Lock' });
		expect((await ask(base, 'PUT /locks/1', { name: 'x' })).status).toBe(204);
		const none = await ask(base, 'GET /locks/1?side=left', undefined, { 'Heron-Answer': '404' });
		expect([none.status, none.json()]).toEqual([404, { title: 'no such lock' }]);
	});
	test('an answer of its own that drifts from it is told in the log; a check can ask for the contract', async () => {
		const { base, log } = await start({
			standIns: {
				own: {
					definition: 'own.json',
					otherwise: 'definition',
					answers: [
						{
							id: 'drifts',
							ask: 'GET /locks/{number}',
							must: [{ contract: true }],
							answer: { body: { json: { nam: 'x' } } }
						}
					]
				}
			},
			files: { 'definitions/own.json': definition }
		});
		expect((await ask(base, 'GET /locks/1')).status).toBe(400);
		expect((await ask(base, 'GET /locks/1?side=left')).text).toBe('{"nam":"x"}');
		await expect.poll(() => log.find({ by: 'drifts' })[0]?.drift).toEqual(["$ must have required property 'name'"]);
		expect(log.find({})[0]!.tried[0]!.why).toContain('query side is missing');
	});
});

test('callbacks of an operation are made, to the address that came with the request', async () => {
	const listener = await start({
		standIns: { listener: { answers: [{ id: 'told', ask: 'POST /{+any}', answer: { status: 204 } }] } }
	});
	const definition = JSON.stringify({
		openapi: '3.1.0',
		info: { title: 'Orders', version: '1' },
		paths: {
			'/orders/{id}': {
				post: {
					parameters: [{ name: 'id', in: 'path', required: true, schema: { type: 'string' } }],
					requestBody: { content: { 'application/json': { schema: { type: 'object' } } } },
					responses: { 202: { description: 'taken' } },
					callbacks: {
						told: {
							'{$request.body#/back/to}/orders/{$request.path.id}': {
								post: {
									requestBody: {
										content: {
											'application/json': {
												schema: { type: 'object', required: ['state'], properties: { state: { enum: ['done'] } } }
											}
										}
									},
									responses: {}
								}
							}
						}
					}
				}
			}
		}
	});
	const { base, log } = await start({
		standIns: { own: { definition: 'own.json', otherwise: 'definition' } },
		files: { 'definitions/own.json': definition }
	});
	expect((await ask(base, 'POST /orders/N-7', { back: { to: listener.base } })).status).toBe(202);
	await expect
		.poll(() => listener.log.find({}).map(({ target, requestBody }) => [target, requestBody]))
		.toEqual([['/orders/N-7', '{"state":"done"}']]);
	// without an address nobody is called
	expect((await ask(base, 'POST /orders/N-8', {})).status).toBe(202);
	expect(log.find({}).filter(({ calledBack }) => calledBack)).toHaveLength(1);
});

describe('a stand-in of a WSDL', () => {
	const ledger = readFileSync(new URL('../../demo/reedmere/definitions/tolls/ledger.wsdl', import.meta.url), 'utf8');
	const files = { 'definitions/tolls/ledger.wsdl': ledger, 'definitions/tolls/tolls.xsd': tollTypes };
	const soapStandIn = (answers: object[] = []) =>
		start({ standIns: { tolls: { definition: 'tolls/ledger.wsdl', otherwise: 'definition', answers } }, files });
	const quote = { lock: 'Mill Lock', craft: { name: 'Pike', kind: 'barge', length: 12.5 }, season: 'summer' };

	test('tells its definition, and a client of another library calls it by that', async () => {
		const { base } = await soapStandIn([
			{
				id: 'quote',
				ask: 'TollLedger.QuoteToll',
				must: [{ body: '//*[local-name()="lock"]', equals: 'Mill Lock' }],
				answer: { body: { soap: { values: { pence: 875, line: [{ text: 'barge', pence: 875 }] } } } }
			}
		]);
		const client = await createClientAsync(`${base}/?wsdl`, { endpoint: base });
		const [came] = (await client.QuoteTollAsync!(quote)) as [{ pence: number }];
		expect(Number(came.pence)).toBe(875);
	});
	test('answers what is not told by its schema, in both versions, and a wrong call with a fault', async () => {
		const { base, log } = await soapStandIn();
		const results = await runAll({
			connections: { tolls: { base } },
			collections: {
				tolls: {
					connection: 'tolls',
					scenarios: [
						{
							id: 'all',
							steps: ['1.1', '1.2'].flatMap((version) => [
								{
									id: `quote-${version}`,
									send: 'POST /',
									body: { soap: { operation: 'TollLedger.QuoteToll', version, values: quote } },
									checks: [{ status: 200 }, { contract: true }]
								},
								{
									id: `wrong-${version}`,
									send: 'POST /',
									body: { soap: { operation: 'TollLedger.QuoteToll', version, values: { lock: 'Mill Lock' } } },
									checks: [{ fault: true, present: true }]
								}
							])
						}
					]
				}
			},
			files,
			wrong: true
		});
		expect(
			results.flatMap(({ step: id, checks, error }) => [
				...(error ? [`${id} ${error.message}`] : []),
				...checks.filter(({ holds }) => !holds).map((one) => `${id} ${one.subject} ${one.received}`)
			])
		).toEqual([]);
		expect(log.find({}).flatMap(({ drift }) => drift)).toEqual([]);
	});
	test('a fault that the operation declares', async () => {
		const { base, log } = await soapStandIn([
			{
				id: 'none',
				ask: 'FetchPassage',
				answer: {
					body: {
						soap: {
							fault: {
								code: 'Client',
								reason: 'there is no passage',
								detail: { PassageFault: { field: 'number' } }
							}
						}
					}
				}
			}
		]);
		const client = await createClientAsync(`${base}/?wsdl`, { endpoint: base });
		await expect(client.FetchPassageAsync!({ number: 'LP-00001' })).rejects.toThrow('there is no passage');
		await expect.poll(() => log.find({ by: 'none' }).length).toBe(1);
		expect(log.find({ by: 'none' })[0]).toMatchObject({ status: 500, drift: [] });
	});
});
