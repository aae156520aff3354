import { describe, expect, test } from 'vitest';
import type { Json, JsonObject } from '../model/json.ts';
import {
	scenariosOf,
	stepsOf,
	withColumnNamed,
	withKeptRenamed,
	withScenarioAdded,
	withScenarioDuplicated,
	withScenarioMoved,
	withScenarioRemoved,
	withStepDuplicated,
	withStepMoved,
	withStepRemoved,
	withStepRenamed,
	withStepsAdded
} from './index.ts';

const collection: JsonObject = {
	heron: 1,
	title: 'Bookings',
	scenarios: [
		{
			id: 's',
			title: 'S',
			rows: 'nights.csv',
			steps: [
				{ id: 'a', send: 'GET /a', keep: { x: '$.x', y: '$.y' } },
				{ id: 'b', send: 'POST /{$steps.a.x}', title: 'B', body: { json: '{$row.stay}' }, checks: [{ status: 200 }] },
				{ id: 'c', send: 'GET /{$steps.b.x}', when: '{$steps.a.y}' }
			]
		},
		'no scenario',
		{ id: 't', title: 'T', steps: [{ id: 'a', send: 'GET /' }] }
	]
};
const ids = (changed: JsonObject, scenario = 0): string[] =>
	stepsOf(scenariosOf(changed)[scenario]).map(({ id }) => String(id));
const step = (changed: JsonObject, index: number, scenario = 0): Json =>
	stepsOf(scenariosOf(changed)[scenario])[index]!;

describe('an edit of a collection', () => {
	const before = structuredClone(collection);
	test.each<[string, JsonObject, string[], string[]]>([
		[
			'adds steps with ids of their own',
			withStepsAdded(collection, { scenario: 0, index: 1 }, [{ send: 'GET /1' }, { wait: '1 s' }]).collection,
			['a', 'step', 'step2', 'b', 'c'],
			['a']
		],
		[
			'duplicates a step behind itself',
			withStepDuplicated(collection, { scenario: 2, index: 0 }).collection,
			['a', 'b', 'c'],
			['a', 'a2']
		],
		['removes a step', withStepRemoved(collection, { scenario: 0, index: 1 }), ['a', 'c'], ['a']],
		[
			'moves a step down, before another',
			withStepMoved(collection, { scenario: 0, index: 0 }, { scenario: 0, index: 2 }),
			['b', 'a', 'c'],
			['a']
		],
		[
			'moves a step up',
			withStepMoved(collection, { scenario: 0, index: 2 }, { scenario: 0, index: 0 }),
			['c', 'a', 'b'],
			['a']
		],
		[
			'moves a step into another scenario, under an id that is free there',
			withStepMoved(collection, { scenario: 0, index: 0 }, { scenario: 2, index: 1 }),
			['b', 'c'],
			['a', 'a2']
		],
		[
			'leaves all as it is when there is no such step',
			withStepMoved(collection, { scenario: 0, index: 9 }, { scenario: 2, index: 0 }),
			['a', 'b', 'c'],
			['a']
		]
	])('%s', (_, changed, first, third) => {
		expect([ids(changed), ids(changed, 2)]).toEqual([first, third]);
		// what is no scenario is not lost by an edit beside it, and what was there is not touched
		expect((changed.scenarios as Json[])[1]).toBe('no scenario');
		expect(collection).toEqual(before);
	});

	test('puts steps in the place of one, of which all but what is sent stays', () => {
		const { collection: changed, ids: fresh } = withStepsAdded(
			collection,
			{ scenario: 0, index: 1 },
			[{ send: 'PUT /other', headers: { a: 'b' } }, { send: 'GET /more' }],
			1
		);
		expect(fresh).toEqual(['b', 'step']);
		expect(step(changed, 1)).toEqual({
			id: 'b',
			title: 'B',
			checks: [{ status: 200 }],
			send: 'PUT /other',
			headers: { a: 'b' }
		});
		expect(ids(changed)).toEqual(['a', 'b', 'step', 'c']);
	});
	test('renames a step where it is spoken of, and in its own scenario only', () => {
		const changed = withStepRenamed(collection, { scenario: 0, index: 0 }, 'a', 'first');
		expect(step(changed, 1)).toMatchObject({ send: 'POST /{$steps.first.x}' });
		expect(step(changed, 2)).toMatchObject({ when: '{$steps.first.y}' });
		expect(ids(changed, 2)).toEqual(['a']);
	});
	test('renames a kept value, in its order, and none of the same name that another step keeps', () => {
		const changed = withKeptRenamed(collection, { scenario: 0, index: 0 }, 'x', 'number');
		expect(JSON.stringify(step(changed, 0))).toContain('"keep":{"number":"$.x","y":"$.y"}');
		expect(step(changed, 1)).toMatchObject({ send: 'POST /{$steps.a.number}' });
		expect(step(changed, 2)).toMatchObject({ send: 'GET /{$steps.b.x}' });
	});
	test('gives a column a name in one scenario', () => {
		const changed = withColumnNamed(collection, 0, { title: 'Length of stay', from: 'stay', to: 'nights' });
		expect(scenariosOf(changed)[0]!.rows).toEqual({ data: 'nights.csv', names: { nights: 'Length of stay' } });
		expect(step(changed, 1)).toMatchObject({ body: { json: '{$row.nights}' } });
		const again = withColumnNamed(changed, 0, { title: 'Length of stay', from: 'nights', to: 'n' });
		expect(scenariosOf(again)[0]!.rows).toEqual({ data: 'nights.csv', names: { n: 'Length of stay' } });
	});

	const scenarioIds = (changed: JsonObject) => scenariosOf(changed).map(({ id }) => id);
	test.each<[string, JsonObject, unknown[]]>([
		['adds a scenario at the end', withScenarioAdded(collection, 'New').collection, ['s', undefined, 't', 'scenario']],
		['duplicates one behind itself', withScenarioDuplicated(collection, 0, 'S (copy)'), ['s', 's2', undefined, 't']],
		['removes one', withScenarioRemoved(collection, 0), [undefined, 't']],
		['moves one', withScenarioMoved(collection, 2, 0), ['t', 's', undefined]],
		['begins where there is none', withScenarioAdded({ heron: 1 }, 'New').collection, ['scenario']]
	])('%s', (_, changed, wanted) => {
		expect(scenarioIds(changed)).toEqual(wanted);
	});
});
