import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import {
	countUses,
	renamedDocument,
	renamedText,
	renamedValue,
	usesOfColumn,
	usesOfName,
	withColumnRenamed,
	withScenarioRenamed
} from './index.ts';

const documents: { path: string; value: Json }[] = [
	{
		path: 'heron.yaml',
		value: { heron: 1, variables: { host: 'h', base: 'http://{$env.host}' }, notes: { host: 'where' } }
	},
	{ path: 'environments/local.yaml', value: { heron: 1, variables: { host: '127.0.0.1' }, secrets: ['host', 'key'] } },
	{
		path: 'local.yaml',
		value: { heron: 1, variables: { host: 'here' }, environments: { local: { host: '{$env.host}', port: 1 } } }
	},
	{
		path: 'collections/c.yaml',
		value: {
			heron: 1,
			scenarios: [
				{
					id: 's',
					rows: { data: 'd', where: "$env.host != 'x'" },
					steps: [
						{
							id: 'a',
							send: 'GET http://{$env.host}/{$secret.host}',
							when: '$env.hostile',
							checks: [{ that: '$env.host = "h"' }]
						},
						{ id: 'b', send: 'GET /', query: { '{$env.host}': 'the host, {host}, $env.host' } }
					]
				}
			]
		}
	}
];

describe('where a name is used', () => {
	test('every use and definition is found, and nothing else', () => {
		expect(
			usesOfName(documents, 'env', 'host').map(
				({ file, path, defines }) => `${defines ? '=' : ''}${file} ${path.join('.')}`
			)
		).toEqual([
			'=heron.yaml variables.host',
			'heron.yaml variables.base',
			'=environments/local.yaml variables.host',
			'=local.yaml variables.host',
			'=local.yaml environments.local.host',
			'local.yaml environments.local.host',
			'collections/c.yaml scenarios.0.rows.where',
			'collections/c.yaml scenarios.0.steps.0.send',
			'collections/c.yaml scenarios.0.steps.0.checks.0.that',
			'collections/c.yaml scenarios.0.steps.1.query.{$env.host}'
		]);
		expect(usesOfName(documents, 'secret', 'host').map(({ file }) => file)).toEqual([
			'environments/local.yaml',
			'collections/c.yaml'
		]);
		expect(countUses(documents).get('env.host')).toBe(6);
		expect(countUses(documents).get('secret.key')).toBeUndefined();
	});
});

describe('renaming', () => {
	test.each<[string, boolean, string]>([
		['{$env.host}/x', false, '{$env.name}/x'],
		['$env.host {$env.hosts} {$secret.host}', false, '$env.host {$env.hosts} {$secret.host}'],
		['{$env."host"} {$env.host.x[0]}', false, '{$env."name"} {$env.name.x[0]}'],
		['{$uppercase($env.host) & $env.host}', false, '{$uppercase($env.name) & $env.name}'],
		['\\{$env.host} {$env.host}', false, '\\{$env.host} {$env.name}'],
		['$env.host = 1', true, '$env.name = 1'],
		['{$env.host', false, '{$env.host']
	])('%s (bare: %s) becomes %s', (text, bare, renamed) => {
		expect(renamedText(text, bare, ['env', 'host'], 'name')).toBe(renamed);
	});
	test('uses and definitions go together, in their order', () => {
		const after = documents.map((one) => ({ ...one, value: renamedDocument(one, 'env', 'host', 'machine') }));
		expect(usesOfName(after, 'env', 'host')).toEqual([]);
		expect(usesOfName(after, 'env', 'machine')).toHaveLength(10);
		expect(Object.keys((after[0]!.value as { variables: object }).variables)).toEqual(['machine', 'base']);
		expect(after[0]!.value).toMatchObject({ notes: { machine: 'where' } });
		expect(after[2]!.value).toMatchObject({
			variables: { machine: 'here' },
			environments: { local: { machine: '{$env.machine}', port: 1 } }
		});
		expect(usesOfName(after, 'secret', 'host')).toHaveLength(2);
	});
	test('a secret keeps its place in the list', () => {
		expect(renamedDocument(documents[1]!, 'secret', 'host', 'gate')).toMatchObject({
			secrets: ['gate', 'key'],
			variables: { host: '127.0.0.1' }
		});
	});
});

describe('what a step keeps', () => {
	test.each([
		['/b/{$steps.book.ref}', '/b/{$steps.book.reference}'],
		['{$steps."book".ref & $steps.`book`."ref"}', '{$steps."book".reference & $steps.`book`."reference"}'],
		['{$steps.book.refs} {$steps.rebook.ref} {$env.ref}', '{$steps.book.refs} {$steps.rebook.ref} {$env.ref}'],
		['$steps.book.ref', '$steps.book.ref']
	])('%s becomes %s', (text, renamed) => {
		expect(renamedText(text, false, ['steps', 'book', 'ref'], 'reference')).toBe(renamed);
	});
	test('data that does not speak of it stays the same object', () => {
		const value: Json = { a: [{ b: '{$env.x}' }, 'y'], c: 1 };
		expect(renamedValue(value, ['env', 'y'], 'z')).toBe(value);
		expect(renamedValue(value, ['env', 'x'], 'z')).toEqual({ a: [{ b: '{$env.z}' }, 'y'], c: 1 });
	});
});

describe('a column of a dataset', () => {
	const collection: { path: string; value: Json } = {
		path: 'collections/c.yaml',
		value: {
			scenarios: [
				{
					id: 'plain',
					rows: 'd',
					steps: [
						{ id: 'a', send: 'GET /{$row.berth}/{$env.berth}', when: '$row.berth != ""' },
						{ id: 'b', send: 'GET /{$env.boat}' }
					]
				},
				{
					id: 'mapped',
					rows: { data: 'd.csv', names: { place: 'berth' } },
					steps: [{ id: 'a', send: 'GET /{$row.place}' }]
				},
				{
					id: 'other',
					rows: 'e',
					steps: [
						{ id: 'a', send: 'GET /{$row.berth}' },
						{ id: 'b', each: { data: 'd' }, send: 'GET /{$row.berth}' },
						{ id: 'c', each: 'e', send: 'GET /{$row.berth}' }
					]
				}
			]
		}
	};
	const isIt = (name: string) => name.replace(/\.csv$/, '') === 'd';
	test('is found where its dataset drives what speaks of it', () => {
		expect(
			usesOfColumn([collection], isIt, 'berth', 'berth').map(({ path, text }) => `${path.join('.')} ${text}`)
		).toEqual([
			'scenarios.0.steps.0.send GET /{$row.berth}/{$env.berth}',
			'scenarios.0.steps.0.when $row.berth != ""',
			'scenarios.1 place: berth',
			'scenarios.1.steps.0.send GET /{$row.place}',
			'scenarios.2.steps.1.send GET /{$row.berth}'
		]);
	});
	test('takes its uses along when it is renamed; mappings keep their names', () => {
		const to = { name: 'quay', title: 'Quay' };
		const after = withColumnRenamed(
			collection,
			isIt,
			{ name: 'berth', title: 'berth' },
			to
		) as typeof collection.value & {
			scenarios: { rows: Json; steps: { send: string; when?: string }[] }[];
		};
		const [plain, mapped, other] = after.scenarios;
		expect(plain!.steps.map(({ send, when }) => [send, when])).toEqual([
			['GET /{$row.quay}/{$env.quay}', '$row.quay != ""'],
			['GET /{$env.boat}', undefined]
		]);
		expect(mapped).toMatchObject({
			rows: { data: 'd.csv', names: { place: 'Quay' } },
			steps: [{ send: 'GET /{$row.place}' }]
		});
		expect(other!.steps.map(({ send }) => send)).toEqual([
			'GET /{$row.berth}',
			'GET /{$row.quay}',
			'GET /{$row.berth}'
		]);
	});
	test('is not looked for in other files', () => {
		expect(usesOfColumn([{ ...collection, path: 'connections/c.yaml' }], isIt, 'berth', 'berth')).toEqual([]);
	});
});

describe('a scenario that is called otherwise', () => {
	const docs: { path: string; value: Json }[] = [
		{
			path: 'collections/c.yaml',
			value: {
				scenarios: [
					{ id: 'old', steps: [{ id: 'old', send: 'GET /old' }] },
					{
						id: 'b',
						steps: [{ call: 'old' }, { call: 'c/old', with: { a: 'c/old' } }, { call: 'd/old' }, { call: 'older' }]
					}
				]
			}
		},
		{ path: 'collections/d.yaml', value: { scenarios: [{ id: 'old', steps: [{ call: 'c/old' }, { call: 'old' }] }] } },
		{ path: 'suites/s.yaml', value: { scenarios: ['c', 'c/old', 'd/old', { tag: 'old' }] } },
		{ path: 'environments/e.yaml', value: { variables: { old: 'c/old' } } }
	];
	test('is so where it stands, where it is called, and in suites, and nowhere else', () => {
		expect(docs.map((doc) => withScenarioRenamed(doc, 'c', 'old', 'new'))).toEqual([
			{
				scenarios: [
					{ id: 'new', steps: [{ id: 'old', send: 'GET /old' }] },
					{
						id: 'b',
						steps: [{ call: 'new' }, { call: 'c/new', with: { a: 'c/old' } }, { call: 'd/old' }, { call: 'older' }]
					}
				]
			},
			{ scenarios: [{ id: 'old', steps: [{ call: 'c/new' }, { call: 'old' }] }] },
			{ scenarios: ['c', 'c/new', 'd/old', { tag: 'old' }] },
			{ variables: { old: 'c/old' } }
		]);
	});
	test('what does not speak of it is the same object', () => {
		expect(withScenarioRenamed(docs[3]!, 'c', 'old', 'new')).toBe(docs[3]!.value);
		expect(withScenarioRenamed(docs[2]!, 'c', 'nobody', 'new')).toBe(docs[2]!.value);
	});
});
