import { afterEach, beforeEach, describe, expect, test, vi } from 'vitest';
import type { Json, JsonObject } from '#core/model/json.ts';
import { toasts } from '../common/toast.svelte.ts';
import { DocumentState } from '../common/document.svelte.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import { Ledger } from './ledger.svelte.ts';
import type { StepView } from './view.ts';

const value: Json = {
	heron: 1,
	title: 'Bookings',
	connection: 'reedmere',
	scenarios: [
		{
			id: 's',
			title: 'S',
			steps: [
				{ id: 'a', send: 'GET /a', keep: { x: '$.x' } },
				{ id: 'b', send: 'GET /{$steps.a.x}', query: { y: '{$steps.a.x}' } },
				{ id: 'ab', send: 'GET /{$steps.b.x}' }
			]
		},
		{ id: 't', title: 'T', connection: 'mirror', steps: [{ id: 'a', send: 'GET /' }] }
	]
};
let ledger: Ledger;
beforeEach(() => {
	vi.useFakeTimers();
	const document = new DocumentState('p', 'collections/bookings.yaml', { revision: 1, value, problems: [] });
	ledger = new Ledger(
		{ name: 'p', environment: 'local', overview: { connections: [] } } as unknown as ProjectState,
		document,
		'bookings'
	);
});
afterEach(() => vi.useRealTimers());

const ids = (scenario = 0) => ledger.scenarios[scenario]!.steps.map((view) => view.step.id);
const view = (scenario: number, step: number): StepView => ledger.scenarios[scenario]!.steps[step]!;
const raw = (scenario: number, step: number) =>
	((ledger.value.scenarios as JsonObject[])[scenario]!.steps as JsonObject[])[step]!;

describe('the ledger', () => {
	test('draws a head, its steps and a line to add, for each scenario', () => {
		expect(ledger.rows.map((row) => row.kind)).toEqual([
			'scenario',
			'step',
			'step',
			'step',
			'add',
			'scenario',
			'step',
			'add',
			'new'
		]);
		expect(new Set(ledger.rows.map((row) => row.key)).size).toBe(ledger.rows.length);
		expect(ledger.stepCount).toBe(4);
	});
	test('a scenario inherits its connection or has its own', () => {
		expect(ledger.scenarios.map((scenario) => scenario.connection)).toEqual(['reedmere', 'mirror']);
	});
	test('a step is added behind another and opened', () => {
		ledger.addStep(ledger.scenarios[0]!, 1);
		expect(ids()).toEqual(['a', 'step', 'b', 'ab']);
		expect(ledger.open).toEqual({ scenario: 's', step: 'step' });
	});
	test('the undo of a message takes back what it tells, and is offered no more when something was done after it', () => {
		ledger.deleteStep(view(0, 1));
		const offered = toasts.list.at(-1)!.action!;
		ledger.setStep(view(0, 0), ['title'], 'A');
		expect(offered.holds!()).toBe(false);
		ledger.takeBack();
		expect(offered.holds!()).toBe(true);
		offered.run();
		expect(ids()).toEqual(['a', 'b', 'ab']);
		ledger.deleteScenario(ledger.scenarios[1]!);
		expect(toasts.list.at(-1)!.text).toBe('“T” is deleted, with 1 step.');
	});
	test('what is taken back gives the focus to the step that it came from', () => {
		ledger.duplicateStep(view(0, 1));
		expect(ledger.focusView?.index).toBe(2);
		ledger.takeBack();
		expect(ledger.focusView?.step.id).toBe('b');
		ledger.takeBack(true);
		expect(ledger.focusView?.step.id).toBe('b');
		ledger.deleteStep(view(0, 0));
		ledger.takeBack();
		expect(ids()[0]).toBe('a');
		expect(ledger.focusView?.step.id).toBe('b');
	});
	test('a copy has a name of its own', () => {
		ledger.duplicateStep(view(0, 1));
		expect(ids()).toEqual(['a', 'b', 'b2', 'ab']);
		expect(raw(0, 2)).toMatchObject({ send: 'GET /{$steps.a.x}' });
	});
	test('deleting the open step closes it and goes to the next', () => {
		ledger.toggle(view(0, 1));
		ledger.deleteStep(view(0, 1));
		expect(ids()).toEqual(['a', 'ab']);
		expect(ledger.open).toBeUndefined();
		expect(ledger.focus).toEqual({ scenario: 's', step: 'ab' });
		ledger.document.undo();
		expect(ids()).toEqual(['a', 'b', 'ab']);
	});
	test.each([
		[0, 2, ['b', 'ab', 'a']],
		[2, 0, ['ab', 'a', 'b']],
		[0, -1, ['a', 'b', 'ab']],
		[2, 3, ['a', 'b', 'ab']]
	])('a step moves from %d to %d', (from, to, wanted) => {
		ledger.moveStep(view(0, from), to);
		expect(ids()).toEqual(wanted);
	});
	test('a step dropped before another takes its place, whichever way it came', () => {
		ledger.dropStep({ scenario: 0, index: 0 }, { scenario: 0, index: 2 });
		expect(ids()).toEqual(['b', 'a', 'ab']);
		ledger.dropStep({ scenario: 0, index: 2 }, { scenario: 0, index: 0 });
		expect(ids()).toEqual(['ab', 'b', 'a']);
	});
	test('a step dropped into another scenario gets a free id there', () => {
		ledger.dropStep({ scenario: 0, index: 0 }, { scenario: 1, index: 0 });
		expect(ids(0)).toEqual(['b', 'ab']);
		expect(ids(1)).toEqual(['a2', 'a']);
	});
	test('renaming a step renames its uses, and those of no other', () => {
		ledger.renameStep(view(0, 0), 'first');
		expect(raw(0, 1)).toEqual({ id: 'b', send: 'GET /{$steps.first.x}', query: { y: '{$steps.first.x}' } });
		expect(raw(0, 2)).toMatchObject({ send: 'GET /{$steps.b.x}' });
		ledger.renameStep(view(0, 1), 'ab');
		expect(ids()).toEqual(['first', 'b', 'ab']);
	});
	test('switching off is a key that comes and goes', () => {
		ledger.switchStep(view(0, 0));
		expect(raw(0, 0)).toMatchObject({ off: true });
		ledger.switchStep(view(0, 0));
		expect(raw(0, 0)).not.toHaveProperty('off');
	});
	test('scenarios are added, copied, moved and deleted', () => {
		ledger.addScenario();
		ledger.duplicateScenario(ledger.scenarios[0]!);
		ledger.moveScenario(ledger.scenarios[0]!, 3);
		ledger.deleteScenario(ledger.scenarios[1]!);
		expect(ledger.scenarios.map((scenario) => scenario.id)).toEqual(['s2', 'scenario', 's']);
	});
	test.each([
		['send', ['send', 'answer']],
		['checks', ['answer', 'checks']],
		['keep', ['answer', 'keep']]
	] as const)('%s is shown beside what goes with it', (facet, pair) => {
		ledger.show(facet);
		expect(ledger.facets).toEqual(pair);
	});
	test('problems of other rows are no problems of a row, and warnings are apart', () => {
		const problem = (path: (string | number)[], more = {}) => ({
			code: 'model.wrong' as const,
			message: 'm',
			file: 'f',
			path,
			...more
		});
		ledger.document.problems = [problem(['scenarios', 0, 'steps', 1, 'send']), problem(['scenarios', 1, 'steps', 1])];
		ledger.document.warnings = [
			problem(['scenarios', 0, 'steps', 1, 'keep'], { code: 'lint.unusedOutput' }),
			problem(['scenarios', 0, 'steps', 1, 'send'], { code: 'lint.slashes' })
		];
		expect(ledger.warningsOf(view(0, 1)).map(({ code }) => code)).toEqual(['lint.slashes']);
		expect(ledger.problemsOf(view(0, 1))).toHaveLength(1);
		expect(ledger.problemsOf(view(0, 0))).toHaveLength(0);
	});
});
