import { carriedBy, createOpenapiRegistry, nameOf } from '#core/openapi/index.ts';
import { plannedCoverage } from '#core/coverage/index.ts';
import type { HeaderList } from '#core/model/reply.ts';
import { loadProject } from '#core/project/index.ts';
import { describe, expect, test } from 'vitest';
import { stringify } from 'yaml';
import { callsByDefinition } from '../support/definition-calls.ts';

const answer = { 200: { description: 'fine', content: { 'application/json': { schema: { type: 'object' } } } } };
const parameter = (place: string, name: string, schema: object, required = true) => ({
	in: place,
	name,
	required,
	schema
});
const body = (name: string) => ({
	required: true,
	content: {
		'application/json': { schema: { type: 'object', required: [name], properties: { [name]: { type: 'string' } } } }
	}
});
/** A document that has several operations of one method at one path, in the ways in which that is written. */
const document = {
	openapi: '3.0.3',
	info: { title: 'Berths', version: '1' },
	paths: {
		'/#X-Action=Berths.List': {
			post: {
				parameters: [parameter('header', 'X-Action', { type: 'string', enum: ['Berths.List'] })],
				requestBody: body('harbour'),
				responses: answer
			}
		},
		'/#X-Action=Berths.Free': {
			post: {
				parameters: [parameter('header', 'X-Action', { type: 'string', enum: ['Berths.Free'] })],
				requestBody: body('berth'),
				responses: answer
			}
		},
		'/berths/{id}/marks': {
			delete: { parameters: [parameter('path', 'id', { type: 'integer' })], responses: answer }
		},
		'/berths/{id}/marks#names': {
			delete: {
				parameters: [
					parameter('path', 'id', { type: 'integer' }),
					parameter('query', 'names', { type: 'array', items: { type: 'string' } })
				],
				responses: answer
			}
		},
		'/berths': { post: { requestBody: body('berth'), responses: answer } },
		'/berths?from=file': { post: { requestBody: body('file'), responses: answer } },
		'/calls#open': { post: { requestBody: body('opened'), responses: answer } },
		'/calls#close': { post: { requestBody: body('closed'), responses: answer } }
	}
};
const FILE = 'definitions/berths.json';
const registry = createOpenapiRegistry([FILE], () => JSON.stringify(document));
const found = (call: string, headers: HeaderList = [], fragment = ''): string => {
	const [method = '', target = ''] = call.split(' ');
	const { pathname, search } = new URL(target, 'http://x');
	return nameOf(registry.find({ method, path: pathname, base: '', carried: carriedBy(search, headers, fragment) }));
};

describe('operations of one method and path are told apart', () => {
	test.each<[string, string, string]>([
		['by a header', found('POST /', [['x-action', 'Berths.Free']]), 'POST /#X-Action=Berths.Free'],
		['by a header of another value: the first', found('POST /', [['X-Action', 'x']]), 'POST /#X-Action=Berths.List'],
		['by a name in the query', found('DELETE /berths/7/marks?names=a&names=b'), 'DELETE /berths/{id}/marks#names'],
		['by a name that is not there', found('DELETE /berths/7/marks?name=a'), 'DELETE /berths/{id}/marks'],
		['by a value in the query', found('POST /berths?from=file'), 'POST /berths?from=file'],
		['by another value', found('POST /berths?from=disk'), 'POST /berths'],
		['by the fragment of the step', found('POST /calls', [], 'close'), 'POST /calls#close'],
		['not at all: the first', found('POST /calls'), 'POST /calls#open']
	])('%s', (_, name, expected) => expect(name).toBe(expected));
});

test('each of them is imported, called, and judged as what it is', async () => {
	// what a stand-in cannot tell apart, nobody can
	const { '/calls#open': _, ...paths } = document.paths;
	const { results, calls } = await callsByDefinition(JSON.stringify({ ...document, paths }));
	const wrong = results.flatMap(({ call, checks, error }) =>
		[...(error ? [error.message] : []), ...checks.filter(({ holds }) => !holds).map(({ error: why }) => why ?? '')].map(
			(one) => `${call}: ${one}`
		)
	);
	expect(wrong).toEqual([]);
	// a call of another operation would lack what its body needs
	expect(calls.map(({ status, by }) => [status, by])).toEqual(Object.keys(paths).map(() => [200, 'definition']));
});

test('steps cover the operation that they mean, as far as their files tell', () => {
	const steps = [
		{ send: 'POST /', headers: { 'X-Action': 'Berths.Free' }, body: { json: { berth: 'A1' } } },
		{ send: 'DELETE /berths/7/marks', query: { names: '{$env.names}' } },
		{ send: 'POST /berths?from=file', body: { json: { file: 'x' } } },
		{ send: 'POST /calls#close', body: { json: { closed: 'x' } } }
	];
	const files: Record<string, string> = {
		'heron.yaml': 'heron: 1\ntitle: Ours\nvariables: { names: x }\n',
		'connections/there.yaml': 'heron: 1\nbase: https://berths.test\n',
		'collections/berths.yaml': stringify({
			heron: 1,
			connection: 'there',
			scenarios: [{ id: 's', steps: steps.map((step, at) => ({ id: `s${at}`, ...step })) }]
		}),
		[FILE]: JSON.stringify(document)
	};
	const { workspace } = loadProject(
		Object.entries(files).map(([path, text]) => ({ path, text })),
		new Set(Object.keys(files)),
		(path) => new TextEncoder().encode(files[path])
	);
	const [{ operations } = { operations: [] }] = plannedCoverage(workspace, '').definitions;
	expect(operations.filter(({ points }) => points.some(({ count }) => count > 0)).map(({ name }) => name)).toEqual([
		'POST /#X-Action=Berths.Free',
		'DELETE /berths/{id}/marks#names',
		'POST /berths?from=file',
		'POST /calls#close'
	]);
});
