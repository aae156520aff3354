import { workflowFiles } from '#core/arazzo/index.ts';
import { planDefinitions } from '#core/definitions/index.ts';
import type { DefinitionPlan } from '#core/model/definition-plan.ts';
import { isObject, type JsonObject } from '#core/model/json.ts';
import { editYaml } from '#core/model/edit.ts';
import { loadProject } from '#core/project/index.ts';
import type { StepResult } from '#core/run/index.ts';
import {
	bodiesOf,
	operationsAt,
	operationsOf,
	parametersOf,
	readOpenapi,
	replySchema,
	sampleOf,
	type OpenapiDocument
} from '#core/openapi/index.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { Ajv2020 } from 'ajv/dist/2020.js';
import addFormats from 'ajv-formats';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createServer, type IncomingMessage, type ServerResponse } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { parse } from 'yaml';
import { inside, members, type Node } from '../../src/core/openapi/document.ts';
import { runAll } from '../support/project.ts';

/** The schema of the specification. */
const arazzo = addFormats
	.default(new Ajv2020({ strict: false }))
	.compile(JSON.parse(readFileSync(new URL('../cli/arazzo-1.0.json', import.meta.url), 'utf8')) as object);
const validate = createSchemas(() => undefined);
const utf8 = (text: string) => new TextEncoder().encode(text);

/** Documents that others wrote, as the package brings them. */
const examples = join(import.meta.dirname, '../../node_modules/@readme/oas-examples');
const documents = ['2.0', '3.0', '3.1'].flatMap((version) =>
	readdirSync(join(examples, version, 'json'))
		.filter((file) => file.endsWith('.json'))
		.map((file) => join(examples, version, 'json', file))
);

/** Schemas that no value fits, or none that anybody would send: all choices of a oneOf allow the same, or it never ends. */
const NOTHING_FITS = new RegExp(
	[
		'POST /direct ',
		'PATCH (/anything)?/embedded-discriminator ',
		'/nested-one-of-object-with-nested-one-of ',
		'POST /anything/one-of-object',
		'POST /anything/nested-one-of',
		'POST /one-of-with-type ',
		'/anything/quirks/polymorphism '
	].join('|')
);

/** Calls whose definitions contradict themselves: a link that looks for a property in a list. */
const SAYS_OTHERWISE =
	/^GET \/2\.0\/repositories\/\{username\}.* keep slug|^GET \/2\.0\/repositories\/\{username\}\/\{slug\}/;

/** A project of these files, and how it reads them. */
function projectOf(files: Record<string, string>) {
	const bytes = new Map(Object.entries(files).map(([path, text]) => [path, utf8(text)]));
	return loadProject(
		Object.entries(files).map(([path, text]) => ({ path, text })),
		new Set(bytes.keys()),
		(path) => bytes.get(path)
	);
}
const EMPTY = { 'heron.yaml': 'heron: 1\ntitle: Ours\n' };

function planOf(
	text: string,
	files: Record<string, string> = EMPTY,
	more: { choose?: string[]; connection?: string; address?: string } = {}
) {
	const project = projectOf(files);
	const [plan] = planDefinitions({
		name: 'locks',
		files: [{ path: 'locks.json', bytes: utf8(text) }],
		workspace: project.workspace,
		readFile: (path) => (files[path] === undefined ? undefined : utf8(files[path])),
		valueOf: (path) => project.documents.get(path)?.value,
		connection: '',
		...more
	});
	return plan!;
}

/** The project as it is after an import. */
function after(plan: DefinitionPlan, files: Record<string, string> = EMPTY): Record<string, string> {
	const out = { ...files };
	for (const { path, bytes } of plan.files) out[path] = new TextDecoder().decode(bytes);
	for (const { path, value } of plan.writes) out[path] = editYaml(out[path] ?? '', value);
	return out;
}
const collectionIn = (plan: DefinitionPlan) =>
	plan.writes.find(({ path }) => path.startsWith('collections/'))?.value as { scenarios: JsonObject[] } & JsonObject;

/** The media type of an answer that is sent: JSON where there is any. */
function mediaIn(answer: Node<JsonObject>): [type?: string, media?: Node] {
	const all = members(inside(answer, 'content'));
	return all.find(([type]) => /json/.test(type)) ?? all[0] ?? [];
}

/** A service that holds what comes in against a document, and answers what its schemas allow. */
async function serviceOf(document: OpenapiDocument) {
	const operations = operationsOf(document);
	const refused: string[] = [];
	const server = createServer((request, response) => {
		const chunks: Buffer[] = [];
		request.on('data', (chunk: Buffer) => chunks.push(chunk));
		request.on('end', () => void answer(request, Buffer.concat(chunks).toString(), response));
	});
	async function answer(request: IncomingMessage, body: string, response: ServerResponse) {
		const { pathname } = new URL(request.url!, 'http://x');
		const operation = operationsAt(operations, { method: request.method!, path: pathname, base: '' }).find(
			({ method }) => method === request.method
		);
		const where = `${request.method} ${request.url}`;
		if (!operation) {
			refused.push(`${where} is no operation`);
			return response.writeHead(404).end();
		}
		const type = request.headers['content-type']?.split(';')[0] ?? '';
		const taken = bodiesOf(operation).find((one) => one.type.split(';')[0] === type);
		if (taken?.schema && /json$/.test(type))
			for (const { path, message } of await validate(JSON.parse(body), { schema: taken.schema, name: 'x' }))
				refused.push(`${where} body /${path.join('/')} ${message}`);
		const answers = members(inside(operation.node, 'responses'));
		const one = (which: RegExp) => answers.find(([key]) => which.test(key));
		const [status, node] = one(/^(2|default)/i) ?? one(/^3(?!04)\d\d$/) ?? ['200'];
		const found = node && document.follow(node);
		const headers: Record<string, string> = {};
		let text = '';
		if (found && isObject(found.value)) {
			const answerNode = found as Node<JsonObject>;
			for (const [name, given] of members(inside(answerNode, 'headers'))) {
				const header = document.follow(given) as Node<JsonObject>;
				const schema = document.version === '2.0' ? header : (inside(header, 'schema') as Node);
				if (schema.value !== undefined && !/^content-type$/i.test(name))
					headers[name] = String(sampleOf(replySchema(document, schema), { made: true }));
			}
			const old = document.version === '2.0';
			const [media, holder] = old ? ['application/json', found] : mediaIn(answerNode);
			const schema = holder && (inside(holder as Node<JsonObject>, 'schema') as Node);
			if (media && schema?.value !== undefined) {
				headers['content-type'] = media;
				const value = sampleOf(replySchema(document, schema), { fill: 'full', made: true });
				text = /json/.test(media) ? JSON.stringify(value) : 'text';
			} else if (media) {
				headers['content-type'] = media;
				text = '{}';
			}
		}
		const bare = request.method === 'HEAD' || status === '204';
		response.writeHead(/^\d+$/.test(status) ? Number(status) : 200, headers).end(bare ? undefined : text);
	}
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	return {
		base: `http://127.0.0.1:${(server.address() as AddressInfo).port}`,
		refused,
		close: () => server.close()
	};
}

test('what is wrong in a document of one line is told with its pointer', () => {
	const wrong = { openapi: '3.1.0', info: {}, paths: { '/a': { get: {} } } };
	const messages = (text: string) => planOf(text).problems.map(({ line, message }) => `${line} ${message}`);
	const said = 'GET /a has no responses: no answer can be held against it';
	expect(messages(JSON.stringify(wrong))).toContain(`1 #/paths/~1a/get: ${said}`);
	expect(messages(JSON.stringify(wrong, undefined, 1))).toContain(`6 ${said}`);
});

test('what one file cannot hold is left out, and told', () => {
	const example = { note: 'n'.repeat(20_000) };
	const operation = { requestBody: { content: { 'application/json': { example } } }, responses: {} };
	const paths = Object.fromEntries(Array.from({ length: 300 }, (_, at) => [`/notes/${at}`, { put: operation }]));
	const text = JSON.stringify({ openapi: '3.1.0', info: { title: 'Notes', version: '1' }, paths });
	const plan = planOf(text);
	const left = plan.offers.filter(({ chosen }) => !chosen);
	expect(plan.problems.map(({ message }) => message)).toContainEqual(
		expect.stringMatching(/^collections\/locks\.yaml would be larger .*: \d+ of 300 scenarios are left out$/)
	);
	expect([plan.added.length + left.length, collectionIn(plan).scenarios.length]).toEqual([300, plan.added.length]);
	expect(projectOf(after(plan)).workspace.problems).toEqual([]);
	const rest = planOf(text, EMPTY, { choose: left.map(({ key }) => key) });
	expect(rest.added).toEqual(left.map(({ id }) => id));
});

/** What is asked of a collection, without what lives on other hosts. */
function callsOf(plan: DefinitionPlan) {
	const { credential: _, scenarios, ...collection } = collectionIn(plan);
	const steps = (list: JsonObject[]) =>
		list.map(({ credential: _, ...step }) => step).filter(({ send }) => !/ https?:/.test(String(send)));
	return {
		...collection,
		scenarios: scenarios.map((one) => ({ ...one, steps: steps(one.steps as JsonObject[]) }) as JsonObject)
	};
}

/** What was sent, in order, without what differs each time. */
const sentBy = (results: StepResult[]): string[] =>
	results.flatMap(({ exchanges }) =>
		exchanges.map(
			({ method, url, requestHeaders, requestBody }) =>
				`${method} ${url} ${requestHeaders
					.filter(([name]) => !/^(date|host|connection|content-length|user-agent)$/i.test(name))
					.map(([name, value]) => `${name.toLowerCase()}: ${value.replace(/boundary=.*/, '')}`)
					.sort()
					.join(', ')} ${new TextDecoder()
					.decode(requestBody)
					.replace(/--[\w-]{20,}/g, '--')
					.replace(/-[a-z\d]{10,}/g, '-')}`
		)
	);

describe.each(documents.map((file) => [file.split('/').slice(-3).join('/'), file]))('%s', (_, file) => {
	const text = readFileSync(file, 'utf8');
	const document = readOpenapi('definitions/locks.json', () => text);
	const operations = operationsOf(document);
	let service: Awaited<ReturnType<typeof serviceOf>>;
	let base: string;
	let files: Record<string, string>;
	let plan: DefinitionPlan;
	let results: StepResult[] = [];
	const run = (plan: DefinitionPlan): Promise<StepResult[]> => {
		const locks = callsOf(plan);
		const names = (pattern: RegExp, value: string) =>
			Object.fromEntries([...JSON.stringify(locks).matchAll(pattern)].map(([, name]) => [name!, value]));
		return runAll({
			connections: { there: { base } },
			collections: { locks },
			files: { 'definitions/locks.json': text },
			secrets: names(/\$secret\.(\w+)/g, 'a-secret'),
			set: names(/\$env\.(\w+)/g, 'v')
		});
	};
	beforeAll(async () => {
		service = await serviceOf(document);
		base = `${service.base}${operations[0]?.prefixes[0] ?? ''}`;
		files = { ...EMPTY, 'connections/there.yaml': `heron: 1\nbase: ${base}\n` };
		plan = planOf(text, files, { connection: 'there' });
		if (operations.length > 0) results = await run(plan);
	});
	afterAll(() => service.close());

	test('all values that are made are allowed by their schemas', async () => {
		const wrong: string[] = [];
		for (const operation of operations)
			for (const [where, schema] of [
				...parametersOf(operation).map((one) => [`${one.in} ${one.name}`, one.schema] as const),
				...bodiesOf(operation).map((one) => [one.type, one.schema ?? {}] as const)
			])
				for (const options of [{}, { fill: 'full', made: true }] as const) {
					const value = sampleOf(schema, options);
					const faults = await validate(value, { schema, name: 'x' });
					for (const { path, message } of faults)
						wrong.push(
							`${operation.method} ${operation.template} ${where} ${JSON.stringify(options)} /${path.join('/')}: ${message} in ${JSON.stringify(value)?.slice(0, 200)}`
						);
				}
		expect(wrong.filter((one) => !NOTHING_FITS.test(one))).toEqual([]);
	});
	test('the project is without problems after its import', () => {
		const alone = planOf(text);
		const { workspace } = projectOf(after(alone));
		expect(workspace.problems.filter((one) => one.file !== alone.file)).toEqual([]);
	});
	test('what is made is a call of its definition, and a service that keeps to it passes', () => {
		if (operations.length === 0) return expect(planOf(text).writes).toEqual([]);
		const wrong = [
			...service.refused,
			...results.flatMap(({ call, exchanges, checks, error }) =>
				[
					...(error ? [error.message] : []),
					...checks.filter(({ holds }) => !holds).map((one) => `${one.subject}: ${one.received} ${one.error ?? ''}`)
				].map((one) => `${call} as ${exchanges[0]?.url}: ${one}`)
			)
		];
		expect(wrong.filter((one) => !NOTHING_FITS.test(one) && !SAYS_OTHERWISE.test(one))).toEqual([]);
		expect(results).not.toEqual([]);
	});
	test('goes out as workflows that are valid, and comes in again as the same calls', async () => {
		if (operations.length === 0) return;
		const whole = after(plan, files);
		const { workspace, documents: read } = projectOf(whole);
		const out = workflowFiles(
			workspace,
			['locks'],
			(path) => read.get(path)?.value,
			'Locks',
			(path) => (whole[path] === undefined ? undefined : utf8(whole[path]))
		);
		const main = out.files.find(({ path }) => path.endsWith('.arazzo.yaml'))!;
		expect(arazzo(parse(new TextDecoder().decode(main.bytes))) ? [] : arazzo.errors).toEqual([]);
		const [second] = planDefinitions({
			...{ name: 'locks', files: out.files, connection: 'there', valueOf: () => undefined },
			workspace: projectOf(files).workspace,
			readFile: () => undefined
		});
		expect(sentBy(await run(second!))).toEqual(sentBy(results));
	});
});

const document = (more: object) =>
	JSON.stringify({ openapi: '3.1.0', info: { title: 'Locks', version: '1' }, ...more });
const made = (schema: object) => ({ '201': { description: 'made', content: { 'application/json': { schema } } } });
const fine = { '200': { description: 'fine' } };
const object = (properties: object, more: object = {}) => ({
	type: 'object',
	properties,
	required: Object.keys(properties),
	...more
});
const word = { type: 'string' };

describe('how parameters are written in a step', () => {
	const list = ['up', 'down'];
	const pair = { lock: 'mill', side: 'left' };
	test.each<[string, object, unknown, object]>([
		[
			'a list in a query, exploded: the name repeats',
			{ in: 'query' },
			list,
			{
				query: [
					['p', 'up'],
					['p', 'down']
				]
			}
		],
		['a list in a query, not exploded: commas', { in: 'query', explode: false }, list, { query: { p: 'up,down' } }],
		['spaceDelimited', { in: 'query', style: 'spaceDelimited', explode: false }, list, { query: { p: 'up down' } }],
		['pipeDelimited', { in: 'query', style: 'pipeDelimited', explode: false }, list, { query: { p: 'up|down' } }],
		['an object, exploded: its own names', { in: 'query' }, pair, { query: pair }],
		['an object, not exploded', { in: 'query', explode: false }, pair, { query: { p: 'lock,mill,side,left' } }],
		['deepObject', { in: 'query', style: 'deepObject' }, pair, { query: { 'p[lock]': 'mill', 'p[side]': 'left' } }],
		['a header of a list', { in: 'header' }, list, { headers: { p: 'up,down' } }],
		[
			'a header of an object, exploded',
			{ in: 'header', explode: true },
			pair,
			{ headers: { p: 'lock=mill,side=left' } }
		],
		['a cookie', { in: 'cookie' }, 'x', { cookies: { p: 'x' } }],
		['a path', { in: 'path' }, 7, { send: 'GET /a/{p}', path: { p: 7 } }],
		['a path of a list', { in: 'path' }, list, { send: 'GET /a/{p}', path: { p: 'up,down' } }],
		['a label', { in: 'path', style: 'label' }, 7, { send: 'GET /a/{.p}', path: { p: 7 } }],
		[
			'a matrix of a list, exploded',
			{ in: 'path', style: 'matrix', explode: true },
			list,
			{ send: 'GET /a/;p=up;p=down' }
		],
		['a label of an object', { in: 'path', style: 'label' }, pair, { send: 'GET /a/.lock,mill,side,left' }],
		['an expression in an example stays text', { in: 'query' }, '{$env.x}', { query: { p: '\\{$env.x}' } }],
		[
			'what is not required is there, and off',
			{ in: 'query', required: false },
			'x',
			{ query: { p: { value: 'x', off: true } } }
		]
	])('%s', (_, parameter, example, step) => {
		const place = (parameter as { in: string }).in === 'path' ? '/a/{p}' : '/a';
		const parameters = [{ name: 'p', required: true, schema: {}, example, ...parameter }];
		const plan = planOf(document({ paths: { [place]: { get: { parameters, responses: fine } } } }));
		expect(collectionIn(plan).scenarios[0]!.steps).toMatchObject([step]);
	});
});

test('an operation that does nothing but lead elsewhere is looked at where it does so', () => {
	const paths = { '/a': { get: { responses: { '304': { description: 'same' }, '303': { description: 'there' } } } } };
	expect(collectionIn(planOf(document({ paths }))).scenarios[0]!.steps).toMatchObject([
		{ send: 'GET /a', redirects: 0, checks: [{ status: 303 }, { contract: true }] }
	]);
});

describe('files of a multipart body', () => {
	const bytes = { type: 'string', contentMediaType: 'application/octet-stream' };
	test.each<[string, object, object[]]>([
		['bytes of OpenAPI 3.0', { type: 'string', format: 'binary' }, [{ filename: 'it.txt' }]],
		['a media type for what is no text', bytes, [{ filename: 'it.txt' }]],
		['a media type alone', { contentMediaType: 'image/png' }, [{ filename: 'it.txt' }]],
		['several', { type: 'array', minItems: 2, items: bytes }, [{ filename: 'it.txt' }, { filename: 'it.txt' }]],
		['bytes that are referred to', { $ref: '#/components/schemas/Scan' }, [{ filename: 'it.txt' }]],
		['what is encoded is text', { ...bytes, contentEncoding: 'base64' }, [{ text: expect.any(String) }]],
		['text of a media type is text', { ...word, contentMediaType: 'text/csv' }, [{ text: expect.any(String) }]],
		['JSON in a text is text', { ...word, contentMediaType: 'application/json' }, [{ text: expect.any(String) }]]
	])('%s', (_, schema, parts) => {
		const plan = planOf(
			document({
				components: { schemas: { Scan: bytes, Upload: object({ it: schema }) } },
				paths: {
					'/a': {
						post: {
							requestBody: { content: { 'multipart/form-data': { schema: { $ref: '#/components/schemas/Upload' } } } },
							responses: fine
						}
					}
				}
			})
		);
		const [{ body }] = collectionIn(plan).scenarios[0]!.steps as [{ body: { multipart: JsonObject[] } }];
		expect(body.multipart).toMatchObject(parts);
		if (!JSON.stringify(parts).includes('filename'))
			for (const part of body.multipart) expect(part).not.toHaveProperty('filename');
	});
});

describe('what belongs together', () => {
	const item = (parameter: string, methods: string[]) => ({
		parameters: [{ name: parameter, in: 'path', required: true, schema: word }],
		...Object.fromEntries(methods.map((method) => [method, { responses: fine }]))
	});
	const stepsOf = (paths: object): [id: string, steps: string[]][] =>
		collectionIn(planOf(document({ paths }))).scenarios.map(({ id, steps }) => [
			String(id),
			(steps as JsonObject[]).map(({ id, send, keep, path, cleanup }) =>
				JSON.stringify({ id, send, keep, path, cleanup })
			)
		]);
	test.each<[string, object, object, string, string]>([
		['by the same name', made(object({ reference: word })), item('reference', ['get']), 'reference', '$.reference'],
		['by id and what it is about', made(object({ id: word })), item('boatId', ['get']), 'boatId', '$.id'],
		['the other way round', made(object({ boat_id: word })), item('id', ['get']), 'id', '$.boat_id'],
		['deeper', made(object({ data: object({ id: word }) })), item('id', ['get']), 'id', '$.data.id']
	])('%s', (_, responses, other, name, selector) => {
		const parameter = name;
		const [[id, steps] = []] = stepsOf({ '/boats': { post: { responses } }, [`/boats/{${parameter}}`]: other });
		expect(id).toBe('boats-from-first-to-last');
		expect(steps).toEqual([
			JSON.stringify({ id: 'create', send: 'POST /boats', keep: { [name]: selector } }),
			JSON.stringify({ id: 'read', send: `GET /boats/{${parameter}}`, path: { [name]: `{$steps.create.${name}}` } })
		]);
	});
	test('a link of the document goes before names', () => {
		const answer = {
			'201': {
				...made(object({ id: word, key: word }))['201'],
				links: { it: { operationId: 'read', parameters: { id: '$response.body#/key' } } }
			}
		};
		const other = { ...item('id', []), get: { operationId: 'read', responses: fine } };
		const plan = planOf(document({ paths: { '/boats': { post: { responses: answer } }, '/boats/{id}': other } }));
		expect(plan.offers[0]!.why).toBe('the link it of POST /boats says so: id is $response.body#/key');
		expect((collectionIn(plan).scenarios[0]!.steps as JsonObject[])[0]!.keep).toEqual({ id: '$.key' });
	});
	test('a Location tells it, too', () => {
		const answer = { '201': { description: 'made', headers: { Location: { schema: word } } } };
		const [[, steps] = []] = stepsOf({
			'/boats': { post: { responses: answer } },
			'/boats/{n}': item('n', ['delete'])
		});
		expect(steps).toEqual([
			JSON.stringify({ id: 'create', send: 'POST /boats', keep: { location: 'header:Location' } }),
			JSON.stringify({
				...{
					id: 'remove',
					send: 'DELETE /boats/{n}',
					path: { n: '{$split($steps.create.location, "/")[$ != ""][-1]}' }
				},
				cleanup: true
			})
		]);
	});
	test('a name that is no word is filled in, too', () => {
		const [[, steps] = []] = stepsOf({
			'/boats': { post: { responses: made(object({ 'boat-id': word })) } },
			'/boats/{boat-id}': item('boat-id', ['get'])
		});
		expect(steps![1]).toBe(
			JSON.stringify({ id: 'read', send: 'GET /boats/{boat_id}', path: { boat_id: '{$steps.create.boat_id}' } })
		);
	});
	describe('what answers lead to', () => {
		const leads = (responses: Record<string, object>, links: object) =>
			Object.fromEntries(Object.entries(responses).map(([status, one]) => [status, { ...one, links }]));
		const paths = {
			'/boats': {
				post: {
					responses: leads(made(object({ id: word })), {
						lift: { operationId: 'liftBoat', parameters: { 'path.id': '$response.body#/id' } }
					})
				}
			},
			'/boats/{id}': item('id', ['get', 'delete']),
			'/boats/{id}/lift': {
				post: {
					operationId: 'liftBoat',
					parameters: item('id', []).parameters,
					responses: leads(made(object({ ticket: word })), {
						ticket: {
							operationRef: '#/paths/~1lifts~1{ticket}/get',
							parameters: { ticket: '$response.body#/ticket', boat: '$request.path.id', lang: '$response.header.Lang' }
						},
						nowhere: { operationId: 'gone' }
					})
				}
			},
			'/lifts/{ticket}': {
				parameters: [...item('ticket', []).parameters, { name: 'boat', in: 'query', schema: word }],
				get: { responses: fine, parameters: [{ name: 'Lang', in: 'header', schema: word }] }
			}
		};
		test('follows by the links, before the thing is removed', () => {
			const [[id, steps] = [], ...others] = stepsOf(paths);
			expect(others).toEqual([]);
			expect(id).toBe('boats-from-first-to-last');
			expect(steps!.map((one) => (JSON.parse(one) as JsonObject).id)).toEqual([
				...['create', 'read', 'liftBoat', 'getLiftsTicket', 'remove']
			]);
			expect(JSON.parse(steps![2]!)).toMatchObject({
				path: { id: '{$steps.create.id}' },
				keep: { ticket: '$.ticket' }
			});
		});
		test('with what was sent before, and what stands in headers', () => {
			const plan = planOf(document({ paths }));
			expect((collectionIn(plan).scenarios[0]!.steps as JsonObject[])[3]).toMatchObject({
				path: { ticket: '{$steps.liftBoat.ticket}' },
				query: { boat: '{$steps.create.id}' }
			});
			expect(plan.offers[0]).toMatchObject({
				title: 'Boats: create, read, lift boat, get lifts ticket and remove',
				why: expect.stringContaining(
					'; the link lift of POST /boats leads to POST /boats/{id}/lift; the link ticket of'
				)
			});
		});
		test('also where nothing is made of it from first to last', () => {
			const { '/boats': _, '/boats/{id}': __, ...rest } = paths;
			const [[id, steps] = []] = stepsOf(rest);
			expect(id).toBe('lift-boat-onwards');
			expect(steps).toHaveLength(2);
		});
		test('what two links call alike is kept under two names', () => {
			const named = (operationId: string) => ({
				...item('id', []),
				get: { operationId, responses: fine }
			});
			const plan = planOf(
				document({
					paths: {
						'/boats': {
							post: {
								responses: leads(made(object({ owner: word, berth: word })), {
									owner: { operationId: 'owner', parameters: { id: '$response.body#/owner' } },
									berth: { operationId: 'berth', parameters: { id: '$response.body#/berth' } }
								})
							}
						},
						'/owners/{id}': named('owner'),
						'/berths/{id}': named('berth')
					}
				})
			);
			expect(collectionIn(plan).scenarios[0]!.steps).toMatchObject([
				{ keep: { id: '$.owner', id2: '$.berth' } },
				{ send: 'GET /owners/{id}', path: { id: '{$steps.postBoats.id}' } },
				{ send: 'GET /berths/{id}', path: { id: '{$steps.postBoats.id2}' } }
			]);
		});
		test('a step that begins with a digit can be named', () => {
			const links = { it: { operationId: '3dView', parameters: { id: '$response.body#/id' } } };
			const again = { again: { operationId: 'last', parameters: { id: '$response.body#/id' } } };
			const read = (operationId: string, responses: object) => ({
				...item('id', []),
				get: { operationId, responses }
			});
			const found = stepsOf({
				'/boats': { post: { responses: leads(made(object({ id: word })), links) } },
				'/views/{id}': read('3dView', leads(made(object({ id: word })), again)),
				'/ends/{id}': read('last', fine)
			});
			expect(found[0]![1].map((one) => (JSON.parse(one) as JsonObject).id)).toEqual(['postBoats', '_3dView', 'last']);
			expect(found[0]![1][2]).toContain('{$steps._3dView.id}');
		});
		test('links in a circle, and to thousands, end', () => {
			const names = Array.from({ length: 300 }, (_, n) => `op${n}`);
			const links = Object.fromEntries(
				names.map((operationId) => [operationId, { operationId, parameters: { id: '$response.body#/id' } }])
			);
			const many = Object.fromEntries(
				names.map((operationId) => [
					`/${operationId}/{id}`,
					{ ...item('id', []), get: { operationId, responses: leads(made(object({ id: word })), links) } }
				])
			);
			const found = stepsOf(many);
			expect(found.reduce((sum, [, steps]) => sum + steps!.length, 0)).toBe(300);
			expect(Math.max(...found.map(([, steps]) => steps!.length))).toBe(21);
		});
	});
	describe('what lies below a thing', () => {
		const boats = (methods: object) => ({ '/boats': methods, '/boats/{id}': item('id', ['delete']) });
		const post = { responses: made(object({ id: word })) };
		const list = { get: { responses: made({ type: 'array', items: object({ id: word }) }) } };
		const crew = { parameters: item('boatId', []).parameters };
		test('is called with one that is made for it, and goes away again', () => {
			const found = stepsOf({
				...boats({ post }),
				'/boats/{boatId}/crew': {
					...crew,
					get: { responses: fine },
					post: { responses: made(object({ crewId: word })) }
				},
				'/boats/{boatId}/crew/{crewId}': {
					parameters: [...crew.parameters, ...item('crewId', []).parameters],
					delete: { responses: fine }
				}
			});
			expect(found.map(([id]) => id)).toEqual([
				...['boats-from-first-to-last', 'get-boats-boat-id-crew', 'crew-from-first-to-last']
			]);
			expect(found[1]![1]).toEqual([
				JSON.stringify({ id: 'createBoat', send: 'POST /boats', keep: { id: '$.id' } }),
				JSON.stringify({
					...{ id: 'removeBoat', send: 'DELETE /boats/{id}', path: { id: '{$steps.createBoat.id}' } },
					cleanup: true
				}),
				JSON.stringify({ id: 'call', send: 'GET /boats/{boatId}/crew', path: { boatId: '{$steps.createBoat.id}' } })
			]);
			expect(found[2]![1]!.map((one) => (JSON.parse(one) as JsonObject).path)).toEqual([
				undefined,
				{ id: '{$steps.createBoat.id}' },
				{ boatId: '{$steps.createBoat.id}' },
				{ boatId: '{$steps.createBoat.id}', crewId: '{$steps.create.crewId}' }
			]);
		});
		test('is called with one of a list only where nothing is changed', () => {
			const found = stepsOf({
				...boats(list),
				'/boats/{boatId}/crew': { ...crew, get: { responses: fine }, put: { responses: fine } }
			});
			const steps = Object.fromEntries(found);
			expect(steps['get-boats-boat-id-crew']).toEqual([
				JSON.stringify({ id: 'findBoat', send: 'GET /boats', keep: { id: '$[0].id' } }),
				JSON.stringify({ id: 'call', send: 'GET /boats/{boatId}/crew', path: { boatId: '{$steps.findBoat.id}' } })
			]);
			expect(steps['put-boats-boat-id-crew']).toHaveLength(1);
		});
		test('is called by itself where that is chosen', () => {
			const paths = { ...boats({ post }), '/boats/{boatId}/crew': { ...crew, get: { responses: fine } } };
			const plan = planOf(document({ paths }), {}, { choose: ['GET /boats/{boatId}/crew'] });
			expect(collectionIn(plan).scenarios).toMatchObject([{ steps: [{ path: { boatId: 'text' } }] }]);
		});
	});
	describe('an entity tag', () => {
		const tagged = { '200': { description: 'fine', headers: { ETag: { schema: word } } } };
		const ifMatch = [{ name: 'If-Match', in: 'header', required: true, schema: word }];
		const tags = (read: object, put: object) =>
			(
				collectionIn(
					planOf(
						document({
							paths: {
								'/boats': { post: { responses: made(object({ id: word })) } },
								'/boats/{id}': {
									parameters: item('id', []).parameters,
									get: { responses: read },
									put: { responses: put, parameters: ifMatch },
									delete: { responses: fine, parameters: ifMatch }
								}
							}
						})
					)
				).scenarios[0]!.steps as JsonObject[]
			).map(({ headers }) => (headers as JsonObject | undefined)?.['If-Match']);
		test.each<[string, object, object, (string | undefined)[]]>([
			['is that of the last answer', tagged, tagged, ['{$steps.read.etag}', '{$steps.replace.etag}']],
			['that is no longer true is not used', tagged, fine, ['{$steps.read.etag}', '*']],
			['that nobody answers is any', fine, fine, ['*', '*']]
		])('%s', (_, read, put, expected) => {
			expect(tags(read, put)).toEqual([undefined, undefined, ...expected]);
		});
	});
	test('what is one of a few words names nothing, and is no chain', () => {
		const kinds = { ...word, enum: ['sail', 'motor'] };
		const other = {
			parameters: [{ name: 'kind', in: 'path', required: true, schema: kinds }],
			get: { responses: fine }
		};
		const found = stepsOf({ '/boats': { post: { responses: made(object({ kind: word })) } }, '/boats/{kind}': other });
		expect(found.map(([id]) => id)).toEqual(['post-boats', 'get-boats-kind']);
	});
	test('what is found in a list is read, and nothing of it is removed', () => {
		const list = { '200': { ...made({ type: 'array', items: object({ id: { type: 'integer' } }) })['201'] } };
		const found = stepsOf({ '/boats': { get: { responses: list } }, '/boats/{id}': item('id', ['get', 'delete']) });
		expect(found.map(([id]) => id)).toEqual(['boats-found-and-read', 'delete-boats-id']);
	});
	test.each<[string, object, object]>([
		['a name', { name: word }, { name: '{$unique("text-")}' }],
		[
			'a title, and an address',
			{ title: word, email: { type: 'string', format: 'email' } },
			{ title: '{$unique("text-")}', email: '{$unique("heron-")}@example.org' }
		],
		['one of several names', { firstName: word, name: word }, { firstName: '{$unique("text-")}', name: 'text' }],
		['no name that is too short for it', { name: { type: 'string', maxLength: 12 } }, { name: 'text' }],
		['no name of a list', { name: { enum: ['Heron', 'Otter'] } }, { name: 'Heron' }],
		[
			'no name whose pattern refuses it',
			{ name: { type: 'string', pattern: '^[A-Z]+$' } },
			{ name: expect.stringMatching(/^[A-Z]+$/) as string }
		],
		['nothing else', { lock: word, number: { type: 'integer' } }, { lock: 'text', number: 1 }]
	])('what makes a thing that is taken away again has %s that is another one each time', (_, properties, expected) => {
		const schema = object(properties, { required: Object.keys(properties) });
		const body = { required: true, content: { 'application/json': { schema } } };
		const paths = {
			'/boats': { post: { requestBody: body, responses: made(object({ id: word })) } },
			'/boats/{id}': item('id', ['get', 'delete'])
		};
		const [scenario] = collectionIn(planOf(document({ paths }))).scenarios;
		expect((scenario!.steps as JsonObject[])[0]!.body).toEqual({ json: expected });
	});
	test.each([
		['an answer without a fitting name', made(object({ title: word })), 'boatId'],
		['a text where a number is wanted', made(object({ title: word, id: { type: 'object' } })), 'id'],
		['a word that only ends alike', made(object({ name: word })), 'username']
	])('%s is no chain', (_, responses, parameter) => {
		const found = stepsOf({ '/boats': { post: { responses } }, [`/boats/{${parameter}}`]: item(parameter, ['get']) });
		expect(found).toHaveLength(2);
	});
});

describe('who calls, and where', () => {
	const secured = (scheme: object, more: object = {}) =>
		document({
			components: { securitySchemes: { it: scheme } },
			security: [{ it: ['read'] }],
			paths: { '/a': { get: { responses: fine } } },
			...more
		});
	test.each<[string, object, object]>([
		[
			'a key in a header',
			{ type: 'apiKey', in: 'header', name: 'X-Key' },
			{ kind: 'api-key', in: 'header', name: 'X-Key', key: '{$secret.locksIt}' }
		],
		['a key in a cookie', { type: 'apiKey', in: 'cookie', name: 'k' }, { kind: 'api-key', in: 'cookie' }],
		[
			'basic',
			{ type: 'http', scheme: 'Basic' },
			{ kind: 'basic', user: '{$env.locksItUser}', password: '{$secret.locksItPassword}' }
		],
		['digest', { type: 'http', scheme: 'digest' }, { kind: 'digest' }],
		['bearer', { type: 'http', scheme: 'bearer' }, { kind: 'bearer', token: '{$secret.locksIt}' }],
		[
			'client credentials',
			{ type: 'oauth2', flows: { clientCredentials: { tokenUrl: 'https://sign.example/token', scopes: {} } } },
			{ kind: 'oauth2', grant: 'client-credentials', tokenEndpoint: 'https://sign.example/token', scope: 'read' }
		],
		[
			'authorization code',
			{
				type: 'oauth2',
				flows: {
					authorizationCode: {
						authorizationUrl: 'https://sign.example/ask',
						tokenUrl: 'https://sign.example/token',
						scopes: {}
					}
				}
			},
			{ kind: 'oauth2', grant: 'authorization-code', authorizationEndpoint: 'https://sign.example/ask' }
		],
		[
			'OpenID Connect',
			{ type: 'openIdConnect', openIdConnectUrl: 'https://sign.example/.well-known/openid-configuration' },
			{ kind: 'oauth2', grant: 'authorization-code', issuer: 'https://sign.example', scope: 'openid read' }
		]
	])('%s becomes a credential whose secrets are named, and have no value', (_, scheme, credential) => {
		const plan = planOf(secured(scheme));
		const written = Object.fromEntries(plan.writes.map(({ path, value }) => [path, value]));
		expect(written['credentials/it.yaml']).toMatchObject(credential);
		expect(collectionIn(plan).credential).toBe('it');
		const secrets = [...JSON.stringify(credential).matchAll(/\$secret\.(\w+)/g)].map(([, name]) => name);
		expect(written['environments/test.yaml']).toMatchObject(secrets.length > 0 ? { secrets } : { heron: 1 });
		expect(projectOf(after(plan)).workspace.problems).toEqual([]);
	});
	test('several keys at once: one is the credential, the others stand in the call', () => {
		const plan = planOf(
			secured(
				{ type: 'http', scheme: 'bearer' },
				{
					components: {
						securitySchemes: { it: { type: 'http', scheme: 'bearer' }, key: { type: 'apiKey', in: 'query', name: 'k' } }
					},
					security: [{ key: [], it: [] }, {}]
				}
			)
		);
		expect(collectionIn(plan)).toMatchObject({
			credential: 'it',
			scenarios: [{ steps: [{ query: { k: '{$secret.locksKey}' } }] }]
		});
	});
	test('of several ways to prove a call the one is taken that most calls take', () => {
		const schemes = { it: { type: 'http', scheme: 'bearer' }, key: { type: 'apiKey', in: 'header', name: 'k' } };
		const either = [{ key: [] }, { it: [] }];
		const paths = {
			'/a': { get: { responses: fine } },
			'/b': { get: { security: either, responses: fine } },
			'/c': { get: { security: [{ key: [] }], responses: fine } },
			'/d': { get: { security: [{}, ...either], responses: fine } },
			'/e': { get: { security: [{ key: [] }, {}], responses: fine } },
			'/f': { get: { responses: fine } },
			'/g': { get: { responses: fine } }
		};
		const plan = planOf(
			secured(schemes.it, { components: { securitySchemes: schemes }, security: [{ it: [] }], paths })
		);
		const { credential, scenarios } = collectionIn(plan);
		expect(credential).toBe('it');
		const called = scenarios.map(({ steps }) => (steps as JsonObject[])[0]!.credential);
		expect(called).toEqual([undefined, undefined, 'key', 'none', 'key', undefined, undefined]);
	});
	test('a call that fetches a token is filled in with what its credential fetches one with', () => {
		const required = ['username', 'password', 'grant_type', 'lock'];
		const form = object({ username: word, password: word, grant_type: word, lock: word }, { required });
		const body = { content: { 'application/x-www-form-urlencoded': { schema: form } } };
		const post = { security: [], requestBody: body, responses: fine };
		const flows = { password: { tokenUrl: 'https://sign.example/in/token', scopes: {} } };
		const paths = { '/in/token': { post }, '/token': { post }, '/a': { get: { responses: fine } } };
		const { scenarios } = collectionIn(planOf(secured({ type: 'oauth2', flows }, { paths })));
		const forms = scenarios.flatMap(
			({ steps }) => ((steps as JsonObject[])[0]!.body as JsonObject | undefined)?.form ?? []
		);
		const own = { username: '{$env.locksItUser}', password: '{$secret.locksItPassword}' };
		expect(forms).toEqual([
			expect.objectContaining({ ...own, lock: 'text' }),
			expect.objectContaining({ username: 'text', password: 'text' })
		]);
	});
	test('a call that needs nobody says so', () => {
		const paths = {
			'/a': { get: { responses: fine } },
			'/b': { get: { responses: fine } },
			'/open': { get: { security: [], responses: fine } }
		};
		const { scenarios } = collectionIn(planOf(secured({ type: 'http', scheme: 'bearer' }, { paths })));
		expect(scenarios.map(({ steps }) => (steps as JsonObject[])[0]!.credential)).toEqual([
			undefined,
			undefined,
			'none'
		]);
	});
	const paths = { '/a': { get: { responses: fine } } };
	test.each<[string, object, string, object]>([
		['an address', { servers: [{ url: 'https://a.example/v1/' }] }, '', { base: 'https://a.example/v1' }],
		[
			'a path, from where the document came',
			{ servers: [{ url: '/v2' }] },
			'https://b.example/docs/api.json',
			{ base: 'https://b.example/v2' }
		],
		[
			'an address with variables',
			{
				servers: [
					{ url: 'https://{region}.example/{v}', variables: { region: { default: 'north' }, v: { default: 'v1' } } }
				]
			},
			'',
			{ base: 'https://{$env.region}.example/{$env.v}' }
		]
	])('a server that is %s', (_, servers, address, connection) => {
		const plan = planOf(document({ paths, ...servers }), EMPTY, address ? { address } : {});
		expect(plan.writes.find(({ path }) => path === 'connections/locks.yaml')?.value).toMatchObject(connection);
		expect(projectOf(after(plan)).workspace.problems).toEqual([]);
	});
	test('a connection to the same place is taken, and what it does not say goes before the path', () => {
		const files = { ...EMPTY, 'connections/ours.yaml': 'heron: 1\nbase: https://a.example\n' };
		const plan = planOf(document({ paths, servers: [{ url: 'https://a.example/v1' }] }), files);
		expect(plan.made).toEqual([]);
		expect(collectionIn(plan)).toMatchObject({ connection: 'ours', scenarios: [{ steps: [{ send: 'GET /v1/a' }] }] });
	});
	test('a host that nobody names is asked for', () => {
		const plan = planOf(document({ paths }));
		expect(plan.problems.map(({ message }) => message)).toEqual([
			'it does not say on which host the service is: write that as base into connections/locks.yaml'
		]);
	});
});

describe('a document that is broken somewhere', () => {
	const whole = { get: { responses: fine } };
	const body = (schema: object) => ({ content: { 'application/json': { schema } } });
	test.each<[string, object]>([
		['a body that leads nowhere', { post: { requestBody: { $ref: '#/nowhere' }, responses: fine } }],
		['a schema that leads nowhere', { post: { requestBody: body({ $ref: '#/nowhere' }), responses: fine } }],
		[
			'a schema that refers to itself',
			{ post: { requestBody: body({ $ref: '#/components/schemas/Loop' }), responses: fine } }
		],
		['a parameter that leads nowhere', { get: { parameters: [{ $ref: '#/nowhere' }], responses: fine } }],
		['parameters that are no list', { get: { parameters: { a: 1 }, responses: fine } }],
		['answers that are a list', { get: { responses: [] } }],
		[
			'a mapping that leads nowhere',
			{
				post: {
					requestBody: body({ oneOf: [{}], discriminator: { propertyName: 'k', mapping: { a: '#/nowhere' } } }),
					responses: fine
				}
			}
		],
		['a pattern that is none', { post: { requestBody: body({ type: 'string', pattern: '(' }), responses: fine } }],
		['limits that nothing keeps', { post: { requestBody: body({ type: 'array', minItems: 1e9 }), responses: fine } }],
		['security that there is not', { get: { security: [{ nobody: [] }], responses: fine } }],
		['a server that is none', { servers: [{ url: 7 }], get: { servers: 'x', responses: fine } }]
	])('%s: the rest of it is made all the same', (_, path) => {
		const text = document({
			components: { schemas: { Loop: { $ref: '#/components/schemas/Loop' } } },
			paths: { '/broken': path, '/whole': whole }
		});
		const plan = planOf(text);
		expect(collectionIn(plan).scenarios.map(({ steps }) => (steps as JsonObject[])[0]!.send)).toContain('GET /whole');
		expect(projectOf(after(plan)).workspace.problems.filter(({ file }) => file !== plan.file)).toEqual([]);
	});
});

describe('an import again', () => {
	const paths = {
		'/a': { get: { operationId: 'a', responses: fine } },
		'/b': { get: { operationId: 'b', responses: fine } }
	};
	test('adds what is new, leaves what is called, and does not bring back what was left out', () => {
		const first = planOf(document({ paths }), EMPTY, { choose: ['GET /a'] });
		expect(first.added).toEqual(['a']);
		const files = after(first);
		const next = planOf(document({ paths: { ...paths, '/c': { get: { operationId: 'c', responses: fine } } } }), files);
		expect(next).toMatchObject({ added: ['c'], kept: ['GET /a'] });
		expect(next.offers.map(({ key, chosen }) => [key, chosen])).toEqual([
			['GET /b', false],
			['GET /c', true]
		]);
		expect(collectionIn(next).scenarios.map(({ id }) => id)).toEqual(['a', 'c']);
	});
	test('what stands in a file that is no YAML is not lost', () => {
		const files = { ...EMPTY, 'collections/locks.yaml': 'heron: [1' };
		expect(() => planOf(document({ paths }), files)).toThrow(/collections\/locks.yaml is not YAML at present/);
	});
	test('nothing chosen: the definition alone', () => {
		expect(planOf(document({ paths }), EMPTY, { choose: [] })).toMatchObject({
			writes: [],
			added: [],
			collects: false
		});
	});
});
