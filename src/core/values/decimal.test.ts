import { expect, test } from 'vitest';
import { isMultipleOf } from './index.ts';

test.each<[number, number, boolean]>([
	[19.99, 0.01, true],
	[19.995, 0.01, false],
	[0.3, 0.1, true],
	[4.35, 0.01, true],
	[1e-7, 1e-8, true],
	[1e308, 0.5, true],
	[9007199254740991, 2, false],
	[12, 3, true],
	[-4.5, 1.5, true],
	[0, 7, true],
	[7, 0, false]
])('%d is a multiple of %d: %s', (value, step, expected) => {
	expect(isMultipleOf(value, step)).toBe(expected);
});
