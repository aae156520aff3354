import { describe, expect, test } from 'vitest';
import { loadProject } from '../project/index.ts';
import { writeJson } from '../model/json.ts';
import { stringify } from 'yaml';
import { talliesOf, type Coverage } from '../tallies/index.ts';
import { coverageHtml, Collector, madeCall, missingStep, plannedCoverage } from './index.ts';

const document = {
	openapi: '3.1.0',
	info: { title: 'Berths' },
	security: [{ key: [] }, { bearer: [] }, {}],
	components: {
		securitySchemes: {
			key: { type: 'apiKey', in: 'header', name: 'X-Key' },
			bearer: { type: 'http', scheme: 'bearer' }
		},
		schemas: {
			Boat: {
				type: 'object',
				required: ['name'],
				properties: {
					name: { type: 'string' },
					kind: { enum: ['barge', 'punt'] },
					id: { type: 'integer', readOnly: true },
					lines: { type: 'array', items: { type: 'object', properties: { pence: { type: 'integer', minimum: 0 } } } },
					parent: { $ref: '#/components/schemas/Boat' }
				}
			}
		}
	},
	paths: {
		'/berths/{id}': {
			get: {
				parameters: [
					{ name: 'id', in: 'path', required: true, schema: { type: 'string' } },
					{ name: 'free', in: 'query', schema: { type: 'boolean' } },
					{ name: 'size', in: 'query', schema: { type: 'integer', minimum: 1, maximum: 50 } },
					{ name: 'X-Trace', in: 'header', required: true, schema: { type: 'string' } }
				],
				responses: { 200: { description: 'ok' }, '4XX': { description: 'wrong' }, default: { description: 'other' } }
			},
			put: {
				requestBody: {
					content: {
						'application/json': { schema: { $ref: '#/components/schemas/Boat' } },
						'application/xml': {}
					}
				},
				responses: { 204: { description: 'ok' } }
			}
		}
	}
};
const project = (steps: object[] = [], more: Record<string, object> = {}) =>
	loadProject(
		[
			{ path: 'heron.yaml', text: 'heron: 1\n' },
			...(more['connections/b.yaml']
				? []
				: [{ path: 'connections/b.yaml', text: 'heron: 1\nbase: http://127.0.0.1:9/v1\n' }]),
			{
				path: 'collections/c.yaml',
				text: stringify({
					heron: 1,
					connection: 'b',
					scenarios: [{ id: 's', steps: steps.map((one, n) => ({ id: `s${n}`, ...one })) }]
				})
			},
			...Object.entries(more).map(([path, value]) => ({ path, text: stringify({ heron: 1, ...value }) }))
		],
		new Set(['definitions/berths.json']),
		() => new TextEncoder().encode(JSON.stringify(document))
	).workspace;

/** The names of an operation that are touched, by their kind in order. */
const touched = (found: Coverage, name: string): string[] =>
	found.definitions.flatMap(({ operations }) =>
		operations
			.filter((one) => one.name === name)
			.flatMap(({ points }) => points.filter(({ count }) => count > 0).map((one) => one.name))
	);
const planned = (step: object, more = {}) => plannedCoverage(project([step], more), '');
const get = 'GET /berths/{id}';
const put = 'PUT /berths/{id}';

test('what an operation offers, point by point', () => {
	const { definitions } = plannedCoverage(project(), '');
	const names = definitions[0]!.operations.map(({ name, points }) => [name, points.map((one) => one.name)]);
	expect(Object.fromEntries(names as [string, string[]][])).toEqual({
		[get]: [
			'called',
			...['answer 200', 'answer 4XX', 'answer default'],
			...['query free', 'without query free', 'query free = true', 'query free = false'],
			'query free that is no truth value',
			...['query size', 'without query size', 'query size = 1, the least', 'query size less than 1'],
			...['query size = 50, the most', 'query size more than 50', 'query size that is no number'],
			...['header X-Trace', 'without header X-Trace, which is required'],
			...['signed in by key', 'signed in by bearer', 'signed in by nothing']
		],
		[put]: [
			'called',
			'answer 204',
			...['body as application/json', 'body as application/xml', 'without a body'],
			...['body $.name', 'without body $.name, which is required'],
			...['body $.kind', 'without body $.kind', 'body $.kind = barge', 'body $.kind = punt'],
			'body $.kind of none of its values',
			...['body $.lines', 'without body $.lines'],
			...['body $.lines[*].pence', 'without body $.lines[*].pence', 'body $.lines[*].pence = 0, the least'],
			...['body $.lines[*].pence less than 0', 'body $.lines[*].pence that is no number'],
			...['body $.parent', 'without body $.parent'],
			...['signed in by key', 'signed in by bearer', 'signed in by nothing']
		]
	});
});

describe('before any run, from what files say', () => {
	const bare = ['without query free', 'without query size', 'without header X-Trace, which is required'];
	const plain = [...bare, 'signed in by nothing'];
	test.each<[string, object, string, string[]]>([
		['a bare call', { send: 'GET /berths/1' }, get, ['called', ...plain]],
		['a value that is filled in later', { send: 'GET /berths/{$env.id}' }, get, ['called', ...plain]],
		[
			'a check of the status',
			{ send: 'GET /berths/1', checks: [{ status: 200 }] },
			get,
			['called', 'answer 200', ...plain]
		],
		[
			'a status of a range',
			{ send: 'GET /berths/1', checks: [{ status: 404 }] },
			get,
			['called', 'answer 4XX', ...plain]
		],
		[
			'a status that nothing else tells',
			{ send: 'GET /berths/1', checks: [{ status: 503 }] },
			get,
			['called', 'answer default', ...plain]
		],
		['a check that is off', { send: 'GET /berths/1', checks: [{ status: 200, off: true }] }, get, ['called', ...plain]],
		['a step that is off', { send: 'GET /berths/1', off: true }, get, []],
		[
			'parameters in the target and beside it',
			{ send: 'GET /berths/1?free=true', query: { size: 50 }, headers: { 'x-trace': 'a' } },
			get,
			[
				'called',
				'query free',
				'query free = true',
				'query size',
				'query size = 50, the most',
				'header X-Trace',
				'signed in by nothing'
			]
		],
		[
			'a parameter whose value is not known yet',
			{ send: 'GET /berths/1', query: { size: '{$env.n}' } },
			get,
			['called', 'without query free', 'query size', bare[2]!, 'signed in by nothing']
		],
		[
			'a header that signs in',
			{ send: 'GET /berths/1', headers: { Authorization: 'Bearer {$secret.t}' } },
			get,
			['called', ...bare, 'signed in by bearer']
		],
		[
			'a body, with what it leaves out',
			{ send: 'PUT /berths/1', body: { json: { name: 'Pike', kind: 'punt', lines: [{ pence: 0 }, {}] } } },
			put,
			[
				...['called', 'body as application/json', 'body $.name', 'body $.kind', 'body $.kind = punt', 'body $.lines'],
				...['body $.lines[*].pence', 'without body $.lines[*].pence', 'body $.lines[*].pence = 0, the least'],
				...['without body $.parent', 'signed in by nothing']
			]
		],
		[
			'another media type',
			{ send: 'PUT /berths/1', body: { xml: '<a/>' } },
			put,
			['called', 'body as application/xml', 'signed in by nothing']
		],
		['no body', { send: 'PUT /berths/1' }, put, ['called', 'without a body', 'signed in by nothing']]
	])('%s', (_, step, operation, names) => expect(touched(planned(step), operation)).toEqual(names));
	test('the credential of a step is seen where it will stand', () => {
		const more = { 'credentials/k.yaml': { kind: 'api-key', name: 'X-Key', in: 'header', value: '{$secret.k}' } };
		expect(touched(planned({ send: 'GET /berths/1', credential: 'k' }, more), get)).toContain('signed in by key');
	});
	test('calls that no definition knows are listed as they are written', () => {
		const found = planned({ send: 'POST /berths/{$env.id}/paint' });
		expect(found.unknown).toEqual([{ call: 'POST /berths/{$env.id}/paint', steps: ['c/s/s0'], count: 1 }]);
	});
});

describe('the step that would touch what nobody touches', () => {
	const keys = {
		'credentials/k.yaml': { kind: 'api-key', name: 'X-Key', in: 'header', key: '{$secret.k}' },
		'credentials/b.yaml': { kind: 'bearer', token: '{$secret.b}' }
	};
	const all = plannedCoverage(project(), '').definitions[0]!.operations.flatMap(({ name, points }) =>
		points.map((point) => [name, point.name] as const)
	);
	test.each(all)('%s, %s', (operation, point) => {
		const made = missingStep(project([], keys), 'definitions/berths.json', operation, point)!;
		expect(made.notes).toEqual([]);
		const names = touched(planned(made.step, keys), operation);
		// a default is what no code and no range tells: which one is the tester's to say
		if (point !== 'answer default') expect(names).toContain(point);
	});
	test('is checked for being refused where it is wrong on purpose', () => {
		const { step } = missingStep(project(), 'definitions/berths.json', get, 'query size more than 50')!;
		expect(step).toMatchObject({ query: { size: 51 } });
		expect(step.checks).toEqual([{ status: '4XX' }, { contract: { request: false } }, { contract: true }]);
	});
	test('says which credential there is none of', () => {
		const { step, notes } = missingStep(project(), 'definitions/berths.json', get, 'signed in by bearer')!;
		expect(step.credential).toBe('none');
		expect(notes).toEqual(['no credential of the project is one for bearer: make one, and name it']);
	});
	test('names the connection that says which definition it has', () => {
		const more = { 'connections/b.yaml': { base: 'http://127.0.0.1:9/v1', definition: 'berths.json' } };
		expect(missingStep(project([], more), 'definitions/berths.json', get, 'called')?.connection).toBe('b');
	});
	test.each([
		['another file', 'definitions/none.json', get, 'called'],
		['another operation', 'definitions/berths.json', 'GET /none', 'called'],
		['another point', 'definitions/berths.json', get, 'answer 999']
	])('there is none for %s', (_, file, operation, point) =>
		expect(missingStep(project(), file, operation, point)).toBeUndefined()
	);
});

describe('from calls that were made', () => {
	const made = (more: object) => {
		const collector = new Collector(project());
		collector.add(
			madeCall({
				step: 'c/s/a',
				method: 'GET',
				url: 'http://127.0.0.1:9/v1/berths/1',
				base: '/v1',
				headers: [],
				hasBody: false,
				...more
			})
		);
		return collector.result();
	};
	test.each<[string, object, string, string[]]>([
		[
			'the status that came',
			{ status: 418 },
			get,
			[
				...['called', 'answer 4XX', 'without query free', 'without query size'],
				...['without header X-Trace, which is required', 'signed in by nothing']
			]
		],
		[
			'cookies, headers and the query',
			{
				url: 'http://127.0.0.1:9/v1/berths/1?free=false&size=1',
				headers: [
					['Authorization', 'bearer x'],
					['x-trace', '1']
				]
			},
			get,
			[
				'called',
				'query free',
				'query free = false',
				'query size',
				'query size = 1, the least',
				'header X-Trace',
				'signed in by bearer'
			]
		],
		[
			'a body',
			{
				method: 'PUT',
				headers: [['Content-Type', 'application/json; charset=utf-8']],
				hasBody: true,
				body: { name: 'Pike' }
			},
			put,
			[
				'called',
				'body as application/json',
				'body $.name',
				'without body $.kind',
				'without body $.lines',
				'without body $.parent',
				'signed in by nothing'
			]
		]
	])('%s', (_, more, operation, names) => expect(touched(made(more), operation)).toEqual(names));
	test('each kind is counted, and a page says what nobody tests', () => {
		const found = made({ status: 200 });
		const tallies = Object.fromEntries(talliesOf(found).map(({ kind, touched: some, all }) => [kind, [some, all]]));
		expect(tallies).toMatchObject({ operation: [1, 2], answer: [1, 4], security: [1, 6] });
		const page = coverageHtml(found, 'A <b> & co');
		expect(page).toContain('A &#60;b&#62; &#38; co');
		expect(page).toContain('answer 4XX');
		expect(page).not.toMatch(/<script/);
	});
});

describe('what stands in a path', () => {
	const kinds = writeJson({
		openapi: '3.1.0',
		info: { title: 'B', version: '1' },
		paths: {
			'/boats/{kind}': {
				get: {
					parameters: [
						{ name: 'kind', in: 'path', required: true, schema: { enum: ['barge', 'punt', 9007199254740993n] } }
					],
					responses: { 200: { description: 'ok' } }
				}
			}
		}
	});
	test.each<[string, object, string[]]>([
		['a value that is known', { send: 'GET /boats/{kind}', path: { kind: 'punt' } }, ['path kind = punt']],
		[
			'a number of any size',
			{ send: 'GET /boats/{kind}', path: { kind: 9007199254740993n } },
			['path kind = 9007199254740993']
		],
		['another value', { send: 'GET /boats/{kind}', path: { kind: 'raft' } }, ['path kind of none of its values']],
		['a value in the path itself', { send: 'GET /boats/barge' }, ['path kind = barge']],
		['what is only known when it is sent', { send: 'GET /boats/{kind}', path: { kind: '{$env.kind}' } }, []],
		['an expression in the path itself', { send: 'GET /boats/{$env.kind}' }, []]
	])('%s', (_, step, names) => {
		const files = {
			'heron.yaml': 'heron: 1\nvariables: { kind: punt }\n',
			'connections/b.yaml': 'heron: 1\nbase: http://127.0.0.1:9\n',
			'collections/c.yaml': stringify({
				...{ heron: 1, connection: 'b' },
				scenarios: [{ id: 's', steps: [{ id: 's0', ...step }] }]
			})
		};
		const { workspace } = loadProject(
			Object.entries(files).map(([path, text]) => ({ path, text })),
			new Set(['definitions/kinds.json']),
			() => new TextEncoder().encode(kinds)
		);
		expect(workspace.problems).toEqual([]);
		expect(touched(plannedCoverage(workspace, ''), 'GET /boats/{kind}')).toEqual(['called', ...names]);
	});
});
