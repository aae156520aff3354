import { planDefinitions } from '#core/definitions/index.ts';
import { readCurl } from '#core/exchange/index.ts';
import { parseDuration } from '#core/model/units.ts';
import { schemesOf } from '#core/reach/index.ts';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { createWorkspace } from '#core/project/index.ts';
import { runAll, steps } from '../support/project.ts';

// Words that every object of JavaScript has something under: where they come from outside they are words like any other.
const WORDS = ['constructor', 'toString', 'valueOf', 'hasOwnProperty', '__proto__'];

let base = '';
const came: string[] = [];
const server = createServer((request, reply) => {
	came.push(request.url!);
	reply.setHeader('content-type', 'application/json').end('{"n":1}');
});
beforeAll(async () => {
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
});
afterAll(() => server.close());

describe.each(WORDS)('%s', (word) => {
	test('is a scheme that a server may ask for', () => {
		const headers: [string, string][] = [['WWW-Authenticate', `${word} realm="x"`]];
		const none = { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 0 };
		const reply = { status: 401, reason: '', version: '1.1', headers, body: new Uint8Array(), wireSize: 0 };
		expect(schemesOf({ ...reply, phases: none, reused: false }).words).toBe(word.toLowerCase());
	});
	test('is a format, a type, a style and a property of a definition', () => {
		const schema = { type: 'object', required: [word], properties: { [word]: { type: 'string', format: word } } };
		const document = {
			openapi: '3.0.3',
			info: { title: 'Locks', version: '1' },
			paths: {
				[`/a/{${word}}`]: {
					post: {
						parameters: [
							{ name: word, in: 'path', required: true, style: word, schema: { type: word } },
							{ name: 'q', in: 'query', required: true, schema: { type: 'string', format: word }, example: 'x' }
						],
						requestBody: { content: { 'application/json': { schema } } },
						responses: { 201: { description: 'made', content: { 'application/json': { schema } } } }
					}
				}
			}
		};
		const [plan] = planDefinitions({
			...{ name: 'locks', connection: '', valueOf: () => undefined, readFile: () => undefined },
			files: [{ path: 'locks.json', bytes: new TextEncoder().encode(JSON.stringify(document)) }],
			workspace: createWorkspace([], new Set())
		});
		expect(plan!.added).toHaveLength(1);
		expect(JSON.stringify(plan!.writes)).not.toContain('native code');
	});
	test('is a flag of curl that nobody knows', () => {
		const [call] = readCurl(`curl --${word} http://h.example/`);
		expect(call!.notes).toEqual([`--${word} was left out`]);
	});
	test.skipIf(word === '__proto__')('is the name of a step, and of what it keeps each time', async () => {
		came.length = 0;
		const results = await runAll({
			connections: { c: { base } },
			collections: {
				c: steps(
					[
						{ id: word, each: [1, 2], send: 'GET /', keep: { [word]: '$.n' } },
						{ send: 'GET /', query: { all: `{$count($steps.${word}.${word})}` } }
					],
					{ connection: 'c' }
				)
			}
		});
		expect(results.map(({ outcome }) => outcome)).toEqual(['passed', 'passed', 'passed']);
		expect(came.at(-1)).toBe('/?all=2');
	});
	test('is no unit of time', async () => {
		const [result] = await runAll({
			connections: { one: { base } },
			collections: { c: steps([{ set: { at: `{$date("yyyy", "+3 ${word.replace(/_/g, '')}")}` } }]) }
		});
		expect(result!.error?.message).toMatch(/\$date/);
		expect(parseDuration(`5 ${word}`)).toBeUndefined();
	});
});
