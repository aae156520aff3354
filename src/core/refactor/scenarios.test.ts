import { describe, expect, it } from 'vitest';
import type { Json } from '../model/json.ts';
import { withScenariosChanged, type ScenarioChange } from './index.ts';

const step = { id: 's', send: 'GET /' };
const docs = (): { path: string; value: Json }[] => [
	{
		path: 'collections/a.yaml',
		value: {
			heron: 1,
			connection: 'one',
			scenarios: [
				{ id: 'x', title: 'The first', tags: ['smoke'], steps: [step, { id: 'c', call: 'y' }] },
				{ id: 'y', steps: [step] },
				{ id: 'z', off: true, steps: [{ id: 'c', call: 'x' }] }
			]
		}
	},
	{
		path: 'collections/b.yaml',
		value: { heron: 1, connection: 'two', scenarios: [{ id: 'x', steps: [{ id: 'c', call: 'a/x' }] }] }
	},
	{ path: 'suites/s.yaml', value: { heron: 1, scenarios: ['a/x', 'b', { tag: 'smoke' }] } },
	{ path: 'heron.yaml', value: { heron: 1 } }
];
const after = (keys: string[], change: ScenarioChange) =>
	Object.fromEntries(withScenariosChanged(docs(), keys, change)) as Record<
		string,
		{ scenarios: { id: string; steps: object[]; [key: string]: unknown }[] }
	>;

describe('scenarios that were chosen', () => {
	it.each<[string, string[], ScenarioChange, (found: ReturnType<typeof after>) => unknown, unknown]>([
		[
			'are tagged',
			['a/x', 'a/y'],
			{ do: 'tag', tag: 'slow' },
			(found) => found['collections/a.yaml']!.scenarios.map(({ tags }) => tags),
			[['smoke', 'slow'], ['slow'], undefined]
		],
		[
			'lose a tag',
			['a/x'],
			{ do: 'untag', tag: 'smoke' },
			(found) => 'tags' in found['collections/a.yaml']!.scenarios[0]!,
			false
		],
		[
			'are switched off',
			['a/y'],
			{ do: 'off' },
			(found) => found['collections/a.yaml']!.scenarios.map(({ off }) => off),
			[undefined, true, true]
		],
		['are switched on', ['a/z'], { do: 'on' }, (found) => 'off' in found['collections/a.yaml']!.scenarios[2]!, false],
		[
			'are doubled, behind the first',
			['a/x'],
			{ do: 'duplicate' },
			(found) => found['collections/a.yaml']!.scenarios.map(({ id, title }) => `${id} ${String(title)}`),
			['x The first', 'x2 The first, a copy', 'y undefined', 'z undefined']
		],
		[
			'are deleted, in suites as well',
			['a/x', 'a/z'],
			{ do: 'delete' },
			(found) => [found['collections/a.yaml']!.scenarios.map(({ id }) => id), found['suites/s.yaml']!.scenarios],
			[['y'], ['b', { tag: 'smoke' }]]
		],
		['that are not there change nothing', ['a/gone', 'c/x'], { do: 'delete' }, (found) => found, {}]
	])('%s', (_, keys, change, look, wanted) => {
		expect(look(after(keys, change))).toEqual(wanted);
	});
	it('move, and whoever speaks of them follows', () => {
		const found = after(['a/x'], { do: 'move', to: 'b' });
		expect(found['collections/a.yaml']!.scenarios).toEqual([
			{ id: 'y', steps: [step] },
			{ id: 'z', off: true, steps: [{ id: 'c', call: 'b/x2' }] }
		]);
		expect(found['collections/b.yaml']!.scenarios).toEqual([
			{ id: 'x', steps: [{ id: 'c', call: 'x2' }] },
			{
				id: 'x2',
				title: 'The first',
				tags: ['smoke'],
				connection: 'one',
				steps: [step, { id: 'c', call: 'a/y' }]
			}
		]);
		expect(found['suites/s.yaml']!.scenarios).toEqual(['b/x2', 'b', { tag: 'smoke' }]);
		expect(Object.keys(found)).not.toContain('heron.yaml');
	});
	it('move together, and go on calling each other', () => {
		const found = after(['a/x', 'a/y', 'a/z'], { do: 'move', to: 'b' });
		expect(found['collections/a.yaml']!.scenarios).toEqual([]);
		expect(found['collections/b.yaml']!.scenarios.map(({ id, steps }) => [id, steps])).toEqual([
			['x', [{ id: 'c', call: 'x2' }]],
			['x2', [step, { id: 'c', call: 'y' }]],
			['y', [step]],
			['z', [{ id: 'c', call: 'x2' }]]
		]);
	});
	it('that are in the collection already stay where they are', () => {
		expect(after(['b/x'], { do: 'move', to: 'b' })).toEqual({});
		expect(after(['a/x'], { do: 'move', to: 'nowhere' })).toEqual({});
	});
	it('do not take over a credential that was not theirs', () => {
		const [first, second] = docs();
		const other = { ...second!, value: { ...(second!.value as object), credential: 'clerk' } as Json };
		const moved = withScenariosChanged([first!, other], ['a/y'], { do: 'move', to: 'b' }).get(
			'collections/b.yaml'
		) as unknown as {
			scenarios: { credential?: string }[];
		};
		expect(moved.scenarios[1]!.credential).toBe('none');
	});
});
