import { SCRIPT_LIMITS, type ScriptInput } from '#core/run/index.ts';
import { createScripts } from '#server/engine/script.ts';
import { afterAll, describe, expect, it } from 'vitest';

const scripts = createScripts();
afterAll(() => scripts.close());
const input: ScriptInput = {
	request: { method: 'GET' },
	response: { status: 200, body: { items: [{ n: 2 }, { n: 3 }], total: 5 } },
	values: { env: { limit: 3 }, steps: {}, row: {}, run: {} },
	now: 1_800_000_000_000
};
const run = (script: string, limits = { time: 500, memory: 16_000_000 }) =>
	scripts.run(script, input, limits, undefined);

describe('a script', () => {
	it('keeps values, checks and logs', async () => {
		const outcome = await run(`
			const sum = response.body.items.reduce((all, item) => all + item.n, 0);
			keep('sum', sum); keep('list', response.body.items.map((i) => i.n));
			check('the total is the sum', sum === response.body.total, sum);
			equal('the limit', values.env.limit, 4);
			log('sum', { sum });`);
		expect(outcome).toEqual({
			kept: { sum: 5, list: [2, 3] },
			checks: [
				{ name: 'the total is the sum', holds: true, expected: 'true', received: '5' },
				{ name: 'the limit', holds: false, expected: '4', received: '3' }
			],
			log: ['sum {"sum":5}']
		});
	});
	it('says the line of an exception, and what came before it stays', async () => {
		const outcome = await run("log('before');\nkeep('a', 1);\nnothing.there;");
		expect(outcome).toMatchObject({ kept: { a: 1 }, log: ['before'] });
		expect(outcome.error).toMatch(/nothing.*line 3/);
	});
	it('says the line of a slip', async () => {
		expect((await run('let a = 1;\nlet b = ;')).error).toMatch(/line 2/);
	});
	it('may return early', async () => {
		expect(await run("keep('a', 1); return; keep('b', 2);")).toMatchObject({ kept: { a: 1 } });
	});
});

describe('a script that means harm', () => {
	it.each([
		[
			'has no way to the host',
			"keep('found', [typeof process, typeof require, typeof fetch, typeof setTimeout, typeof Date].join())",
			/^undefined,undefined,undefined,undefined,undefined$/
		],
		[
			'has none by a constructor',
			"keep('found', String((function(){}).constructor('return typeof process')()))",
			/undefined/
		]
	])('%s', async (_, script, expected) => {
		expect(String((await run(script)).kept.found)).toMatch(expected);
	});
	it.each([
		['an endless loop', 'while (true) {}', /500 ms/],
		['one that catches everything', 'for (;;) { try { while (true) {} } catch {} }', /500 ms/],
		['endless recursion', 'const f = () => f() + 1; f();', /without end/],
		['a list that grows', 'const a = []; for (;;) a.push(new Array(1000).fill(1));', /MB|500 ms/],
		['a long text', "'x'.padEnd(1e9)", /MB/],
		['a pattern that explodes', "/(a+)+$/.test('a'.repeat(40) + '!')", /500 ms/],
		['chance', 'Math.random()', /chance/],
		['a name that is none', "keep('a-b', 1)", /a-b/]
	])('is cut off: %s', async (_, script, expected) => {
		expect((await run(script)).error).toMatch(expected);
	});
	it('leaves the next one in order', async () => {
		await run('while (true) {}');
		expect(await run("keep('a', 1)", SCRIPT_LIMITS)).toMatchObject({ kept: { a: 1 } });
	});
	it('is ended when the run is', async () => {
		const stop = new AbortController();
		const outcome = scripts.run('while (true) {}', input, { time: 60_000, memory: 16_000_000 }, stop.signal);
		setTimeout(() => stop.abort(), 200);
		expect((await outcome).error).toBe('it was stopped');
	});
	it('nested too deep does not take the next one with it', async () => {
		await run("JSON.parse('['.repeat(200000))");
		expect(await run("keep('a', 1)")).toMatchObject({ kept: { a: 1 } });
	});
});
