import * as yup from 'yup';
import { expect, test } from 'vitest';
import { findProblems, text } from './shape.ts';

const names = yup.array(text('a name'));

test('each wrong value is told with its path', () => {
	expect(findProblems(names, ['a', 1, 'b', 2])).toEqual([
		{ path: [1], message: 'a text is wanted' },
		{ path: [3], message: 'a text is wanted' }
	]);
});
