import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import { withDatasetRenamed, withDocumentRenamed, type RenamedFolder } from './index.ts';

describe('a document is called otherwise wherever it is named', () => {
	test.each<[string, RenamedFolder, string, Json, Json]>([
		[
			'a connection in collections, scenarios and steps',
			'connections',
			'collections/a.yaml',
			{
				connection: 'old',
				scenarios: [{ connection: 'old', steps: [{ connection: 'old' }, { connection: 'other', title: 'old' }] }]
			},
			{
				connection: 'new',
				scenarios: [{ connection: 'new', steps: [{ connection: 'new' }, { connection: 'other', title: 'old' }] }]
			}
		],
		['a connection in a credential', 'connections', 'credentials/a.yaml', { connection: 'old' }, { connection: 'new' }],
		[
			'a connection that a stand-in answers for, in its place',
			'connections',
			'environments/a.yaml',
			{ standIns: { x: 'old', old: 's', y: 't' } },
			{ standIns: { x: 'old', new: 's', y: 't' } }
		],
		[
			'a stand-in',
			'stand-ins',
			'environments/a.yaml',
			{ standIns: { old: 'old', x: 'other' } },
			{ standIns: { old: 'new', x: 'other' } }
		],
		[
			'a stand-in that a step waits at',
			'stand-ins',
			'collections/a.yaml',
			{ scenarios: [{ steps: [{ receive: 'POST /', from: 'old' }] }] },
			{ scenarios: [{ steps: [{ receive: 'POST /', from: 'new' }] }] }
		],
		[
			'a credential where environments differ',
			'credentials',
			'connections/a.yaml',
			{ credential: 'none', environments: { e: { credential: 'old' } } },
			{ credential: 'none', environments: { e: { credential: 'new' } } }
		],
		[
			'a credential beside another',
			'credentials',
			'credentials/a.yaml',
			{ beside: 'old', user: 'old' },
			{ beside: 'new', user: 'old' }
		],
		[
			'an environment that is chosen when none is named',
			'environments',
			'heron.yaml',
			{ environment: 'old', variables: { environment: 'old' } },
			{ environment: 'new', variables: { environment: 'old' } }
		],
		[
			'an environment that a suite runs in',
			'environments',
			'suites/a.yaml',
			{ environment: 'old', scenarios: ['old'] },
			{ environment: 'new', scenarios: ['old'] }
		],
		[
			'an environment where a connection differs',
			'environments',
			'connections/a.yaml',
			{ base: 'old', environments: { old: { base: 'x' }, other: {} } },
			{ base: 'old', environments: { new: { base: 'x' }, other: {} } }
		],
		[
			'an environment with values of this machine',
			'environments',
			'local.yaml',
			{ variables: { old: 1 }, environments: { old: { a: 1 } } },
			{ variables: { old: 1 }, environments: { new: { a: 1 } } }
		],
		[
			'a collection in suites, with its scenarios',
			'collections',
			'suites/a.yaml',
			{ scenarios: ['old', 'old/one', 'older/one', { tag: 'old' }] },
			{ scenarios: ['new', 'new/one', 'older/one', { tag: 'old' }] }
		],
		[
			'a collection in calls; one of its own scenarios may have its name',
			'collections',
			'collections/a.yaml',
			{ scenarios: [{ steps: [{ call: 'old/x' }, { call: 'old' }] }] },
			{ scenarios: [{ steps: [{ call: 'new/x' }, { call: 'old' }] }] }
		],
		[
			'a collection in the quarantine',
			'collections',
			'quarantine.yaml',
			{ failures: [{ scenario: 'old/x' }] },
			{ failures: [{ scenario: 'new/x' }] }
		],
		['nothing elsewhere', 'connections', 'suites/a.yaml', { connection: 'old' }, { connection: 'old' }],
		['nothing in what is no document', 'connections', 'collections/a.yaml', ['old'], ['old']]
	])('%s', (_, folder, path, before, after) => {
		expect(withDocumentRenamed({ path, value: before }, folder, 'old', 'new')).toEqual(after);
	});
});

test('a dataset is called otherwise wherever it is named, and written there as it was', () => {
	const isIt = (name: string) => ['old.csv', 'old', 'datasets/old.csv', 'datasets/old'].includes(name);
	const names = { from: 'old.csv', to: 'new.csv', bare: 'new' };
	const steps: Json[] = [
		{ each: 'old.csv', title: 'old.csv' },
		{ each: { data: 'old', take: '1-3' } },
		{ each: '{$env.old}' },
		{ each: ['old'], body: { file: 'datasets/old.csv' } }
	];
	expect(
		withDatasetRenamed(
			{
				path: 'collections/a.yaml',
				value: { scenarios: [{ rows: 'old', steps }, { rows: { data: 'datasets/old.csv' } }, { rows: 'older' }] }
			},
			isIt,
			names
		)
	).toEqual({
		scenarios: [
			{
				rows: 'new',
				steps: [
					{ each: 'new.csv', title: 'old.csv' },
					{ each: { data: 'new', take: '1-3' } },
					{ each: '{$env.old}' },
					{ each: ['old'], body: { file: 'datasets/new.csv' } }
				]
			},
			{ rows: { data: 'datasets/new.csv' } },
			{ rows: 'older' }
		]
	});
	expect(
		withDatasetRenamed(
			{
				path: 'stand-ins/s.yaml',
				value: { answers: [{ row: { from: 'old' } }], stores: { boats: { from: 'old.csv' }, old: { from: [] } } }
			},
			isIt,
			names
		)
	).toEqual({ answers: [{ row: { from: 'new' } }], stores: { boats: { from: 'new.csv' }, old: { from: [] } } });
	const plain = { path: 'collections/a.yaml', value: { scenarios: [{ rows: 'old' }, { rows: 'datasets/old' }] } };
	expect(withDatasetRenamed(plain, isIt, { ...names, bare: 'new.csv' })).toEqual({
		scenarios: [{ rows: 'new.csv' }, { rows: 'datasets/new.csv' }]
	});
	const other = { path: 'suites/s.yaml', value: { scenarios: ['old'] } };
	expect(withDatasetRenamed(other, isIt, names)).toBe(other.value);
});
