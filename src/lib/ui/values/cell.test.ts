import { describe, expect, test } from 'vitest';
import { asType, itemsOf, linesOf, readCell, showCell, typeOfCell, type ValueType } from './cell.ts';

describe('a cell', () => {
	test.each([
		['7', 7, 'number'],
		['"7"', '7', 'text'],
		['007', '007', 'text'],
		['1e3', '1e3', 'text'],
		['true', true, 'boolean'],
		['null', null, 'null'],
		['[1, "a"]', [1, 'a'], 'list'],
		['{"a": 1}', { a: 1 }, 'JSON'],
		['{$env.a}', '{$env.a}', 'computed'],
		['{not json', '{not json', 'text'],
		['2027-06-01', '2027-06-01', 'date'],
		['12345678901234567890', '12345678901234567890', 'text']
	])('reads %s', (text, value, type) => {
		expect(readCell(text)).toEqual(value);
		expect(typeOfCell(readCell(text))).toBe(type);
		// what is shown is read back as the same
		expect(readCell(showCell(readCell(text)))).toEqual(value);
	});
	test.each<[unknown, ValueType, unknown]>([
		[7, 'text', '7'],
		[[1, 'a'], 'text', '[1,"a"]'],
		['3,5', 'number', 3.5],
		['many', 'number', 0],
		['Yes', 'boolean', true],
		['no', 'boolean', false],
		['2027-06-01T10:00:00Z', 'date', '2027-06-01'],
		['2027-02-31', 'date', '2026-01-01'],
		['soon', 'date', '2026-01-01'],
		['A-01, A-02;A-03', 'list', ['A-01', 'A-02', 'A-03']],
		['1\n2', 'list', [1, 2]],
		[{ a: 1 }, 'list', [{ a: 1 }]],
		['{"a":1}', 'JSON', { a: 1 }],
		['x', 'JSON', { value: 'x' }]
	])('%j as %s', (value, type, wanted) => {
		expect(asType(value as never, type, '2026-01-01')).toEqual(wanted);
	});
	test('a list is written an item a line, and read back', () => {
		const list = [1, '1', 'a b', true, { a: [1] }, null];
		expect(itemsOf(linesOf(list))).toEqual(list);
	});
});
