import { viewReply } from '#core/model/view.ts';
import { createOpenapiRegistry, replyFaults } from '#core/openapi/index.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { describe, expect, it } from 'vitest';

const FILE = 'definitions/gear.json';
const validate = createSchemas(() => undefined);

/** What is told of an answer that a schema describes, as `place message`. */
async function faultsOf(schemas: object, schema: object, body: unknown, version = '3.1.0'): Promise<string[]> {
	const described =
		version === '2.0' ? { description: '', schema } : { description: '', content: { 'application/json': { schema } } };
	const document = {
		[version === '2.0' ? 'swagger' : 'openapi']: version,
		info: { title: 'Gear', version: '1' },
		paths: { '/gear': { get: { responses: { 200: described } } } },
		...(version === '2.0' ? { definitions: schemas } : { components: { schemas } })
	};
	const openapis = createOpenapiRegistry([FILE], (path) => (path === FILE ? JSON.stringify(document) : undefined));
	const bytes = new TextEncoder().encode(JSON.stringify(body));
	const view = viewReply({
		status: 200,
		reason: '',
		version: 'HTTP/1.1',
		headers: [['Content-Type', 'application/json']],
		body: bytes,
		wireSize: bytes.length,
		reused: false,
		phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
	});
	const faults = await replyFaults(view, openapis.find({ method: 'GET', path: '/gear', base: '' }), validate);
	return faults.map(({ path, message }) => `${path} ${message}`);
}
const to = (name: string) => ({ $ref: `#/components/schemas/${name}` });

const kinds = {
	Pump: {
		type: 'object',
		required: ['kind', 'litres'],
		properties: { kind: { type: 'string' }, litres: { type: 'integer' } }
	},
	Gate: {
		type: 'object',
		required: ['kind', 'metres'],
		properties: { kind: { type: 'string' }, metres: { type: 'number' } }
	}
};
const listed = { oneOf: [to('Pump'), to('Gate')], discriminator: { propertyName: 'kind' } };
const mapped = {
	oneOf: [to('Pump'), to('Gate')],
	discriminator: { propertyName: 'kind', mapping: { water: 'Pump', door: '#/components/schemas/Gate' } }
};
const loose = {
	A: { type: 'object', properties: { kind: { type: 'string' }, a: { type: 'integer' } } },
	B: { type: 'object', properties: { kind: { type: 'string' }, b: { type: 'integer' } } }
};
const family = {
	Gear: {
		type: 'object',
		required: ['kind'],
		properties: { kind: { type: 'string' }, near: to('Gear') },
		discriminator: { propertyName: 'kind' }
	},
	Winch: { allOf: [to('Gear'), { type: 'object', required: ['turns'], properties: { turns: { type: 'integer' } } }] },
	Hoist: { allOf: [to('Winch'), { type: 'object', required: ['tons'] }] }
};
const closed = {
	...family,
	Gear: { ...family.Gear, discriminator: { propertyName: 'kind', mapping: { w: 'Winch' } } }
};

describe('a discriminator says which branch is judged', () => {
	it.each<[string, object, object, unknown, string[]]>([
		['the one of two that it names fits', kinds, listed, { kind: 'Pump', litres: 3 }, []],
		[
			'what the named one misses is told, and nothing of the other',
			kinds,
			listed,
			{ kind: 'Pump', litres: 'x' },
			['$.litres must be integer, and is "x"']
		],
		[
			'a value that names none is told with all that there are',
			kinds,
			listed,
			{ kind: 'Boat', litres: 3 },
			['$.kind must be equal to one of the allowed values: ["Pump","Gate"], and is "Boat"']
		],
		['a value that is missing is told', kinds, listed, { litres: 3 }, ["$ must have required property 'kind'"]],
		[
			'by anyOf as by oneOf',
			kinds,
			{ ...listed, oneOf: undefined, anyOf: listed.oneOf },
			{ kind: 'Gate', metres: 1 },
			[]
		],
		['by a mapping to a name', kinds, mapped, { kind: 'water', litres: 3 }, []],
		['by a mapping to a reference', kinds, mapped, { kind: 'door' }, ["$ must have required property 'metres'"]],
		[
			'one that fits both is judged by the one that is named',
			loose,
			{ oneOf: [to('A'), to('B')], discriminator: { propertyName: 'kind' } },
			{ kind: 'A', a: 1 },
			[]
		],
		[
			'a value that no branch asks for may be missing',
			loose,
			{ anyOf: [to('A'), to('B')], discriminator: { propertyName: 'kind' } },
			{ a: 1 },
			[]
		],
		[
			'a branch without a name is judged where none is named',
			kinds,
			{ ...listed, oneOf: [...listed.oneOf, { type: 'null' }] },
			null,
			[]
		],
		[
			'branches that all have no name are judged as ever',
			{},
			{ oneOf: [{ type: 'integer' }], discriminator: { propertyName: 'kind' } },
			3,
			[]
		],
		['a child of the schema', family, to('Gear'), { kind: 'Winch', turns: 2 }, []],
		[
			'a child of the schema that misses something',
			family,
			to('Gear'),
			{ kind: 'Winch' },
			["$ must have required property 'turns'"]
		],
		['a child of a child', family, to('Gear'), { kind: 'Hoist', turns: 2 }, ["$ must have required property 'tons'"]],
		[
			'the schema inside of itself',
			family,
			to('Gear'),
			{ kind: 'Gear', near: { kind: 'Winch', turns: 'x' } },
			['$.near.turns must be integer, and is "x"']
		],
		[
			'the schema as a part of a list',
			family,
			{ type: 'array', items: { allOf: [to('Gear')] } },
			[{ kind: 'Winch' }],
			["$[0] must have required property 'turns'"]
		],
		['a child by itself is not led back to its parent', family, to('Winch'), { kind: 'Hoist', turns: 1 }, []],
		['a name that nobody bears, without a mapping: the schema itself', family, to('Gear'), { kind: 'Rope' }, []],
		[
			'a name that a mapping does not know',
			closed,
			to('Gear'),
			{ kind: 'Rope' },
			['$.kind must be equal to one of the allowed values: ["w","Winch","Hoist"], and is "Rope"']
		]
	])('%s', async (_, schemas, schema, body, wanted) => {
		expect(await faultsOf(schemas, schema, body)).toEqual(wanted);
	});
	it('3.0 says it alike', async () => {
		expect(await faultsOf(kinds, mapped, { kind: 'door' }, '3.0.3')).toEqual([
			"$ must have required property 'metres'"
		]);
	});
	it('2.0 names the property alone', async () => {
		const two = JSON.parse(
			JSON.stringify({ ...family, Gear: { ...family.Gear, discriminator: 'kind' } }).replaceAll(
				'components/schemas',
				'definitions'
			)
		) as object;
		expect(await faultsOf(two, { $ref: '#/definitions/Gear' }, { kind: 'Winch' }, '2.0')).toEqual([
			"$ must have required property 'turns'"
		]);
	});
	it('a parent that lists its own children is at an end', async () => {
		const both = {
			...family,
			Gear: { ...family.Gear, oneOf: [to('Winch'), to('Hoist')] }
		};
		expect(await faultsOf(both, to('Gear'), { kind: 'Hoist', turns: 1 })).toEqual([
			"$ must have required property 'tons'"
		]);
	});
	it('a mapping that leads nowhere is told', async () => {
		await expect(
			faultsOf(kinds, { ...listed, discriminator: { propertyName: 'kind', mapping: { a: 'Nowhere' } } }, { kind: 'a' })
		).rejects.toThrow('a discriminator maps to Nowhere, and nothing is there');
	});
});
