import type { RelationKind } from '../relation.ts';
import { amount, wanted } from './values.ts';

const numeric = (
	name: string,
	label: string,
	fits: (a: number | bigint, b: number | bigint) => boolean,
	example: [number, number]
): RelationKind => ({
	name,
	label,
	doc: `A number ${label} the expected one; durations and sizes may carry their unit.`,
	schema: { type: ['number', 'string'] },
	example: { value: example[0], expected: example[1] },
	problem: (expected) => wanted(() => amount(expected), expected, 'a number is wanted, such as 3, 500 ms or 2 kB'),
	judge: (value, expected) => ({ holds: fits(amount(value), amount(expected)) })
});

/** Less than a number. */
export const below = numeric('below', 'below', (a, b) => a < b, [3, 4]);
/** More than a number. */
export const above = numeric('above', 'above', (a, b) => a > b, [5, 4]);
/** A number or less. */
export const atMost = numeric('atMost', 'at most', (a, b) => a <= b, [4, 4]);
/** A number or more. */
export const atLeast = numeric('atLeast', 'at least', (a, b) => a >= b, [4, 4]);
