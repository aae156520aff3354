import { describe, expect, test } from 'vitest';
import { parseJson, same, writeJson } from './json.ts';

describe('JSON with all its digits', () => {
	const texts: [string, string][] = [
		['an integer beyond 2^53', '{"id":9007199254740993}'],
		['a negative one', '[-9007199254740993]'],
		['one that stands alone', '12345678901234567890'],
		['one among others', '{"a":[1,12345678901234567890,1.5],"b":"12345678901234567890"}'],
		['digits inside a text', '{"card":"4000123412341234"}'],
		['nothing long', '{"a":1,"b":null,"c":[true]}']
	];
	test.each(texts)('%s goes in and out the same', (_, text) => {
		expect(writeJson(parseJson(text))).toBe(text);
	});
	test('a text that looks like what stands for digits stays a text', () => {
		expect(writeJson({ a: 1n, b: '7' })).toBe('{"a":1,"b":"7"}');
	});
	test('integers are compared by every digit, numbers by value', () => {
		expect(same(9007199254740993n, 9007199254740992n)).toBe(false);
		expect(same(5n, 5)).toBe(true);
		expect(same(9007199254740993n, 9007199254740992)).toBe(false);
		expect(same(5n, '5')).toBe(false);
	});
	test('what is no JSON is refused with the parser’s reason', () => {
		expect(() => parseJson('{"a": 12345678901234567890,}')).toThrow(SyntaxError);
	});
	test('what refers to itself cannot be written', () => {
		const loop: Record<string, unknown> = {};
		loop.self = loop;
		expect(() => writeJson(loop)).toThrow(TypeError);
	});
});
