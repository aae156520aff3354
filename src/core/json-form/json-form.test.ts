import { describe, expect, test } from 'vitest';
import type { Json, JsonObject } from '../model/json.ts';
import { CHOICES, NAMED } from '../openapi/index.ts';
import { faultsIn, inBranch, partsOf, resolve, startOf, type Root } from './index.ts';

const faultsOf = (schema: JsonObject, value: Json): string[] =>
	faultsIn(schema, schema, value).map(({ path, message }) => `${path.join('.')}: ${message}`);

describe('what does not fit is told in its place', () => {
	test.each<[string, JsonObject, Json, string[]]>([
		['a type', { type: 'integer' }, 'x', [': a whole number is wanted']],
		['several types', { type: ['string', 'null'] }, 3, [': a text or null is wanted']],
		['another type than keywords speak of', { maxItems: 2 }, 'x', []],
		['null where it may be', { type: ['string', 'null'] }, null, []],
		['a value of a list', { enum: ['a', 'b'] }, 'c', [': one of a, b is wanted']],
		['a constant', { const: 1 }, 2, [': 1 is wanted']],
		['a length', { type: 'string', maxLength: 2 }, 'abc', [': 2 letters at most']],
		['a pattern', { type: 'string', pattern: '^a' }, 'b', [': does not fit ^a']],
		['a format', { type: 'string', format: 'date' }, '2027-13-01', [': is no date']],
		['a bound', { type: 'number', exclusiveMaximum: 2 }, 2, [': less than 2 is wanted']],
		['a step', { type: 'number', multipleOf: 0.1 }, 0.25, [': a multiple of 0.1 is wanted']],
		['an item', { items: { type: 'string' } }, ['a', 1], ['1: a text is wanted']],
		[
			'fixed items',
			{ prefixItems: [{ type: 'string' }], items: { type: 'integer' } },
			['a', 'b'],
			['1: a whole number is wanted']
		],
		['twice the same', { type: 'array', uniqueItems: true }, [1, 1], [': holds the same item twice']],
		['a property that is missing', { properties: { a: {} }, required: ['a'] }, {}, ['a: is missing']],
		[
			'one that is not known',
			{ properties: { a: {} }, additionalProperties: false },
			{ b: 1 },
			['b: is not known here']
		],
		['one that answers alone have', { properties: { id: false, a: {} } }, { id: 1 }, ['id: is not known here']],
		[
			'one by its pattern',
			{ patternProperties: { '^x-': { type: 'string' } }, additionalProperties: false },
			{ 'x-a': 1 },
			['x-a: a text is wanted']
		],
		['one of others', { additionalProperties: { type: 'integer' } }, { a: 'x' }, ['a: a whole number is wanted']],
		[
			'none of several forms',
			{
				oneOf: [
					{ title: 'A', type: 'string' },
					{ title: 'B', type: 'integer' }
				]
			},
			true,
			[': is none of: A, B']
		],
		['expressions are what is wanted', { type: 'integer', maximum: 3 }, '{$env.n}', []],
		[
			'in all of several',
			{ allOf: [{ required: ['a'] }, { properties: { b: { type: 'string' } } }] },
			{ b: 1 },
			['b: a text is wanted', 'a: is missing']
		]
	])('%s', (_, schema, value, faults) => expect(faultsOf(schema, value)).toEqual(faults));
	test('a schema that comes round ends', () => {
		const node: JsonObject = {
			type: 'object',
			required: ['next'],
			properties: { next: { $ref: '#/$defs/node' }, id: { type: 'integer' } }
		};
		const root: Root = { $ref: '#/$defs/node', $defs: { node, self: { $ref: '#/$defs/self' } } };
		expect(faultsOf(root, { next: { next: { next: {}, id: 'x' } } })).toEqual([
			'next.next.next.next: is missing',
			'next.next.id: a whole number is wanted'
		]);
		expect(startOf(root, root)).toEqual({});
		expect(faultsOf({ $ref: '#/$defs/self', $defs: root.$defs! }, { a: 1 })).toEqual([]);
	});
});

const boats: Root = {
	$ref: '#/$defs/1-Boat',
	$defs: {
		'1-Boat': {
			type: 'object',
			required: ['kind'],
			properties: { kind: { type: 'string' }, name: { type: 'string' } },
			[CHOICES]: [
				{ property: 'kind', value: 'barge', schema: { $ref: '#/$defs/2-Barge' } },
				{ property: 'kind', value: 'punt', schema: { $ref: '#/$defs/3-Punt' } }
			]
		},
		'2-Barge': {
			allOf: [{ $ref: '#/$defs/1-Boat' }, { required: ['load'], properties: { load: { type: 'integer' } } }]
		},
		'3-Punt': {
			allOf: [{ $ref: '#/$defs/1-Boat' }, { properties: { poles: { type: 'integer' } } }],
			[NAMED]: { property: 'kind', value: 'punt' }
		}
	}
};

describe('a value may have one of several forms', () => {
	test('as its discriminator says', () => {
		const { forks, schema } = resolve(boats, boats, { kind: 'barge' });
		expect(forks).toHaveLength(1);
		expect([forks[0]!.chosen, forks[0]!.branches.map(({ label }) => label)]).toEqual([0, ['barge', 'punt']]);
		expect(partsOf(boats, schema, {}).map(({ name, required }) => [name, required])).toEqual([
			['kind', true],
			['name', false],
			['load', true]
		]);
		expect(resolve(boats, boats, { kind: 'ark' }).forks[0]!.chosen).toBe(-1);
		expect(faultsOf(boats, { kind: 'barge' })).toEqual(['load: is missing']);
		expect(faultsOf(boats, { kind: 'ark' })).toEqual([': is none of: barge, punt']);
	});
	test('another one keeps what both know', () => {
		const [fork] = resolve(boats, boats, { kind: 'barge' }).forks;
		expect(inBranch(boats, fork!.branches[1]!, { kind: 'barge', name: '{$row.name}', load: 3 })).toEqual({
			kind: 'punt',
			name: '{$row.name}'
		});
		expect(inBranch(boats, fork!.branches[0]!, { kind: 'punt', name: 'x' })).toMatchObject({
			kind: 'barge',
			name: 'x',
			load: expect.any(Number) as number
		});
	});
	test.each<[string, JsonObject, Json, number, string[]]>([
		[
			'the one that allows it',
			{ oneOf: [{ required: ['a'] }, { required: ['b'] }] },
			{ b: 1 },
			1,
			['with a', 'with b']
		],
		[
			'the one that knows most of it',
			{
				anyOf: [
					{ properties: { a: { type: 'integer' } }, required: ['a', 'c'] },
					{ properties: { b: {} }, required: ['b', 'c'] }
				]
			},
			{ a: 1 },
			0,
			['with a, c', 'with b, c']
		],
		[
			'by their names',
			{
				oneOf: [{ $ref: '#/$defs/7-Small' }, { $ref: '#/$defs/8-Large' }, { title: 'Own', type: 'null', not: {} }],
				$defs: { '7-Small': { type: 'string' }, '8-Large': { type: 'integer' } }
			},
			5,
			1,
			['Small', 'Large']
		],
		[
			'the same name twice',
			{
				oneOf: [
					{ type: 'string', maxLength: 1 },
					{ type: 'string', minLength: 3 }
				]
			},
			'abcd',
			1,
			['string', 'string 2']
		]
	])('%s', (_, schema, value, chosen, labels) => {
		const { forks } = resolve(schema, schema, value);
		expect([forks[0]!.chosen, forks[0]!.branches.map(({ label }) => label)]).toEqual([chosen, labels]);
	});
	test('null beside one form is no choice', () => {
		const schema: JsonObject = { oneOf: [{ type: 'null' }, { type: 'string' }] };
		expect(resolve(schema, schema, 'a')).toMatchObject({ forks: [], nullable: true, schema: { type: 'string' } });
	});
});

describe('a value to begin with', () => {
	const schema: JsonObject = {
		type: 'object',
		required: ['name', 'crew'],
		properties: {
			name: { type: 'string', examples: ['{$Pike}'] },
			crew: {
				type: 'array',
				minItems: 1,
				items: { type: 'object', required: ['id'], properties: { id: { type: 'integer' }, note: { type: 'string' } } }
			},
			state: { enum: ['a', 'b', 'c'] },
			extra: { type: 'boolean' }
		}
	};
	test('is the least, or all there is; what looks like an expression stays text', () => {
		expect(startOf(schema, schema)).toEqual({ name: '\\{$Pike}', crew: [{ id: expect.any(Number) as number }] });
		expect(Object.keys(startOf(schema, schema, 'full') as object)).toEqual(['name', 'crew', 'state', 'extra']);
	});
	test('or some of it by chance, which fits, too', () => {
		let seed = 7;
		const random = () => (seed = (seed * 16807) % 2147483647) / 2147483647;
		const seen = new Set<string>();
		for (let n = 0; n < 40; n++) {
			const value = startOf(schema, schema, 'random', random);
			expect(faultsOf(schema, value)).toEqual([]);
			seen.add(JSON.stringify(value));
		}
		expect(seen.size).toBeGreaterThan(8);
	});
});
