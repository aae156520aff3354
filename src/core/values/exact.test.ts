import { describe, expect, test } from 'vitest';
import { parseJson, readNumber, same, writeJson, type Json } from '../model/json.ts';
import { compileJsonPath } from '../selectors/jsonpath.ts';
import { createEvaluator } from './evaluator.ts';
import type { Scope } from './scope.ts';

const BIG = 9007199254740993n;
const scope: Scope = {
	names: {
		env: { id: BIG, near: 9007199254740992n, list: [BIG, 5, 1n + BIG], text: '9007199254740995', small: 7 },
		secret: {},
		row: {},
		steps: {},
		run: {}
	},
	ports: { now: () => 0, randomBytes: (n) => new Uint8Array(n), seed: 1, random: () => 0, next: () => 1 }
};
const evaluate = (source: string) => createEvaluator().expression(source, scope);

describe('integers beyond 2^53 in expressions', () => {
	const cases: [string, unknown][] = [
		['$env.id', BIG],
		['$env.id + 1', 9007199254740994n],
		['$env.id - $env.near', 1],
		['$env.id * 2', 18014398509481986n],
		['$env.id % 10', 3],
		['$env.id / 3', 3002399751580331],
		['-$env.id', -BIG],
		['$env.id > $env.near', true],
		['$env.id >= 9007199254740993', true],
		['$env.id < 5', false],
		['$env.id = 9007199254740993', true],
		['$env.id = 9007199254740992', false],
		['9007199254740993', BIG],
		['"n" & $env.id', 'n9007199254740993'],
		['$string($env.id)', '9007199254740993'],
		['$string({"id": $env.id})', '{"id":9007199254740993}'],
		['$number($env.text)', 9007199254740995n],
		['$number($env.text) + $env.small', 9007199254741002n],
		['$sum($env.list)', 18014398509481992n],
		['$max($env.list)', 9007199254740994n],
		['$min($env.list)', 5],
		['$env.list[$ > 5]', [BIG, 9007199254740994n]],
		['$abs(-$env.id)', BIG],
		['$env.small + 1', 8],
		['$number("12.5")', 12.5]
	];
	test.each(cases)('%s', async (source, wanted) => {
		expect(same(await evaluate(source), wanted)).toBe(true);
	});
	test('what is wrong without them stays wrong', async () => {
		await expect(evaluate('$env.small + "a"')).rejects.toThrow(/T2002|number/);
		await expect(evaluate('$env.id + "a"')).rejects.toThrow('both sides of "+" must be numbers');
	});
});

describe('integers beyond 2^53 in JSONPath filters', () => {
	const value = parseJson(
		'{"items":[{"id":9007199254740993,"n":1},{"id":9007199254740992,"n":2},{"id":5,"n":3},{"id":"x","n":4},{"n":5}]}'
	);
	const cases: [string, number[]][] = [
		['$.items[?@.id>5].n', [1, 2]],
		['$.items[?@.id==9007199254740993].n', [1]],
		['$.items[?@.id!=9007199254740993].n', [2, 3, 4, 5]],
		['$.items[?@.id<9007199254740993].n', [2, 3]],
		['$.items[?@.id>=9007199254740992 && @.n<2].n', [1]],
		['$.items[?@.id==$.items[0].id].n', [1]],
		['$.items[?@.none==$.gone].n', [1, 2, 3, 4, 5]],
		['$.items[?@.id<=5].n', [3]]
	];
	test.each(cases)('%s', (query, wanted) => {
		expect(compileJsonPath(query).select(value)).toMatchObject({ value: wanted });
	});
});

describe('numbers are read and written with all their digits', () => {
	test.each([
		['[9007199254740993]', '[9007199254740993]'],
		['{"a":-123456789012345678901234567890}', '{"a":-123456789012345678901234567890}'],
		['1e400', '1' + '0'.repeat(400)],
		['-1.5e309', '-15' + '0'.repeat(308)],
		['1e5', '100000'],
		['0.1', '0.1'],
		['1.0', '1']
	])('%s', (text, wanted) => {
		expect(writeJson(parseJson(text))).toBe(wanted);
		expect(same(parseJson(writeJson(parseJson(text))), parseJson(text))).toBe(true);
	});
	test('what nothing can hold is refused, not turned into null', () => {
		expect(() => parseJson('[1e999999]')).toThrow('the number 1e999999 is too large');
	});
	test.each<[string, Json | undefined]>([
		['9007199254740993', BIG],
		['+12', 12],
		['007', 7],
		['-0.5', -0.5],
		['1e3', 1000],
		['1e999', undefined],
		['12a', undefined],
		['', undefined]
	])('a cell %s', (text, wanted) => {
		expect(readNumber(text)).toBe(wanted);
	});
});
