import { describe, expect, test } from 'vitest';
import { createWorkspace, loadDocument } from '../project/index.ts';
import { allScenarios } from '../run/index.ts';
import { withCollectionPlaced, withDocumentRenamed, withoutOrder, type Placement } from './index.ts';

const text = (folder = '') => `heron: 1\n${folder && `folder: ${folder}\n`}scenarios: [{ id: s, steps: [] }]\n`;
const documents = (order: string[] | undefined, folders: Record<string, string> = {}) =>
	[
		['heron.yaml', `heron: 1\n${order ? `order: [${order.join(', ')}]\n` : ''}`],
		...['a', 'b', 'c', 'd'].map((name) => [`collections/${name}.yaml`, text(folders[name])])
	].map(([path, content]) => loadDocument(path!, content!)!);
const names = (order?: string[]) => [...createWorkspace(documents(order), new Set()).collections.keys()];

describe('the order of collections', () => {
	test.each<[string, string[] | undefined, string[]]>([
		['is that of their names', undefined, ['a', 'b', 'c', 'd']],
		['is the project’s own', ['d', 'c', 'b', 'a'], ['d', 'c', 'b', 'a']],
		['has those at its end that are not named', ['c'], ['c', 'a', 'b', 'd']],
		['leaves out what is not there, or named twice', ['c', 'nobody', 'c', 'a'], ['c', 'a', 'b', 'd']]
	])('%s', (_, order, expected) => expect(names(order)).toEqual(expected));

	test('is that of a run of everything', () => {
		const workspace = createWorkspace(documents(['c', 'a']), new Set());
		expect(allScenarios(workspace).map(({ collection }) => collection)).toEqual(['c', 'a', 'b', 'd']);
	});
	test('a name of it that no collection has is noted, and stops nothing', () => {
		const { problems, warnings } = createWorkspace(documents(['c', 'bb']), new Set());
		expect(problems).toEqual([]);
		expect(warnings).toMatchObject([{ file: 'heron.yaml', message: 'there is no collection "bb": did you mean "b"?' }]);
	});
});

describe('a collection is put elsewhere', () => {
	test.each<[string, string[], string, Placement, string[] | undefined, string | undefined]>([
		['before another', ['a', 'b', 'c', 'd'], 'd', { before: 'b', folder: '' }, ['a', 'd', 'b', 'c'], undefined],
		['at the end', ['a', 'b', 'c', 'd'], 'a', { folder: '' }, ['b', 'c', 'd', 'a'], undefined],
		['where it stands', ['a', 'b', 'c', 'd'], 'a', { before: 'b', folder: '' }, undefined, undefined],
		[
			'into a folder, where it stands',
			['a', 'b', 'c', 'd'],
			'a',
			{ before: 'b', folder: 'Locks/Night' },
			undefined,
			'Locks/Night'
		],
		['before one that is not there', ['a', 'b'], 'a', { before: 'x', folder: '' }, ['b', 'a'], undefined]
	])('%s', (_, present, name, placement, order, folder) => {
		const changed = withCollectionPlaced(documents(undefined), present, name, placement);
		expect((changed.get('heron.yaml') as { order?: string[] } | undefined)?.order).toEqual(order);
		expect((changed.get(`collections/${name}.yaml`) as { folder?: string } | undefined)?.folder).toBe(folder);
		expect(changed.size).toBe(Number(order !== undefined) + Number(folder !== undefined));
	});
	test('out of its folder: the key goes', () => {
		const changed = withCollectionPlaced(documents(undefined, { a: 'Locks' }), ['a', 'b', 'c', 'd'], 'a', {
			before: 'b',
			folder: ''
		});
		expect(changed.get('collections/a.yaml')).toEqual({ heron: 1, scenarios: [{ id: 's', steps: [] }] });
	});
	test('the order goes, and names are the order again', () => {
		expect(withoutOrder(documents(['d', 'a']))).toEqual(new Map([['heron.yaml', { heron: 1 }]]));
		expect(withoutOrder(documents(undefined))).toEqual(new Map());
	});
	test('the order follows a collection that is called otherwise', () => {
		const [project] = documents(['d', 'a']);
		expect(withDocumentRenamed(project!, 'collections', 'd', 'locks')).toEqual({ heron: 1, order: ['locks', 'a'] });
	});
});
