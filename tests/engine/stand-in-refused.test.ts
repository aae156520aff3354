import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import type { StandInsNow } from '#server/engine/stand-in/index.ts';
import { schema as tollTypes } from '../../standins/tolls/definition.ts';
import { ask, running } from '../support/stand-in.ts';

const board = JSON.stringify({
	openapi: '3.1.0',
	info: { title: 'Board', version: '1' },
	paths: {
		'/notices/{number}': {
			get: {
				parameters: [{ name: 'number', in: 'path', required: true, schema: { type: 'string' } }],
				responses: {
					200: {
						description: 'One',
						content: {
							'application/json': {
								schema: {
									type: 'object',
									required: ['number', 'text'],
									properties: { number: { type: 'string' }, text: { type: 'string' } }
								}
							}
						}
					},
					404: { description: 'None' }
				}
			}
		},
		'/notices': {
			get: {
				responses: { 200: { description: 'All', content: { 'application/json': { schema: { type: 'array' } } } } }
			}
		}
	}
});
const ledger = readFileSync(join(import.meta.dirname, '../../demo/reedmere/definitions/tolls/ledger.wsdl'), 'utf8');
const files = {
	'definitions/board.json': board,
	'definitions/tolls/ledger.wsdl': ledger,
	'definitions/tolls/tolls.xsd': tollTypes
};

let now: StandInsNow | undefined;
afterEach(async () => {
	await now?.close();
	now = undefined;
});
async function refusals(value: object, environment = true): Promise<string[]> {
	now = await running({ standIns: { fake: value }, files });
	const found = await now.list[0]!.service().refused(environment);
	return found.map(({ id, turn, message }) => `${id}${turn ? ` ${turn}` : ''}: ${message}`);
}
const one = (answer: object, more: object = {}) => ({
	definition: 'board.json',
	answers: [{ id: 'a', ...answer }],
	...more
});
const get = 'GET /notices/{number}';

describe('before anything is asked', () => {
	test.each<[string, object, RegExp[]]>([
		['an answer that fits', one({ ask: get, answer: { body: { json: { number: '{$path.number}', text: 'x' } } } }), []],
		[
			'one whose body lacks something',
			one({ ask: get, answer: { body: { json: { number: 'N-1' } } } }),
			[/^a: .*text/]
		],
		[
			'one of another type',
			one({ ask: get, answer: { body: { json: { number: 'N-1', text: '{$asked}' } } } }),
			[/^a: \$\.text/]
		],
		['a status that is not defined', one({ ask: get, answer: { status: 418 } }), [/^a: status 418/]],
		['another media type', one({ ask: get, answer: { body: { text: 'x' } } }), [/^a: .*text\/plain/]],
		[
			'the second in turn',
			one({ ask: get, answer: [{ status: 404, times: 2 }, { body: { json: {} } }] }),
			[/^a 2: .*number/, /^a 2: .*text/]
		],
		[
			'a path that the definition has not',
			one({ ask: 'GET /notes', answer: { status: 200 } }),
			[/^a: the definition knows no GET \/notes/]
		],
		['what is off', one({ ask: get, off: true, answer: { status: 418 } }), []],
		['what is passed on', one({ ask: get, forward: 'http://127.0.0.1:9' }), []],
		['what is wrong on purpose', one({ ask: get, answer: { status: 418 }, fault: { delay: '1 ms' } }), []],
		[
			'a resource, by what its store holds',
			one({ resource: '/notices', store: 'n' }, { stores: { n: { key: 'number', from: [{ number: 'N-1' }] } } }),
			[
				/^a\.add: the definition knows no POST/,
				/^a\.read: .*text/,
				/^a\.replace: .* PUT/,
				/^a\.change: .* PATCH/,
				/^a\.remove: .* DELETE/
			]
		],
		[
			'a SOAP answer that its schema refuses',
			{
				definition: 'tolls/ledger.wsdl',
				answers: [
					{
						id: 'q',
						ask: 'QuoteToll',
						answer: {
							body: {
								soap: {
									envelope:
										'<e:Envelope xmlns:e="http://schemas.xmlsoap.org/soap/envelope/"><e:Body><x/></e:Body></e:Envelope>'
								}
							}
						}
					}
				]
			},
			[/^q: .*(x|QuoteTollResponse)/]
		],
		[
			'a SOAP answer that fits',
			{
				definition: 'tolls/ledger.wsdl',
				answers: [
					{
						id: 'q',
						ask: 'QuoteToll',
						answer: { body: { soap: { values: { pence: 8, line: [{ text: 'a', pence: 8 }] } } } }
					}
				]
			},
			[]
		]
	])('%s', async (_, value, patterns) => {
		const found = await refusals(value);
		expect(found).toHaveLength(patterns.length);
		for (const [index, pattern] of patterns.entries()) expect(found[index]).toMatch(pattern);
	});
	const free = (text: string) => ({ answers: [{ id: 'a', ask: 'GET /{b}', answer: { body: { text } } }] });
	test.each<[string, string, boolean, number]>([
		['a name that is none', '{$requst.body.x}', true, 1],
		['a variable that is not set', '{$env.hook}', true, 1],
		['a variable, where no environment is chosen', '{$env.hook}', false, 0],
		['what depends on the request', '{$uppercase($request.body.x)} {$path.b} {$query.c}', true, 0],
		['what depends on the store or the state', '{$stored.x} {$state.y} {$row.z}', true, 0]
	])('%s', async (_, text, environment, count) => {
		expect(await refusals(free(text), environment)).toHaveLength(count);
	});
	test('what runs remembers what it did', async () => {
		await refusals({
			stores: { n: { key: 'id' } },
			answers: [
				{ id: 'n', resource: '/n', store: 'n' },
				{ id: 'c', ask: 'GET /count', answer: { body: { text: '{$asked}' } } }
			]
		});
		const [{ address, service }] = now!.list as [StandInsNow['list'][0]];
		await ask(address, 'POST /n', { id: 'a' });
		await ask(address, 'GET /count');
		await service().refused(true);
		expect((await ask(address, 'GET /n')).json()).toEqual([{ id: 'a' }]);
		expect((await ask(address, 'GET /count')).text).toBe('2');
	});
});
