import { describe, expect, test } from 'vitest';
import { didYouMean, nearestOf } from './messages.ts';

describe('the name that is meant', () => {
	test.each<[string, string, string[], string | undefined]>([
		['a letter too many', 'titlee', ['title', 'tags'], 'title'],
		['two letters swapped', 'titel', ['title', 'tags'], 'title'],
		['another case', 'TITLE', ['title'], 'title'],
		['three slips', 'tiitelle', ['title'], undefined],
		['the nearer of two', 'checkz', ['checkbox', 'checks', 'check'], 'checks'],
		['one slip in three letters', 'ent', ['env'], 'env'],
		['two slips in three letters', 'eat', ['env'], undefined],
		['two letters lost of four', 'chek', ['checks'], 'checks'],
		['two letters of four are others', 'text', ['that'], undefined]
	])('%s', (_, name, known, meant) => expect(nearestOf(name, known)).toBe(meant));
	test('without one those that are known are listed, when they are few', () => {
		expect(didYouMean('titel', ['title'])).toBe(': did you mean "title"?');
		expect(didYouMean('x', ['title', 'tags'])).toBe('; known are tags, title');
		expect(
			didYouMean(
				'x',
				Array.from({ length: 25 }, (__, n) => `name${n}`)
			)
		).toBe('');
		expect(didYouMean('x', [])).toBe('');
	});
});
