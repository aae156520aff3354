import type { Json } from '#core/model/json.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { readFileSync } from 'node:fs';
import { describe, expect, it, test } from 'vitest';

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
	'schemas/leads-to-wrong.json': { $ref: 'wrong.json' },
	'schemas/wrong-six.json': {
		$schema: 'http://json-schema.org/draft-06/schema#',
		exclusiveMaximum: true
	},
	'schemas/house.json': {
		$id: 'https://schemas.example/house.json',
		$ref: 'https://json-schema.org/draft/2020-12/schema',
		required: ['title']
	},
	'schemas/titled.json': { $schema: 'https://schemas.example/house.json', title: 'a number', type: 'number' },
	'schemas/untitled.json': { $schema: 'https://schemas.example/house.json', type: 'number' },
	'schemas/any-schema.json': { $ref: 'https://json-schema.org/draft/2020-12/schema' },
	'schemas/slow.json': { type: 'string', pattern: '(a+)+$' },
	'schemas/four.json': { $schema: 'http://json-schema.org/draft-04/schema#', maximum: 3, exclusiveMaximum: true },
	'schemas/six.json': { $schema: 'http://json-schema.org/draft-06/schema#', exclusiveMaximum: 3 },
	'schemas/seven.json': {
		$schema: 'http://json-schema.org/draft-07/schema#',
		if: { minimum: 2 },
		then: { maximum: 2 }
	},
	'schemas/seven-by-https.json': {
		$schema: 'https://json-schema.org/draft-07/schema#',
		items: [{ type: 'string' }]
	},
	'schemas/newest.json': { $schema: 'https://json-schema.org/schema', prefixItems: [{ type: 'string' }] },
	'schemas/nineteen.json': {
		$schema: 'https://json-schema.org/draft/2019-09/schema',
		items: [{ type: 'string' }],
		unevaluatedItems: false
	},
	'schemas/never.json': 'false'
});
const faultsOf = async (value: unknown, file: string) =>
	(await validate(value, `schemas/${file}.json`)).map(({ path, message }) => `${path.join('.')} ${message}`);

describe('integers beyond 2^53', () => {
	const BIG = 9007199254740993n;
	const draft4 = '"$schema": "http://json-schema.org/draft-04/schema#", ';
	it.each<[title: string, schema: string, value: Json, faults: string[]]>([
		['a const is itself', '{ "const": 9007199254740993 }', BIG, []],
		[
			'a const is not its neighbour',
			'{ "const": 9007199254740993 }',
			BIG - 1n,
			[' must be equal to constant: 9007199254740993']
		],
		[
			'a const inside a const',
			'{ "const": { "id": [9007199254740993] } }',
			{ id: [BIG + 1n] },
			[' must be equal to constant: {"id":[9007199254740993]}']
		],
		['a const of 2^53 itself', '{ "const": 9007199254740992 }', BIG, [' must be equal to constant: 9007199254740992']],
		[
			'an enum',
			'{ "properties": { "id": { "enum": [1, 9007199254740993] } } }',
			{ id: BIG - 1n },
			['id must be equal to one of the allowed values: [1,9007199254740993]']
		],
		['one of an enum', '{ "properties": { "id": { "enum": [1, 9007199254740993] } } }', { id: BIG }, []],
		['a maximum', '{ "maximum": 9007199254740993 }', BIG + 1n, [' must be <= 9007199254740993']],
		['at its maximum', '{ "maximum": 9007199254740993 }', BIG, []],
		[
			'a minimum in a list',
			'{ "items": { "minimum": 9007199254740995 } }',
			[BIG + 2n, BIG + 1n],
			['1 must be >= 9007199254740995']
		],
		['an exclusive bound', '{ "exclusiveMinimum": 9007199254740993 }', BIG, [' must be > 9007199254740993']],
		[
			'an exclusive bound of draft 4',
			`{ ${draft4}"maximum": 9007199254740993, "exclusiveMaximum": true }`,
			BIG,
			[' must be < 9007199254740993']
		],
		['a flag of draft 4 that is off', `{ ${draft4}"maximum": 9007199254740993, "exclusiveMaximum": false }`, BIG, []],
		['a negative bound', '{ "minimum": -9007199254740993 }', -BIG - 1n, [' must be >= -9007199254740993']],
		['a bound on what is no number', '{ "maximum": 9007199254740993 }', 'text', []],
		[
			'a property that is called like a keyword',
			'{ "properties": { "maximum": { "maximum": 9007199254740993 } } }',
			{ maximum: BIG + 1n },
			['maximum must be <= 9007199254740993']
		],
		[
			'a reference',
			'{ "$defs": { "id": { "maximum": 9007199254740993 } }, "properties": { "id": { "$ref": "#/$defs/id" } } }',
			{ id: BIG + 1n },
			['id must be <= 9007199254740993']
		],
		['neighbours in a list are not the same', '{ "uniqueItems": true }', [BIG, BIG - 1n], []],
		[
			'the same in a list',
			'{ "uniqueItems": true }',
			[BIG, 1, BIG],
			[' must NOT have duplicate items (items ## 0 and 2 are identical)']
		],
		['a multiple', '{ "multipleOf": 2 }', BIG, [' must be a multiple of 2']],
		['a whole number', '{ "type": "integer" }', BIG, []],
		['int64 at its end', '{ "format": "int64" }', 9223372036854775807n, []],
		[
			'int64 beyond its end',
			'{ "format": "int64" }',
			9223372036854775808n,
			[' must match format "int64", a whole number from -9223372036854775808 to 9223372036854775807']
		],
		[
			'int32 beyond its end',
			'{ "format": "int32" }',
			2147483648,
			[' must match format "int32", a whole number from -2147483648 to 2147483647']
		],
		[
			'int32 with a part',
			'{ "format": "int32" }',
			1.5,
			[' must match format "int32", a whole number from -2147483648 to 2147483647']
		],
		['a default that is large', '{ "default": 9007199254740993, "type": "string" }', BIG, [' must be string']]
	])('%s', async (_, schema, value, faults) => {
		const judged = await withFiles({ 'schemas/big.json': schema })(value, 'schemas/big.json');
		const plain = judged.map(({ path, message }) => `${path.join('.')} ${message.replace(/, and is [^,]*$/, '')}`);
		expect(plain).toEqual(faults);
	});
});

test('what a value is stands beside what it has to be, cut when it is long', async () => {
	const schema =
		'{ "properties": { "id": { "maximum": 9007199254740993 }, "name": { "maxLength": 3 }, "of": { "type": "integer" } } }';
	const judged = await withFiles({ 'schemas/s.json': schema })(
		{ id: 9007199254740995n, name: 'x'.repeat(500), of: { a: 1 } },
		'schemas/s.json'
	);
	expect(judged.map(({ message }) => message)).toEqual([
		'must be <= 9007199254740993, and is 9007199254740995',
		expect.stringMatching(/^must NOT have more than 3 characters, and is "x{40,60}… \(502 characters\)$/),
		'must be integer, and is {"a":1}'
	]);
});

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
		['draft 07 knows if', 3, 'seven', [/<= 2/]],
		['draft 07 by its address with https', [1], 'seven-by-https', [/0 must be string/]],
		['the newest draft by its address without a number', [1], 'newest', [/0 must be string/]],
		['2019-09 knows a list of items', ['a', 1], 'nineteen', [/must NOT have/]],
		['one that a meta-schema of the project allows', 'x', 'titled', [/number/]],
		['the meta-schema itself', { type: 'sausage' }, 'any-schema', [/type.*allowed values/, /type.*array/, /anyOf/]],
		['false fits nothing', 1, 'never', [/NOT/]]
	] as [string, unknown, string, RegExp[]][])('%s', async (_, value, file, expected) => {
		const found = await faultsOf(value, file);
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
		['what is no schema', 'wrong', /wrong\.json cannot be used.*type/],
		['what refers to no schema', 'leads-to-wrong', /leads-to-wrong\.json cannot be used: schema is invalid.*type/],
		[
			'what is none in its own draft',
			'wrong-six',
			/wrong-six\.json cannot be used: schema is invalid.*exclusiveMaximum/
		],
		['what a meta-schema of the project refuses', 'untitled', /untitled\.json cannot be used.*title/]
	])('names %s', async (_, file, expected) => {
		await expect(faultsOf(1, file)).rejects.toThrow(expected);
	});
	it('matches patterns in linear time', async () => {
		expect(await faultsOf(`${'a'.repeat(30_000)}!`, 'slow')).toHaveLength(1);
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

interface Group {
	of: string;
	description: string;
	schema: unknown;
	tests: { description: string; data: unknown; valid: boolean }[];
}
interface Suite {
	/** Files that the schemas of a draft refer to, by the last part of their address. */
	remotes: Record<string, Record<string, unknown>>;
	drafts: Record<string, Group[]>;
	formats: Record<string, Group[]>;
}
const suite = JSON.parse(readFileSync(new URL('./suites/json-schema.json', import.meta.url), 'utf8')) as Suite;
const META: Record<string, string> = {
	'4': 'http://json-schema.org/draft-04/schema#',
	'6': 'http://json-schema.org/draft-06/schema#',
	'7': 'http://json-schema.org/draft-07/schema#',
	'2019-09': 'https://json-schema.org/draft/2019-09/schema',
	'2020-12': 'https://json-schema.org/draft/2020-12/schema'
};
/** The tests of a group that end otherwise than the suite has it. */
async function strays(draft: string, { schema, tests }: Group): Promise<string[]> {
	const own = typeof schema === 'object' && schema !== null ? { $schema: META[draft], ...schema } : schema;
	const remotes = Object.entries(suite.remotes[draft]!).map(([file, value]) => [`schemas/${file}`, value]);
	const check = withFiles({ ...Object.fromEntries(remotes), 'schemas/tested.json': own } as Record<string, unknown>);
	const out: string[] = [];
	for (const { description, data, valid } of tests) {
		const fits = await check(data, 'schemas/tested.json').then(
			(faults) => faults.length === 0,
			(error: unknown) => String(error)
		);
		if (fits !== valid) out.push(`${description}: ${fits}`);
	}
	return out;
}
const refused = (what: RegExp) => (fault: string) => what.test(fault);
/** What is told of a group that is not judged as the suite has it: refused in words, or else by the compiler's own ways. */
const KNOWN: Record<string, (fault: string) => boolean> = {
	'properties › properties whose names are Javascript object property names': (fault) => fault.startsWith('__proto__'),
	'ref › refs with relative uris and defs': refused(/Maximum call stack/),
	'ref › relative refs with absolute uris and defs': refused(/Maximum call stack/),
	'ref › URN ref with nested pointer ref': refused(/Maximum call stack/),
	'unevaluatedItems › unevaluatedItems with nested items': (fault) => /additional item/.test(fault),
	'unknownKeyword › $id inside an unknown keyword is not a real identifier': refused(/resolves to more than one/),
	'vocabulary › schema that uses custom metaschema with with no validation vocabulary': (fault) =>
		fault.startsWith('no validation'),
	'unevaluatedItems › unevaluatedItems and contains interact to control item dependency relationship':
		refused(/together with contains/),
	'unevaluatedItems › unevaluatedItems depends on adjacent contains': refused(/together with contains/),
	'unevaluatedItems › unevaluatedItems depends on multiple nested contains': refused(/together with contains/),
	'dynamicRef › A $dynamicRef with a non-matching $dynamicAnchor in the same schema resource behaves like a normal $ref to $anchor':
		refused(/cannot be resolved/)
};
const DYNAMIC = refused(/cannot be judged here|cannot be resolved/);
/** Groups that only a compiler of dynamic references could judge: all are refused, none is judged wrongly. */
const knownOf = (name: string) => KNOWN[name] ?? (name.startsWith('dynamicRef ›') ? DYNAMIC : () => false);

const STRAY_GROUPS: Record<string, number> = { '2019-09': 7, '2020-12': 21 };

describe.each(Object.entries(suite.drafts))('the official suite of draft %s', (draft, groups) => {
	it.each(groups.map((group) => [`${group.of} › ${group.description}`, group] as const))('%s', async (name, group) => {
		expect((await strays(draft, group)).filter((fault) => !knownOf(name)(fault))).toEqual([]);
	});
	it('is judged as it has it in all but a few groups', async () => {
		const found = await Promise.all(groups.map((group) => strays(draft, group)));
		expect(found.filter((one) => one.length > 0).length).toBeLessThanOrEqual(STRAY_GROUPS[draft] ?? 0);
	});
});
/** Single values of formats that go beyond RFC 5321's plain addresses, RFC 3987, and RFC 5892's table of letters. */
const ODD_FORMATS = new Set(['email', 'idn-hostname', 'iri']);
describe.each(Object.entries(suite.formats))('the formats of the official suite, draft %s', (draft, groups) => {
	it.each(groups.map((group) => [`${group.of} › ${group.description}`, group] as const))('%s', async (_, group) => {
		const odd = await strays(draft, group);
		if (!ODD_FORMATS.has(group.of)) return expect(odd).toEqual([]);
		expect(odd.length / group.tests.length).toBeLessThan(0.4);
	});
});

describe('what the drafts since 2019-09 brought', () => {
	const of2019 = { $schema: 'https://json-schema.org/draft/2019-09/schema' };
	const cases: [string, object, unknown, boolean][] = [
		[
			'unevaluatedProperties sees through allOf',
			{ allOf: [{ properties: { a: {} } }], unevaluatedProperties: false },
			{ a: 1 },
			true
		],
		[
			'unevaluatedProperties refuses the rest',
			{ allOf: [{ properties: { a: {} } }], unevaluatedProperties: false },
			{ a: 1, b: 2 },
			false
		],
		[
			'unevaluatedItems behind prefixItems',
			{ prefixItems: [{ type: 'string' }], unevaluatedItems: false },
			['a', 1],
			false
		],
		['prefixItems by place', { prefixItems: [{ type: 'string' }, { type: 'integer' }] }, ['a', 'b'], false],
		['items behind prefixItems', { prefixItems: [{}], items: { type: 'integer' } }, ['x', 1, 2], true],
		['dependentRequired', { dependentRequired: { from: ['to'] } }, { from: 1 }, false],
		['dependentSchemas', { dependentSchemas: { a: { maxProperties: 1 } } }, { a: 1, b: 2 }, false],
		['minContains', { contains: { const: 1 }, minContains: 2 }, [1, 2], false],
		['maxContains', { contains: { const: 1 }, maxContains: 1 }, [1, 1], false],
		['$anchor', { $ref: '#berth', $defs: { b: { $anchor: 'berth', type: 'string' } } }, 1, false],
		['$ref with siblings', { $ref: '#/$defs/n', maximum: 3, $defs: { n: { type: 'integer' } } }, 4, false],
		[
			'$dynamicRef to the outermost',
			{ $dynamicAnchor: 'node', properties: { child: { $dynamicRef: '#node' } }, required: ['id'] },
			{ id: 1, child: {} },
			false
		],
		[
			'2019-09: $recursiveRef',
			{ ...of2019, $recursiveAnchor: true, properties: { child: { $recursiveRef: '#' } }, required: ['id'] },
			{ id: 1, child: {} },
			false
		],
		['2019-09: a list of items', { ...of2019, items: [{ type: 'string' }], additionalItems: false }, ['a', 1], false],
		[
			'2019-09: unevaluatedProperties with if',
			{
				...of2019,
				if: { properties: { a: { const: 1 } } },
				then: { properties: { b: {} } },
				unevaluatedProperties: false
			},
			{ a: 1, b: 2 },
			true
		],
		['a pattern that looks ahead fits', { pattern: '^(?=.*\\d)(?=.*[a-z]).{4,}$' }, 'lock4', true],
		['a pattern that looks ahead does not fit', { pattern: '^(?=.*\\d)(?=.*[a-z]).{4,}$' }, 'locks', false],
		['a pattern that looks back', { pattern: '(?<!0)7$' }, '07', false],
		['a pattern with a back-reference', { pattern: '^(.)\\1$' }, 'ab', false],
		['a name by a pattern that looks ahead', { patternProperties: { '^(?!x-)': false } }, { 'x-a': 1 }, true]
	];
	it.each(cases)('%s', async (_, schema, value, valid) => {
		const check = withFiles({ 'schemas/tested.json': schema });
		expect((await check(value, 'schemas/tested.json')).length === 0).toBe(valid);
	});
	it('a pattern with look-around ends, and says why', async () => {
		const check = withFiles({ 'schemas/tested.json': { pattern: '^(?=(a+)+$)b' } });
		await expect(check(`${'a'.repeat(60)}!`, 'schemas/tested.json')).rejects.toThrow(
			'the pattern ^(?=(a+)+$)b was stopped after 500 ms at one text'
		);
	});
	it('a pattern that nobody can read is told', async () => {
		const check = withFiles({ 'schemas/tested.json': { pattern: '^(?=a' } });
		await expect(check('a', 'schemas/tested.json')).rejects.toThrow('^(?=a');
	});
});
