import { createRedactor } from '#core/redact/index.ts';
import { SCRIPT_LIMITS, secretPlaces, shownOutcome, type ScriptInput } from '#core/run/index.ts';
import { createScripts, parseOutcome } from '#server/engine/script.ts';
import { afterAll, describe, expect, it } from 'vitest';

const scripts = createScripts();
afterAll(() => scripts.close());
const input: ScriptInput = {
	request: { method: 'GET' },
	response: { status: 200, body: { items: [{ n: 2 }, { n: 3 }], total: 5 } },
	values: { env: { limit: 3 }, steps: {}, row: {}, run: {} },
	now: 1_800_000_000_000,
	secret: []
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
	it('has integers with all their digits, and keeps them so', async () => {
		const body = { id: 9007199254740993n, list: [12345678901234567890n, 7] };
		const outcome = await scripts.run(
			`keep('id', response.body.id); keep('list', response.body.list); keep('sum', response.body.id + 1n); keep('small', 10n);
			equal('the same', response.body.id, 9007199254740993n);
			equal('one less', response.body.id, 9007199254740992);
			equal('of either type', { n: [7n] }, { n: [7] });
			log(response.body.id, response.body);`,
			{ ...input, response: { body } },
			SCRIPT_LIMITS,
			undefined
		);
		expect(outcome.error).toBeUndefined();
		expect(outcome.kept).toEqual({ ...body, sum: 9007199254740994n, small: 10 });
		expect(outcome.checks.map(({ holds }) => holds)).toEqual([true, false, true]);
		expect(outcome.checks[1]).toMatchObject({ received: '9007199254740993', expected: '9007199254740992' });
		expect(outcome.log[0]).toMatch(/^9007199254740993 .*12345678901234567890/);
	});
	it.each([
		['a number that is none, and nothing', 'NaN, null', false],
		['a number that is none, and another one', 'NaN, NaN', true],
		['two maps', 'new Map([[1, 2]]), new Map([[1, 3]])', false],
		['the same maps', 'new Map([[1, 2]]), new Map([[1, 2]])', true],
		['two sets', 'new Set([1]), new Set([2])', false],
		['a set and an object', 'new Set([1]), {}', false],
		['two patterns', '/a/, /b/', false],
		['two functions', '() => 1, () => 2', false],
		['a list and a shorter one', '[1, undefined], [1]', false],
		['a list and an object', '[], {}', false],
		['a name that is undefined, and none', '{ a: undefined }, {}', true],
		['more names', '{ a: 1 }, { a: 1, b: 2 }', false],
		['fewer names', '{ a: 1, b: 2 }, { a: 1 }', false],
		['another order of names', '{ a: 1, b: [{ c: 2, d: 3 }] }, { b: [{ d: 3, c: 2 }], a: 1 }', true],
		['a text and a number', '"1", 1', false],
		['nothing and what is not there', 'null, undefined', false]
	])('compares %s', async (_, values, holds) => {
		expect((await run(`equal('it', ${values})`)).checks).toMatchObject([{ name: 'it', holds }]);
	});
	it('says that a comparison with one value is none', async () => {
		expect((await run("equal('it', undefined)")).error).toMatch(/what is expected/);
	});
	it('may return early', async () => {
		expect(await run("keep('a', 1); return; keep('b', 2);")).toMatchObject({ kept: { a: 1 } });
	});
});

describe('what a script makes of a secret', () => {
	const withSecret = {
		...input,
		values: {
			env: { limit: 3, sign: 'hunter-7421-x' },
			steps: { login: { pass: 'hunter-7421-x', id: 7 } },
			row: {},
			run: {}
		}
	};
	const redactor = createRedactor({ clerk: 'hunter-7421-x' });
	const secret = secretPlaces(withSecret, redactor);
	const through = async (script: string) => {
		const outcome = await scripts.run(script, { ...withSecret, secret }, { time: 500, memory: 16_000_000 }, undefined);
		const hidden = createRedactor({ clerk: 'hunter-7421-x' });
		const { kept, log, checks, error } = shownOutcome(outcome, hidden);
		return hidden.deep({ kept, log, checks, error });
	};
	it('is known by the places in which a secret stands', () => {
		expect(secret).toEqual([
			['values', 'env', 'sign'],
			['values', 'steps', 'login', 'pass']
		]);
	});
	it.each([
		['a variable read by name', 'values.env.sign'],
		['one taken out of a copy', '({ ...values.env }).sign'],
		['one found by its description', "Object.getOwnPropertyDescriptor(values.env, 'sign').get()"],
		['a value that a step kept', 'values.steps.login.pass']
	])('is hidden: %s, turned around', async (_, source) => {
		const script = `const made = [...${source}].reverse().join(''); keep('made', made); log('made', made); check('odd ' + made + made, false, made); equal('same', 'nothing', made.toUpperCase()); throw new Error(made + '-and-more')`;
		const shown = JSON.stringify(await through(script));
		expect(shown).toContain('‹script.made›');
		expect(shown).toContain('odd ');
		expect(shown.toLowerCase()).not.toContain('x-1247-retnuh');
	});
	it('is hidden however much it is', async () => {
		const shown = JSON.stringify(
			await through(`const made = [...values.env.sign].reverse().join('');
				const all = Array.from({ length: 300 }, (_, n) => made + n);
				keep('all', all); for (const one of all) { log(one); check(one.length, false, one); }`)
		);
		expect(shown).toContain('‹script.made›');
		expect(shown).not.toContain('x-1247-retnuh');
	});
	it('is shown when the script says that it is none, and so is what read no secret', async () => {
		expect(await through("keep('length', 'n'.repeat(values.env.sign.length), { shown: true })")).toMatchObject({
			kept: { length: 'nnnnnnnnnnnnn' }
		});
		expect(await through("keep('limit', 'limit-is-' + values.env.limit)")).toMatchObject({
			kept: { limit: 'limit-is-3' }
		});
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
	it.each([
		['a value that holds itself', "const o = {}; o.o = o; keep('o', o)", /circular/],
		['a value that cannot be written', "keep('o', { toJSON() { throw new Error('no') } })", /no/],
		['a function', "keep('f', () => 1)", /is no data: a function/],
		['a number that is none', "keep('n', 0 / 0)", /is no data: NaN/],
		['what all objects inherit', 'Object.prototype.toJSON = function () { return 1; };', undefined],
		['what all lists inherit', 'Array.prototype.toJSON = () => []; Array.prototype.push = () => 0;', undefined],
		['another JSON', "JSON.stringify = () => '[]'", undefined]
	])('loses no check by what comes behind it: %s', async (_, script, error) => {
		const outcome = await run(`check('the sum', false); ${script}`);
		expect(outcome.checks).toEqual([{ name: 'the sum', holds: false, expected: 'true', received: 'false' }]);
		if (error) expect(outcome.error).toMatch(error);
		else expect(outcome.error).toBeUndefined();
	});
	it('loses none by what comes before it', async () => {
		const outcome = await run(
			"Array.prototype.push = () => 0; Object.prototype.toJSON = () => 1; check('the sum', false)"
		);
		expect(outcome.checks).toMatchObject([{ name: 'the sum', holds: false }]);
	});
	const hostile: [name: string, script: string][] = [
		['an outcome of its own', 'globalThis.__outcome = () => 42; globalThis.__outcome = undefined;'],
		['another JSON', "JSON.stringify = () => 'nothing'; JSON.parse = null;"],
		['what all objects inherit', "Object.prototype.toJSON = () => '}{'; Array.prototype.toJSON = () => 7;"],
		['other lists', 'Array.isArray = () => false; Object.keys = () => []; String.prototype.slice = () => 7;'],
		['values that are no data', "keep('f', () => 1); keep('s', Symbol('x').toString()); keep('n', NaN);"],
		['a value that holds itself', "const a = {}; a.a = a; try { keep('a', a); } catch {}"],
		['a name that all objects have', "try { keep('__proto__', { polluted: true }); } catch {}"]
	];
	it.each(hostile)('hands out nothing that breaks this side: %s', async (_, script) => {
		const outcome = await run(`log('before');\n${script}`);
		expect(Array.isArray(outcome.checks) && Array.isArray(outcome.log)).toBe(true);
		expect(({} as Record<string, unknown>).polluted).toBeUndefined();
		expect(await run("keep('a', 1)")).toMatchObject({ kept: { a: 1 } });
	});
	it('is told in a line, however long its own word is', async () => {
		const { error } = await run("throw new Error('x'.repeat(100000))");
		expect(error!.length).toBeLessThan(1200);
		expect((await run('throw { name: { a: 1 }, message: ["b"], stack: 7 }')).error).toMatch(/b/);
	});
	it.each([
		['nothing', '', { kept: {}, checks: [], log: [], error: expect.stringContaining('what it made cannot be read') }],
		['no JSON', '}{', { kept: {}, checks: [], log: [], error: expect.stringContaining('what it made cannot be read') }],
		['a number', '42', { kept: {}, checks: [], log: [] }],
		['lists elsewhere', '{"kept":[1],"checks":{},"log":7}', { kept: {}, checks: [], log: [] }],
		[
			'checks of another shape',
			'{"kept":{"a":1,"a b":2},"checks":[1,null,{"name":7,"holds":"yes"}],"log":[{}]}',
			{ kept: { a: 1 }, checks: [{ name: '', holds: false, expected: '', received: '' }], log: [''] }
		]
	])('what comes out of the sandbox is read as hostile: %s', (_, text, wanted) => {
		expect(parseOutcome(text)).toEqual(wanted);
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
