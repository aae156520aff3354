import { createSchemas } from '#server/engine/json-schema.ts';
import { describe, expect, it } from 'vitest';

function withFiles(files: Record<string, unknown>) {
	return createSchemas((path) =>
		Object.hasOwn(files, path)
			? new TextEncoder().encode(
					typeof files[path] === 'string' ? (files[path] as string) : JSON.stringify(files[path])
				)
			: undefined
	);
}
const validate = withFiles({
	'schemas/booking.json': {
		type: 'object',
		properties: {
			reference: { type: 'string', pattern: '^RW-\\d{6}$' },
			nights: { $ref: 'parts/nights.json' },
			at: { format: 'date-time' }
		},
		required: ['reference'],
		unevaluatedProperties: false
	},
	'schemas/parts/nights.json': { type: 'integer', maximum: 14 },
	'schemas/tree.json': {
		type: 'object',
		properties: { left: { $ref: '#' }, right: { $ref: '#' } },
		additionalProperties: false
	},
	'schemas/outside.json': { $ref: 'https://schemas.example/other.json' },
	'schemas/own.json': { $id: 'https://schemas.example/own.json', $ref: 'nearby.json' },
	'schemas/nearby.json': { $id: 'https://schemas.example/nearby.json', type: 'string' },
	'schemas/broken.json': '{ "type": ',
	'schemas/wrong.json': { type: 'sausage' },
	'schemas/slow.json': { type: 'string', pattern: '(a+)+$' },
	'schemas/four.json': { $schema: 'http://json-schema.org/draft-04/schema#', maximum: 3, exclusiveMaximum: true },
	'schemas/six.json': { $schema: 'http://json-schema.org/draft-06/schema#', exclusiveMaximum: 3 },
	'schemas/seven.json': {
		$schema: 'http://json-schema.org/draft-07/schema#',
		if: { minimum: 2 },
		then: { maximum: 2 }
	},
	'schemas/nineteen.json': {
		$schema: 'https://json-schema.org/draft/2019-09/schema',
		items: [{ type: 'string' }],
		unevaluatedItems: false
	},
	'schemas/never.json': 'false'
});
const told = async (value: unknown, file: string) =>
	(await validate(value, `schemas/${file}.json`)).map(({ path, message }) => `${path.join('.')} ${message}`);

describe('a value against a schema of the project', () => {
	it.each([
		['what fits', { reference: 'RW-204417', nights: 2, at: '2027-05-14T10:00:00Z' }, 'booking', []],
		['what is missing', { nights: 2 }, 'booking', [/required.*reference/]],
		['a schema in another file', { reference: 'RW-204417', nights: 15 }, 'booking', [/nights.*14/]],
		['a format', { reference: 'RW-204417', at: 'soon' }, 'booking', [/at.*date-time/]],
		['what nobody knows', { reference: 'RW-204417', colour: 1 }, 'booking', [/unevaluated.*colour/]],
		['one that refers to itself', { left: { right: { up: 1 } } }, 'tree', [/left\.right.*up/]],
		['one with an address of its own, and its neighbour', 3, 'own', [/string/]],
		['draft 04 knows a true exclusiveMaximum', 3, 'four', [/< 3|must be/]],
		['draft 06 knows a number there', 3, 'six', [/must be < 3/]],
		['draft 07 knows if', 3, 'seven', [/<= 2/, /then/]],
		['2019-09 knows a list of items', ['a', 1], 'nineteen', [/must NOT have/]],
		['false fits nothing', 1, 'never', [/NOT/]]
	] as [string, unknown, string, RegExp[]][])('%s', async (_, value, file, expected) => {
		const found = await told(value, file);
		expect(found, found.join('\n')).toHaveLength(expected.length);
		expected.forEach((pattern, index) => expect(found[index]).toMatch(pattern));
	});
	it.each([
		['a file that is not there', 'none', /there is no file schemas\/none\.json/],
		[
			'what is not in the project',
			'outside',
			/outside\.json cannot be used: it refers to https:\/\/schemas\.example\/other\.json/
		],
		['what is no JSON', 'broken', /broken\.json cannot be used/],
		['what is no schema', 'wrong', /wrong\.json cannot be used.*type/]
	])('names %s', async (_, file, expected) => {
		await expect(told(1, file)).rejects.toThrow(expected);
	});
	it('matches patterns in linear time', async () => {
		expect(await told(`${'a'.repeat(30_000)}!`, 'slow')).toHaveLength(1);
	});
	it('reads a schema of ten megabytes', async () => {
		const properties = Object.fromEntries(
			Array.from({ length: 120_000 }, (_, i) => [`property${i}`, { type: 'integer', description: 'x'.repeat(40) }])
		);
		const large = withFiles({
			'schemas/large.json': { $defs: properties, properties: { a: { $ref: '#/$defs/property9' } } }
		});
		expect(await large({ a: 'x' }, 'schemas/large.json')).toHaveLength(1);
	});
});
