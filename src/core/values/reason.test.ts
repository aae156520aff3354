import { describe, expect, test } from 'vitest';
import { createRedactor } from '../redact/index.ts';
import { reasonOf } from './reason.ts';
import type { Scope } from './scope.ts';

const secret = 'Otter-on-the-bank-42';
const redactor = createRedactor({ word: secret });
const scope: Scope = {
	names: {
		env: { nights: 3, derived: `Bearer ${secret}`, long: 'x'.repeat(500) },
		secret: { word: secret },
		row: {},
		steps: { list: { total: 4, ids: ['a', 'b'] } },
		run: {},
		request: { method: 'GET' },
		response: { status: 200, body: { items: [1, 2, 3], big: 9007199254740993n, name: 'a = b' } }
	},
	ports: { now: () => 0, randomBytes: (n) => new Uint8Array(n), seed: 1, random: () => 0, next: () => 1 },
	hider: redactor
};

describe('why an expression is not true', () => {
	const cases: [string, string, string | undefined][] = [
		['both sides', '$count($response.body.items) = $steps.list.total', '3 = 4'],
		['with brackets around it', ' ( ( $env.nights > 5 ) ) ', '3 > 5'],
		['a side in brackets', '($env.nights + 1) * 2 <= (3)', '8 <= 3'],
		['what is not there', '$response.body.none != $env.nights ', 'nothing != 3'],
		['a list', '"c" in $steps.list.ids', '"c" in ["a","b"]'],
		['an operator inside a text', '$response.body.name = "a != b"', '"a = b" = "a != b"'],
		['large integers', '$response.body.big = 9007199254740992', '9007199254740993 = 9007199254740992'],
		[
			'the part that does not hold',
			'$env.nights = 3 and $request.method = "POST"',
			'$request.method = "POST" is "GET" = "POST"'
		],
		['the first part of three', '$env.nights = 4 and true and false', '$env.nights = 4 is 3 = 4'],
		['the part behind one that only counts as true', '$env.nights and $env.nights = 4', '$env.nights = 4 is 3 = 4'],
		['a part that is not there', '$response.body.x and $env.nights = 3', '$response.body.x is nothing'],
		[
			'a part that compares nothing',
			'$env.nights = 3 and $exists($response.body.x)',
			'$exists($response.body.x) is false'
		],
		['nothing of a choice', '$env.nights = 4 or $env.nights = 5', undefined],
		['nothing of a function', '$exists($response.body.x)', undefined],
		['nothing of a block with names of its own', '($n := 3; $n = 4)', undefined],
		['nothing of chance', '$randomInt(1, 6) = 7', undefined],
		['nothing of the time', '$epoch() < 0', undefined],
		['nothing of a secret', '$secret.word = "x"', undefined],
		['nothing of a piece of one', '$substring($secret.word, 0, 2) = "x"', undefined],
		['nothing of what holds one', '$length($env.derived) = 3', undefined],
		['nothing where it cannot be computed', '$env.nights < "x"', undefined],
		['nothing where it is no expression', '$env.nights = ', undefined]
	];
	test.each(cases)('says %s', async (_, source, wanted) => {
		expect(await reasonOf(source, scope)).toBe(wanted);
	});
	test('cuts what is long', async () => {
		expect(await reasonOf('$env.long = "y"', scope)).toMatch(/^"x{119}… = "y"$/);
	});
	test('hides a secret before it is cut', async () => {
		const body = `${'x'.repeat(110)}${secret}`;
		const reason = await reasonOf('$response.body = "y"', { ...scope, names: { ...scope.names, response: { body } } });
		expect(reason).toBe(`"${'x'.repeat(110)}‹word›" = "y"`);
	});
	test('learns nothing of what it looked at', async () => {
		await reasonOf('$length($env.derived) * 1000000 = 27000001', scope);
		expect(redactor.text('27000000')).toBe('27000000');
	});
});
