import { describe, expect, test } from 'vitest';
import { memoizeByText } from './kept.ts';

describe('what is kept by its text', () => {
	/** A reader that counts how often it is asked. */
	const counting = (most?: number) => {
		const asked: string[] = [];
		const read = memoizeByText((text) => {
			asked.push(text);
			if (text === 'broken') throw new Error('it is broken');
			return { text };
		}, most);
		return { asked, read };
	};
	test('is read once', () => {
		const { asked, read } = counting();
		expect(read('a')).toBe(read('a'));
		expect(asked).toEqual(['a']);
	});
	test('is read again when there were too many others', () => {
		const { asked, read } = counting(2);
		for (const text of ['a', 'b', 'a', 'c', 'c', 'a']) read(text);
		expect(asked).toEqual(['a', 'b', 'c', 'a']);
	});
	test('is read each time when it is long', () => {
		const { asked, read } = counting();
		const long = 'x'.repeat(5000);
		read(long);
		read(long);
		expect(asked).toHaveLength(2);
	});
	test('says each time why it cannot be read', () => {
		const { asked, read } = counting();
		for (let time = 0; time < 2; time++) expect(() => read('broken')).toThrow('it is broken');
		expect(asked).toHaveLength(2);
	});
});
