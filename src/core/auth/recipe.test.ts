import { describe, expect, test } from 'vitest';
import type { JsonObject } from '../model/json.ts';
import { createEvaluator } from '../values/index.ts';
import { checkVector, readyRecipes, traceRecipe, vectorRequest } from './index.ts';

const evaluator = createEvaluator();
const request = (send: string, body = '', headers = {}) => vectorRequest({ request: { send, body, headers } });
const trace = (lines: object, put: object = {}, send = 'GET https://host.example/a?b=2&a=1', secrets = {}) => {
	let now = 1_000_000;
	const ports = {
		now: () => (now += 1000),
		randomBytes: (n: number) => new Uint8Array(n),
		seed: 1,
		random: () => 0,
		next: () => 1
	};
	return traceRecipe({ lines, put } as JsonObject, request(send, 'the body'), {
		evaluator,
		scope: { names: { env: {}, secret: secrets, row: {}, steps: {}, run: {} }, ports }
	});
};
const values = async (lines: object) =>
	Object.fromEntries((await trace(lines)).lines.map(({ name, value, error }) => [name, error ?? value]));

describe('lines', () => {
	test('see the request, the lines above, and a clock that stands still', async () => {
		expect(
			await values({
				method: '{$request.method}',
				path: '{$request.path}?{$request.query}',
				canonical: '{$canonicalQuery($request.query)}',
				body: '{$request.body} {$hash("sha256", $request.bytes)}',
				joined: '{$lines.method} {$lines.canonical}',
				still: '{$epoch("ms") = $epoch("ms")}'
			})
		).toEqual({
			method: 'GET',
			path: '/a?b=2&a=1',
			canonical: 'a=1&b=2',
			body: 'the body fa8242e99f48966ca514092b4233b446851f42b57ad5031bf133e1dd76787f3e',
			joined: 'GET a=1&b=2',
			still: true
		});
	});
	test('below one that fails are computed where they do not need it', async () => {
		const { lines, error } = await trace(
			{ a: '{$secret.nope}', b: 'fine', c: '{$lines.a}' },
			{ header: { X: '{$lines.c}' } }
		);
		expect(lines.map((line) => line.error !== undefined)).toEqual([true, false, true]);
		expect(lines[0]!.error).toMatch(/\$secret\.nope/);
		expect(error).toBeDefined();
	});
	test('that join what is no text say which function did not like it', async () => {
		const { lines } = await trace({ a: '{$join([1, "b"], "-")}' });
		expect(lines[0]!.error).toMatch(/array of "strings"/);
	});
});

describe('a test vector', () => {
	const recipe = (more: object = {}): JsonObject => ({
		lines: {
			time: '{$epoch()}',
			joined: '{$lines.time}{$request.path}',
			token: '{$hmac("sha256", $secret.k, $lines.joined)}'
		},
		put: { header: { 'X-Token': '{$lines.token}' } },
		vector: {
			request: { send: 'GET https://h.example/p' },
			time: '2027-03-01T12:00:00Z',
			secrets: { k: 'Jefe' },
			expect: { time: 1803902400, joined: '1803902400/p' },
			...more
		} as JsonObject
	});
	test('agrees', async () => {
		expect(await checkVector(recipe(), evaluator)).toMatchObject({ agrees: true });
	});
	test('points to the first line that differs', async () => {
		const verdict = await checkVector(
			recipe({ expect: { time: 1803902400, joined: '1803902400 /p', token: 'x' } }),
			evaluator
		);
		expect(verdict).toMatchObject({ agrees: false, first: 'joined' });
		expect(verdict.lines.map((line) => line.agrees)).toEqual([true, false, false]);
	});
	test('may expect a result by the name it is put under', async () => {
		const verdict = await checkVector(recipe({ expect: { 'X-Token': 'no' } }), evaluator);
		expect(verdict).toMatchObject({ agrees: false, first: 'X-Token' });
	});
	test.each<[string, object, RegExp]>([
		['no address', { request: { send: 'GET /p' } }, /whole address/],
		['a time that is none', { time: 'noon' }, /"noon" is not a time/],
		['nothing expected', { expect: {} }, /expects nothing/],
		['a name that is no line', { expect: { tokn: 'x' } }, /"tokn"/]
	])('with %s says so', async (_, more, message) => {
		await expect(checkVector(recipe(more), evaluator)).rejects.toThrow(message);
	});
	test('without a secret says which', async () => {
		const verdict = await checkVector(recipe({ secrets: {} }), evaluator);
		expect(verdict.agrees).toBe(false);
		expect(verdict.lines[2]!.error).toMatch(/the test vector gives no secret k/);
	});
	test('fixes the nonce', async () => {
		const value: JsonObject = {
			lines: { n: '{$nonce()}' },
			put: {},
			vector: { request: { send: 'GET https://h.example/' }, nonce: 'abc', expect: { n: 'abc' } }
		};
		expect(await checkVector(value, evaluator)).toMatchObject({ agrees: true });
	});
});

test.each(readyRecipes.map(({ label, value }) => [label, value] as const))('ready: %s computes', async (_, value) => {
	const { lines, error } = await trace(value.lines as object, value.put as object, undefined, { sharedSecret: 'k' });
	expect(lines.filter((line) => line.error)).toEqual([]);
	expect(error).toBeUndefined();
});
