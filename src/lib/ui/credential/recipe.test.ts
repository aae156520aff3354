import { describe, expect, test } from 'vitest';
import { linesOf, renameLine, renameUses, visible, writeLines } from './recipe.ts';
import { secretIn, secretName } from '../common/secrets.ts';
import { stateOf, type Secret } from '../values/secrets.svelte.ts';
import { lifeLeft } from '../common/life.ts';

describe('lines', () => {
	const lines = [
		{ name: 'time', source: '{$epoch()}' },
		{ name: 'times', source: '{$lines.time}{$lines.time}' },
		{ name: 'token', source: '{$hash("sha256", $lines.times & $lines.time)}' }
	];
	test('keep their order, read and written', () => {
		expect(linesOf(writeLines(lines))).toEqual(lines);
		expect(linesOf(undefined)).toEqual([]);
	});
	test('that are renamed take their uses along, and no line of a longer name', () => {
		const renamed = renameLine(lines, 0, 'at');
		expect(renamed.map((line) => line.source)).toEqual([
			'{$epoch()}',
			'{$lines.at}{$lines.at}',
			'{$hash("sha256", $lines.times & $lines.at)}'
		]);
		expect(renameUses({ header: { A: '{$lines.time} {$lines.times}' } }, 'time', 'at')).toEqual({
			header: { A: '{$lines.at} {$lines.times}' }
		});
	});
	test.each([
		['a\nb', 'a↵\nb'],
		[' a ', '·a·'],
		['a\r\nb', 'a␍↵\nb'],
		[{ a: 1 }, '{"a":1}'],
		[undefined, '']
	])('%j is seen as %j', (value, seen) => {
		expect(visible(value)).toBe(seen);
	});
});

test.each([
	['{$secret.key}', 'key'],
	[' {$secret.key} ', 'key'],
	['Bearer {$secret.key}', undefined],
	['{$env.key}', undefined]
])('%s refers to the secret %s', (text, name) => {
	expect(secretIn(text)).toBe(name);
});
test.each([
	[['gate-key', 'password'], 'gateKeyPassword'],
	[['2nd gate', 'key'], 's2ndGateKey']
])('%j is named %s', (words, name) => {
	expect(secretName(...words)).toBe(name);
});

describe('a secret', () => {
	const secret = (more: Partial<Secret>): Secret => ({
		name: 's',
		variable: 'V',
		process: false,
		kept: [],
		named: [],
		...more
	});
	const kept = (environment: string, readable = true) => ({ environment, updatedAt: 0, readable });
	test.each<[string, Secret, string, string]>([
		['its own value wins', secret({ kept: [kept(''), kept('local')] }), 'local', 'kept'],
		['else that of all', secret({ kept: [kept('')] }), 'local', 'all'],
		['else that of the process', secret({ process: true }), 'local', 'process'],
		['sealed with another key', secret({ kept: [kept('local', false)], process: true }), 'local', 'shut'],
		['named and not set', secret({ named: ['local'] }), 'local', 'missing'],
		['nobody asks for it', secret({}), 'local', 'unused']
	])('%s', (_, one, environment, state) => {
		expect(stateOf(one, environment)).toBe(state);
	});
});

test.each([
	[0, 'nobody said for how long'],
	[999, 'has ended'],
	[46_000, '45 s left'],
	[301_000, '5 min left'],
	[10_801_000, '3 h left']
])('a life that ends at %i: %s', (endsAt, words) => {
	expect(lifeLeft(endsAt, 1000)).toBe(words);
});
