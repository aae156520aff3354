import { compileJsonPath, LOOKED_AT_MOST } from '#core/selectors/jsonpath.ts';
import { setIn } from '#core/model/path.ts';
import { createEvaluator, referencesIn, type Scope } from '#core/values/index.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { createXml } from '#server/engine/xml.ts';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { describe, expect, test } from 'vitest';
import { runAll, steps } from '../support/project.ts';

const nested = (levels: number, wrap: (inner: JsonObject) => JsonObject): JsonObject => {
	let value: JsonObject = { type: 'string' };
	for (let level = 0; level < levels; level++) value = wrap(value);
	return value;
};

describe('a schema that would never end, or is too deep', () => {
	const validate = createSchemas(() => undefined);
	const judge = (schema: JsonObject, value: unknown) => validate(value, { name: 'odd', schema });
	test.each<[string, JsonObject, RegExp]>([
		['a reference to itself', { $ref: '#' }, /\$ref: # leads back to itself/],
		[
			'the same in draft 7',
			{ $schema: 'http://json-schema.org/draft-07/schema#', $ref: '#' },
			/\$ref: # leads back to itself/
		],
		[
			'two that refer to each other',
			{ $ref: '#/$defs/a', $defs: { a: { $ref: '#/$defs/b' }, b: { $ref: '#/$defs/a' } } },
			/\$ref: #\/\$defs\/\w leads back to itself/
		],
		['itself by allOf', { allOf: [{ $ref: '#' }] }, /\$ref: # leads back to itself/],
		['itself by its own address', { $id: 'a.json', $ref: 'a.json' }, /refers to itself without end/],
		[
			'5,000 levels of properties',
			nested(5000, (inner) => ({ properties: { a: inner } })),
			/#\/properties\/a.*nested deeper than 256 levels/
		],
		['5,000 levels of items', nested(5000, (inner) => ({ items: inner })), /#\/items.*nested deeper than 256 levels/]
	])('%s is told in words with its place', async (_, schema, message) => {
		await expect(judge(schema, {})).rejects.toThrow(message);
	});
	test('a value that is nested deeper than the judge can go is told in words', async () => {
		let value: Json = 1;
		for (let level = 0; level < 100_000; level++) value = { a: value };
		const tree = { $ref: '#/$defs/n', $defs: { n: { properties: { a: { $ref: '#/$defs/n' } } } } };
		await expect(judge(tree, value)).rejects.toThrow(/nested too deep/);
	});
	test('one that refers to itself below a property is judged', async () => {
		const tree = { properties: { next: { $ref: '#' }, id: { type: 'integer' } }, required: ['id'] };
		expect(await judge(tree, { id: 1, next: { id: 2 } })).toEqual([]);
		expect(await judge(tree, { id: 1, next: {} })).toHaveLength(1);
	});
	test('a reference beside an address of its own is judged', async () => {
		const schema = {
			$ref: '#/$defs/a',
			$defs: { a: { $id: 'b.json', $ref: '#/$defs/c', $defs: { c: { type: 'string' } } } }
		};
		expect(await judge(schema, 'x')).toEqual([]);
		expect(await judge(schema, 1)).toHaveLength(1);
	});
});

describe('names that objects have by birth', () => {
	const validate = createSchemas(() => undefined);
	test.each<[string, string, string, number]>([
		['a property is judged', '{"properties":{"__proto__":{"type":"string"}}}', '{"__proto__":1}', 1],
		['a property that fits', '{"properties":{"__proto__":{"type":"string"}}}', '{"__proto__":"x"}', 0],
		['it is known', '{"properties":{"__proto__":{}},"additionalProperties":false}', '{"__proto__":1}', 0],
		['it is required', '{"required":["__proto__"]}', '{}', 1],
		['constructor is required', '{"required":["constructor","toString"]}', '{}', 2],
		['beside patterns', '{"properties":{"__proto__":false},"patternProperties":{"^a":{}}}', '{"__proto__":1}', 1]
	])('%s', async (_, schema, value, faults) => {
		const found = await validate(JSON.parse(value), { name: 's', schema: JSON.parse(schema) as JsonObject });
		expect(found).toHaveLength(faults);
	});
});

describe('what would be compared with everything else', () => {
	const validate = createSchemas(() => undefined);
	const objects = Array.from({ length: 20_000 }, (_, n) => ({ id: n, at: { lock: 'Mill', n } }));
	test('20,000 objects are unique in a moment, and one that is there twice is found whatever the order of its keys', async () => {
		const unique = { name: 's', schema: { uniqueItems: true } };
		expect(await validate(objects, unique)).toEqual([]);
		const twice = [...objects, { at: { n: 17, lock: 'Mill' }, id: 17 }];
		expect(await validate(twice, unique)).toEqual([
			{ message: expect.stringContaining('items ## 17 and 20000 are identical'), path: [] }
		]);
		expect(await validate([1, 1.0], unique)).toHaveLength(1);
		expect(await validate([1, '1', true, null, [1], { a: 1 }], unique)).toEqual([]);
	});
	test('a JSONPath that looks at everything for everything is stopped, and says so', () => {
		const value = { list: Array.from({ length: 5000 }, (_, n) => ({ n, s: { n } })) };
		expect(() => compileJsonPath('$..[?count($..*) > 1]').select(value)).toThrow(
			`$..[?count($..*) > 1] was stopped after ${LOOKED_AT_MOST / 1_000_000} million places`
		);
		// the next one has a budget of its own
		expect(compileJsonPath('$.list[?@.n > 4998].n').select(value)).toEqual({ found: true, value: [4999] });
	});
	test('a filter over 200,000 items gives them all', () => {
		const value = Array.from({ length: 200_000 }, (_, n) => ({ n }));
		const found = compileJsonPath('$[?@.n >= 0].n').select(value);
		expect(found.found && (found.value as Json[]).length).toBe(200_000);
	});
	test('an XPath that does is stopped, and the next one is answered', async () => {
		const text = `<l>${Array.from({ length: 30_000 }, (_, n) => `<i><a>${n}</a></i>`).join('')}</l>`;
		const document = await createXml(() => undefined).open(text);
		await expect(async () => document.xpath('count(//i[count(//a[. > 3]) > count(//i)])', {})).rejects.toThrow(
			/was stopped after 5 s of looking/
		);
		// in the same thread, and quick on any machine
		expect(await document.xpath('count(//i) + count(//a)', {})).toBe(60_000);
		await expect(async () => document.xpath('count(//i) + count(//a', {})).rejects.toThrow(/cannot be read/);
		document.close();
	});
	test('XML that is nested too deep says so', async () => {
		const deep = `${'<a>'.repeat(5000)}${'</a>'.repeat(5000)}`;
		await expect(createXml(() => undefined).open(deep)).rejects.toThrow(/nested deeper than 256 levels/);
	});
});

describe('large texts', () => {
	test('200,000 expressions in one text are filled in, and their names found', async () => {
		const text = '{$env.a}'.repeat(200_000);
		const scope = {
			names: { env: { a: 'x' }, secret: {}, row: {}, steps: {}, run: {} },
			ports: {}
		} as unknown as Scope;
		expect(await createEvaluator().text(text, scope)).toBe('x'.repeat(200_000));
		expect(referencesIn(text)).toHaveLength(200_000);
	});
	test('a place far behind the end of a list is refused', () => {
		expect(() => setIn({ variables: [] }, ['variables', 1e8], 'x')).toThrow(/no item 100000000 in a list of 0/);
		expect(setIn(['a'], [1], 'b')).toEqual(['a', 'b']);
	});
});

describe('a cookie that is not ASCII', () => {
	test.each([
		['UTF-8', Buffer.from('berth=Mühle; Path=/')],
		['another charset', Buffer.from('berth=M\xfchle; Path=/', 'latin1')]
	])('goes back in the octets in which it came: %s', async (_, line) => {
		let seen: Buffer | undefined;
		const server = http.createServer((request, reply) => {
			if (request.url === '/set') reply.setHeader('set-cookie', line.toString('latin1'));
			else seen = Buffer.from(request.headers.cookie ?? '', 'latin1');
			reply.end(Buffer.from('{}'));
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		try {
			await runAll({
				connections: { one: { base: `http://127.0.0.1:${(server.address() as AddressInfo).port}` } },
				collections: { c: steps([{ send: 'GET /set' }, { send: 'GET /get', cookies: { own: 'Größe' } }]) }
			});
			expect(seen).toEqual(
				Buffer.concat([line.subarray(0, line.indexOf(';')), Buffer.from('; own='), Buffer.from('Größe')])
			);
		} finally {
			server.close();
		}
	});
});
