import type { RelationKind } from '../relation.ts';
import { moment, wanted } from './values.ts';

const time = (
	name: string,
	label: string,
	fits: (a: number, b: number) => boolean,
	example: [string, string]
): RelationKind => ({
	name,
	label,
	doc: `A time that is ${label} the expected one: ISO 8601, an HTTP date, epoch seconds or milliseconds, or "now".`,
	schema: { type: ['string', 'number'] },
	example: { value: example[0], expected: example[1] },
	problem: (expected) =>
		wanted(() => moment(expected, 0), expected, 'a time is wanted, such as 2027-05-14, 2027-05-14T10:00:00Z or now'),
	judge: (value, expected, tools) => ({ holds: fits(moment(value, tools.now()), moment(expected, tools.now())) })
});

/** Earlier than a moment or a day. */
export const before = time('before', 'before', (a, b) => a < b, ['2027-05-14', '2027-05-15T00:00:00Z']);
/** Later than a moment or a day. */
export const after = time('after', 'after', (a, b) => a > b, ['2027-05-15T00:00:00Z', '2027-05-14']);
