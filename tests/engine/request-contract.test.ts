import type { Json } from '#core/model/json.ts';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { wsdl, schema } from '../../standins/tolls/definition.ts';
import { runAll, steps } from '../support/project.ts';

const DOCUMENT = `openapi: 3.1.0
info: { title: Boats, version: '1' }
servers: [{ url: /v1 }]
paths:
  /boats/{id}:
    parameters: [{ name: id, in: path, required: true, schema: { type: integer } }]
    put:
      parameters:
        - { name: limit, in: query, schema: { type: integer, maximum: 5 } }
        - { name: X-Trace, in: header, required: true, schema: { type: string } }
      requestBody:
        required: true
        content:
          application/json:
            schema: { type: object, required: [name], properties: { name: { type: string }, id: { readOnly: true } } }
      responses: { '200': { description: ok }, '422': { description: no } }
    get:
      parameters: [{ name: visit, in: cookie, required: true, schema: { type: integer } }]
      responses: { '200': { description: ok } }
`;
let server: Server;
let base: string;
beforeAll(async () => {
	server = createServer((request, response) => {
		request.resume().on('end', () => response.writeHead(request.url!.includes('bad') ? 422 : 200).end());
	}).listen(0, '127.0.0.1');
	await new Promise((resolve) => server.once('listening', resolve));
	base = `http://127.0.0.1:${(server.address() as AddressInfo).port}/v1`;
});
afterAll(() => server.close());

const GOOD = { send: 'PUT /boats/7', headers: { 'X-Trace': 'a' }, body: { json: { name: 'Pike' } } };
const run = async (step: object, checks: Json[]) => {
	const [result] = await runAll({
		connections: { one: { base } },
		collections: { c: steps([{ ...step, checks }]) },
		files: { 'definitions/boats.yaml': DOCUMENT }
	});
	return result!;
};

describe('contract: { request: true }', () => {
	test.each<[string, object, string]>([
		['a request that fits', GOOD, 'it fits'],
		['a path that is no number', { ...GOOD, send: 'PUT /boats/x' }, 'path id must be integer'],
		['a bound of the query', { ...GOOD, query: { limit: 6 } }, 'query limit must be <= 5'],
		['a header that is missing', { ...GOOD, headers: {} }, 'header X-Trace is missing'],
		['a body that lacks something', { ...GOOD, body: { json: {} } }, "must have required property 'name'"],
		['no body', { ...GOOD, body: undefined }, 'the body is missing; application/json is wanted'],
		[
			'another media type',
			{ ...GOOD, body: { text: 'x', type: 'text/plain' } },
			'Content-Type is text/plain; application/json is taken'
		],
		['a cookie', { send: 'GET /boats/7', cookies: { other: 'a', visit: 7 } }, 'it fits'],
		[
			'a cookie among those that a field holds',
			{ send: 'GET /boats/7', headers: { Cookie: 'a=b; visit=7' } },
			'it fits'
		],
		['a cookie that is missing', { send: 'GET /boats/7', cookies: { visits: 7 } }, 'cookie visit is missing'],
		['a cookie of another type', { send: 'GET /boats/7', cookies: { visit: 'x' } }, 'cookie visit must be integer'],
		['a call that the definition does not know', { ...GOOD, send: 'PATCH /boats/7' }, 'PATCH']
	])('%s is told, and is what request: false wants', async (_, step, said) => {
		const fits = said === 'it fits';
		const right = await run(step, [{ contract: { request: true } }]);
		expect(right.checks[0]!.received).toContain(said);
		expect(right.checks[0]).toMatchObject({
			...{ subject: 'contract of the request', expected: 'as the definition has it', holds: fits }
		});
		expect(right.outcome).toBe(fits ? 'passed' : 'failed');
		const wrong = await run(step, [{ contract: { request: false } }]);
		expect(wrong.checks[0]).toMatchObject({ expected: 'not as the definition has it', holds: !fits });
	});
	test('a call that is refused tells what in it the definition has otherwise, where checks do not hold', async () => {
		const step = { ...GOOD, query: { limit: 9, bad: 'yes' } };
		const failed = await run(step, [{ status: 200 }]);
		expect(failed.exchanges[0]!.notes).toEqual([
			expect.stringContaining('what was sent is not as its definition has it: query limit must be <= 5') as string
		]);
		// what is expected needs no cause
		expect((await run(step, [{ status: 422 }])).exchanges[0]!.notes ?? []).toEqual([]);
		expect((await run({ ...GOOD, query: { bad: 'yes' } }, [{ status: 200 }])).exchanges[0]!.notes ?? []).toEqual([]);
		expect((await run({ ...GOOD, send: 'GET /bad' }, [{ status: 200 }])).exchanges[0]!.notes ?? []).toEqual([]);
	});
	test('of SOAP it is the envelope', async () => {
		const soap = (values: Json) => ({
			send: 'POST /tolls',
			body: { soap: { operation: 'QuoteToll', values } },
			checks: [{ contract: { request: true } }]
		});
		const results = await runAll({
			connections: { one: { base } },
			collections: { c: steps([soap({ lock: 'Mill', on: 'some day' })]) },
			files: {
				'definitions/ledger/ledger.wsdl': wsdl('http://127.0.0.1:9'),
				'definitions/ledger/tolls.xsd': schema
			}
		});
		const [check] = results[0]!.checks;
		expect(check).toMatchObject({ subject: 'contract of the request', holds: false });
		expect(check!.received).toMatch(/^line \d+/);
	});
	test.each<[unknown]>([[false], [{ request: 'yes' }], [{ request: true, reply: true }], [{}]])(
		'contract: %j is refused',
		async (value) => {
			await expect(run(GOOD, [{ contract: value as Json }])).rejects.toThrow('true is wanted, or { request: true }');
		}
	);
});
