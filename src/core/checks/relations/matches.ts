import { textOf } from '../../errors.ts';
import { compilePattern } from '../../values/index.ts';
import type { RelationKind } from '../relation.ts';
import { expression, textIn } from './values.ts';

export const matches: RelationKind = {
	name: 'matches',
	label: 'matches',
	doc: 'A text in which the regular expression is found; ^ and $ hold it to the whole.',
	schema: { type: 'string' },
	example: { value: 'RW-204417', expected: '^RW-\\d{6}$' },
	problem(expected) {
		if (typeof expected !== 'string') return 'a pattern is wanted';
		if (expression(expected)) return undefined;
		try {
			compilePattern(expected);
			return undefined;
		} catch (error) {
			return textOf(error);
		}
	},
	judge: (value, expected) => ({ holds: compilePattern(String(expected)).test(textIn(value)) })
};
