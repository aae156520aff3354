import {
	bodiesOf,
	bodyOf,
	operationsOf,
	readOpenapi,
	replyFaults,
	requestFaults,
	sampleReply
} from '#core/openapi/index.ts';
import { viewReply, viewRequest } from '#core/model/view.ts';
import type { JsonObject } from '#core/model/json.ts';
import { createEngine } from '#server/engine/index.ts';
import { afterAll, describe, expect, test } from 'vitest';

// Bodies of XML against the schemas of an OpenAPI document (OpenAPI 3.1 section 4.8.26).
const engine = createEngine();
const ports = engine.ports({ seed: 1 });
afterAll(() => engine.close());
const bytes = (text: string) => new TextEncoder().encode(text);

function operationOf(schema: object, components: object = {}, version = '3.1.0') {
	const content = { 'application/xml': { schema } };
	const document = readOpenapi('definitions/a.json', () =>
		JSON.stringify({
			openapi: version,
			info: { title: 'Gates', version: '1' },
			paths: {
				'/gates': {
					post: { requestBody: { required: true, content }, responses: { 200: { description: 'ok', content } } }
				}
			},
			components: { schemas: components }
		})
	);
	return operationsOf(document)[0]!;
}
const faultsOf = async (operation: ReturnType<typeof operationOf>, body: string) => {
	const reply = {
		...{ status: 200, reason: '', version: 'HTTP/1.1', reused: false, wireSize: 0 },
		headers: [['Content-Type', 'application/xml']] as [string, string][],
		body: bytes(body),
		phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 0 }
	};
	const view = viewReply(reply, ports.xml);
	const faults = await replyFaults(view, operation, (value, schema) => ports.validateJson(value, schema));
	view.close();
	return faults.map(({ path, message }) => (path ? `${path} ${message}` : message));
};
const GATE = {
	type: 'object',
	xml: { name: 'gate' },
	required: ['id', 'name'],
	additionalProperties: false,
	properties: {
		id: { type: 'integer', xml: { attribute: true } },
		open: { type: 'boolean' },
		name: { type: 'string', minLength: 2 },
		width: { type: 'number', xml: { name: 'gate-width', namespace: 'urn:width', prefix: 'w' } },
		tags: { type: 'array', xml: { name: 'labels', wrapped: true }, items: { type: 'string', xml: { name: 'label' } } },
		levels: { type: 'array', items: { type: 'integer', xml: { name: 'level' } } },
		lock: { $ref: '#/components/schemas/Lock' },
		note: { type: ['string', 'null'] }
	}
};
const LOCK = {
	type: 'object',
	xml: { name: 'Lock' },
	properties: { code: { type: 'string' }, gates: { type: 'array', items: { $ref: '#/components/schemas/Gate' } } }
};
const components = { Gate: GATE, Lock: LOCK };
const gate = () => operationOf({ $ref: '#/components/schemas/Gate' }, components);

describe('an answer of XML', () => {
	test.each<[string, string]>([
		['the least', '<gate id="1"><name>Mill</name></gate>'],
		[
			'all there is, in any order',
			'<gate id="1"><level>1</level><lock><code>A</code></lock><labels><label>x</label><label>y</label></labels><name>Mill</name><level>-2</level><w:gate-width xmlns:w="urn:width">2.50</w:gate-width><open>true</open></gate>'
		],
		[
			'a schema that is referred to, by its own name',
			'<gate id="1"><name>Mill</name><Lock><code>A</code></Lock></gate>'
		],
		['an empty wrapped list', '<gate id="1"><name>Mill</name><labels/></gate>'],
		[
			'nil',
			'<gate id="1"><name>Mill</name><note xmlns:x="http://www.w3.org/2001/XMLSchema-instance" x:nil="true"/></gate>'
		],
		[
			'a declaration, comments, CDATA',
			'<?xml version="1.0"?><!-- a --><gate id="1"><name><![CDATA[M & M]]></name></gate>'
		],
		['numbers beyond a double', '<gate id="9007199254740993"><name>Mill</name></gate>']
	])('that holds: %s', async (_, body) => {
		expect(await faultsOf(gate(), body)).toEqual([]);
	});
	test.each<[string, string, RegExp]>([
		['another root', '<door id="1"><name>Mill</name></door>', /^\/door the root is door, and gate is wanted/],
		['a missing attribute', '<gate><name>Mill</name></gate>', /^\/gate .*id/],
		['a missing element', '<gate id="1"/>', /^\/gate .*name/],
		['an attribute of another type', '<gate id="x"><name>Mill</name></gate>', /^\/gate\/@id .*integer/],
		['an element of another type', '<gate id="1"><name>Mill</name><open>yes</open></gate>', /^\/gate\/open .*boolean/],
		[
			'an item of another type',
			'<gate id="1"><name>Mill</name><level>1</level><level>a</level></gate>',
			/^\/gate\/level\[2\] .*integer/
		],
		['a text that is too short', '<gate id="1"><name>M</name></gate>', /^\/gate\/name .*2/],
		['an element twice', '<gate id="1"><name>Mill</name><name>Mill</name></gate>', /^\/gate\/name .*string/],
		['an unknown element', '<gate id="1"><name>Mill</name><colour>red</colour></gate>', /^\/gate(\/colour)? .*colour/],
		['another namespace', '<gate id="1"><name>Mill</name><gate-width>2</gate-width></gate>', /gate-width/],
		[
			'a fault far down',
			'<gate id="1"><name>Mill</name><lock><gate id="2"><name>B</name></gate></lock></gate>',
			/^\/gate\/lock\/gate\[1\]\/name .*2/
		],
		['what is not XML', '{"id": 1}', /not well-formed/],
		['what ends early', '<gate id="1"><name>Mill', /not well-formed/],
		[
			'entities that blow up',
			'<!DOCTYPE a [<!ENTITY a "aa"><!ENTITY b "&a;&a;">]><gate id="1"><name>&b;</name></gate>',
			/refers to others/
		]
	])('that does not: %s', async (_, body, expected) => {
		expect((await faultsOf(gate(), body)).join('\n')).toMatch(expected);
	});
	test.each([
		[
			'a list under a root of its own',
			{ type: 'array', xml: { name: 'gates' }, items: { $ref: '#/components/schemas/Gate' } },
			'<gates><gate id="1"><name>Mill</name></gate></gates>',
			'<doors/>'
		],
		[
			'a list without a name',
			{ type: 'array', items: { type: 'integer' } },
			'<any><n>1</n></any>',
			'<any><n>x</n></any>'
		],
		[
			'allOf',
			{
				allOf: [
					{ $ref: '#/components/schemas/Lock' },
					{ type: 'object', properties: { depth: { type: 'number' } }, required: ['depth'] }
				]
			},
			'<Lock><depth>1.5</depth></Lock>',
			'<Lock><code>1</code></Lock>'
		],
		[
			'a namespace of the root',
			{ type: 'object', xml: { name: 'g', namespace: 'urn:g' } },
			'<g xmlns="urn:g"/>',
			'<g/>'
		]
	])('%s', async (_, schema, right, wrong) => {
		const operation = operationOf(schema, components);
		expect(await faultsOf(operation, right)).toEqual([]);
		expect(await faultsOf(operation, wrong)).not.toEqual([]);
	});
});

describe('a request of XML', () => {
	test('is made by its schema, and fits it; a wrong one is told with its place', async () => {
		const operation = gate();
		const body = bodyOf(bodiesOf(operation)[0]!, 'full') as JsonObject;
		const text = String(body.xml);
		expect(text).toMatch(/^<\?xml version="1\.0" encoding="UTF-8"\?>\n<gate id="-?\d+">/);
		const faultsOf = async (xml: string) => {
			const headers: [string, string][] = [['Content-Type', 'application/xml']];
			const view = viewRequest(
				{ method: 'POST', url: 'http://h/gates', headers, body: bytes(xml) } as never,
				ports.xml
			);
			return requestFaults({ path: {}, search: '', headers, view }, operation, (value, schema) =>
				ports.validateJson(value, schema)
			);
		};
		expect(await faultsOf(text)).toEqual([]);
		expect(await faultsOf(text.replace(/<name>.*<\/name>/, '<name/>'))).toEqual([
			expect.objectContaining({ path: '/gate/name' })
		]);
	});
});

describe('an answer that is made by a definition', () => {
	test.each(['3.0.3', '3.1.0'])('is XML that fits it, in OpenAPI %s', async (version) => {
		const operation = operationOf({ $ref: '#/components/schemas/Gate' }, components, version);
		const made = sampleReply(operation, { accept: 'application/xml' });
		const text = new TextDecoder().decode(made.body);
		expect(text).toMatch(/<gate id=/);
		expect(await faultsOf(operation, text)).toEqual([]);
	});
});
