import { describe, expect, test } from 'vitest';
import type { Json } from '../model/json.ts';
import { countUses, renamedDocument, renamedText, usesOfName } from './index.ts';

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
		expect(renamedText(text, bare, 'env', 'host', 'name')).toBe(renamed);
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
