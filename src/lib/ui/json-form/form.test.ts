import { describe, expect, test } from 'vitest';
import type { Json, JsonObject } from '#core/model/json.ts';
import { typeAmong, typeChoices, typed } from './form.ts';

describe('what somebody types becomes the value that the schema has for it', () => {
	test.each<[string, JsonObject, string, Json | undefined, Json]>([
		['a number', { type: 'number' }, '12.5', undefined, 12.5],
		['a large one, exactly', { type: 'integer' }, '9007199254740993', undefined, 9007199254740993n],
		['a number on its way to another one', { type: 'number' }, '1.0', 1, '1.0'],
		['none yet', { type: 'number' }, '-', undefined, '-'],
		['a text of digits', { type: 'string' }, '007', undefined, '007'],
		['an expression', { type: 'integer' }, '{$env.n}', 3, '{$env.n}'],
		['one of the values, as it is', { enum: [1, '1', null] }, '1', undefined, 1],
		['true', { type: 'boolean' }, 'true', undefined, true],
		['a text where text was, though a number may be', { type: ['string', 'integer'] }, '5', 'x', '5'],
		['a number where a number was', { type: ['string', 'integer'] }, '5', 4, 5],
		['a number where anything may be', {}, '5', 4, 5]
	])('%s', (_, schema, text, before, value) => expect(typed(schema, text, before)).toEqual(value));
	test.each<[JsonObject, string[]]>([
		[{ type: 'string' }, []],
		[{ enum: ['a', 1] }, []],
		[{ type: ['string', 'null'] }, []],
		[{ type: ['integer', 'string'] }, ['integer', 'string']],
		[{ type: ['integer', 'number', 'string'] }, ['number', 'string']],
		[{}, ['string', 'number', 'boolean', 'object', 'array']]
	])('%j leaves the choice of %j', (schema, types) => expect(typeChoices(schema)).toEqual(types));
	test.each<[string[], Json | undefined, string]>([
		[['string', 'number'], 5, 'number'],
		[['string', 'integer'], 5, 'integer'],
		[['string', 'array'], [], 'array'],
		[['string', 'object'], {}, 'object'],
		[['string', 'number'], true, 'string']
	])('among %j the type of %j is %s', (types, value, type) => expect(typeAmong(types, value)).toBe(type));
});
