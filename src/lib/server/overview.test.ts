import { createWorkspace, loadDocument, type LoadedDocument } from '#core/project/index.ts';
import { describe, expect, test } from 'vitest';
import type { CollectionBrief } from '$lib/wire.ts';
import { withChanges } from '../ui/shell/collections-now.ts';
import { findIn, stepOfSpan } from './finding.ts';
import { createCollectionsLog, overviewOf } from './overview.ts';

const collection = (name: string, title = name): LoadedDocument =>
	loadDocument(
		`collections/${name}.yaml`,
		`heron: 1\ntitle: "${title}"\nconnection: one\nscenarios:\n  - id: s\n    title: Look\n    tags: [smoke]\n    steps:\n      - { id: a, title: Ask, send: GET /berths }\n      - { id: b, wait: 1 ms }\n`
	)!;
const base = (order = '') => [
	loadDocument('heron.yaml', `heron: 1\n${order}`)!,
	loadDocument('connections/one.yaml', 'heron: 1\nbase: http://127.0.0.1:9\n')!
];
const together = (documents: LoadedDocument[], order = '') =>
	createWorkspace([...base(order), ...documents], new Set(documents.map(({ path }) => path)));

describe('what became of the collections since a page looked', () => {
	const [a, b, c] = [collection('a'), collection('b'), collection('c')];
	test.each<[string, LoadedDocument[], string, string[], string[] | undefined]>([
		['nothing', [a, b, c], '', [], undefined],
		['one was saved', [a, collection('b', 'Berths'), c], '', ['b'], undefined],
		['one came', [a, b, c, collection('d')], '', ['d'], ['a', 'b', 'c', 'd']],
		['one is gone', [a, c], '', [], ['a', 'c']],
		['they stand in another order', [a, b, c], 'order: [c, a]\n', [], ['c', 'a', 'b']]
	])('%s', (_, documents, order, changed, names) => {
		const log = createCollectionsLog();
		const first = log.now('p', together([a, b, c]), null);
		expect(first).toEqual({ version: expect.any(String) as string, collections: first.collections });
		const now = log.now('p', together(documents, order), first.version);
		expect(now.since).toBe(first.version);
		expect(now.collections.map(({ name }) => name)).toEqual(changed);
		expect(now.order).toEqual(names);
		// and whoever takes it over has what somebody has who asks for all
		const whole = log.now('p', together(documents, order), null).collections;
		expect(withChanges(first.collections, now)).toEqual(whole);
	});
	test('what did not change stays the same object, so that nothing of it is drawn anew', () => {
		const log = createCollectionsLog();
		const first = log.now('p', together([a, b, c]), null);
		const after = withChanges(first.collections, log.now('p', together([a, collection('b', 'B'), c]), first.version));
		expect(after.map((one, at) => one === first.collections[at])).toEqual([true, false, true]);
		expect(withChanges(after, { version: 'x', since: 'y', collections: [] })).toBe(after);
	});
	test('a version that is not known any more, or is another project’s, gives all', () => {
		const log = createCollectionsLog();
		const { version } = log.now('p', together([a]), null);
		for (let n = 0; n < 20; n++) log.now('p', together([collection('a', String(n))]), null);
		expect(log.now('p', together([a, b]), version).since).toBeUndefined();
		expect(log.now('q', together([a, b]), version).collections).toHaveLength(2);
		log.forget('p');
		expect(log.now('p', together([a]), version).since).toBeUndefined();
	});
	test('a brief says what lists show', () => {
		const [one] = createCollectionsLog().now('p', together([a]), null).collections;
		expect(one).toEqual({
			...{ name: 'a', title: 'a', folder: [], connection: 'one', through: ['one'] },
			scenarios: [{ id: 's', title: 'Look', tags: ['smoke'], off: false, count: 2 }]
		} satisfies CollectionBrief);
	});
});

test('an overview does not grow with the collections, nor with who uses a connection', () => {
	const sizeAt = (count: number) => {
		const documents = Array.from({ length: count }, (_, n) => collection(`c${String(n).padStart(5, '0')}`));
		const files = new Map(documents.map(({ path }) => [path, 1]));
		return overviewOf('p', together(documents), files);
	};
	const [small, large] = [sizeAt(300), sizeAt(1200)];
	expect(large.count).toBe(1200);
	expect(large.files).toEqual([]);
	// what cannot be read is listed nowhere else, and its name is taken
	const broken = new Map([['collections/broken.yaml', 1] as const, ['schemas/a.json', 1] as const]);
	expect(overviewOf('p', together([collection('a')]), broken).files).toEqual([...broken.keys()]);
	expect(large.connections[0]).toMatchObject({ moreUses: 1000, usedSteps: 1200 });
	expect(JSON.stringify(large).length).toBeLessThan(JSON.stringify(small).length * 1.05);
});

describe('finding', () => {
	const workspace = together([collection('a', 'Berths by the mill'), collection('b')]);
	test.each<[string, string, string[]]>([
		['a collection by its title', 'berths mill', ['collection Berths by the mill']],
		['a step by what it calls', 'step get /berths', ['step Ask', 'step Ask']],
		['a scenario by its kind and where it is', 'scenario b/s', ['scenario Look']],
		['nothing', 'no such thing', []]
	])('%s', (_, words, found) =>
		expect(findIn(workspace, words).map(({ kind, text }) => `${kind} ${text}`)).toEqual(found)
	);
	test('no more than a list shows', () => {
		const many = together(Array.from({ length: 40 }, (_, n) => collection(`c${n}`)));
		expect(findIn(many, '')).toHaveLength(12);
	});
	test('a span is that of a step, or of none', () => {
		expect(stepOfSpan(workspace, 'ffffffffffff')).toBeUndefined();
	});
});

test('of very many problems an overview has the first hundred, each conflict, and how many there are', () => {
	const wrong = loadDocument('collections/a.yaml', `heron: 1\nscenarios:\n${'  - steps: 1\n'.repeat(300)}`)!;
	const torn = loadDocument('collections/b.yaml', '<<<<<<< ours\nheron: 1\n=======\nheron: 2\n>>>>>>> theirs\n')!;
	const { problems, problemCount } = overviewOf('p', together([wrong, torn]), new Map());
	expect(problemCount).toBeGreaterThan(300);
	expect(problems).toHaveLength(101);
	expect(problems.at(-1)).toMatchObject({ file: 'collections/b.yaml', code: 'yaml.conflict' });
});
