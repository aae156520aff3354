import { parseStep, type Step } from '#core/steps/index.ts';
import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { scenariosOf, stepsOf } from '#core/refactor/index.ts';
import type { StoredStep } from '$lib/wire.ts';
import { threadsOf, type Thread } from './threads.ts';

export interface ScenarioView {
	index: number;
	id: string;
	title: string;
	tags: string[];
	off: boolean;
	connection: string;
	/** As it is written there; empty when it goes as its collection does. */
	ownConnection: string;
	/** Its own credential; empty when it inherits one. */
	credential: string;
	/** As it is written; undefined when it runs once. */
	rows: Json | undefined;
	inputs: JsonObject;
	outputs: JsonObject | undefined;
	steps: StepView[];
	threads: Thread[];
}
export interface StepView {
	index: number;
	scenario: number;
	scenarioId: string;
	raw: JsonObject;
	step: Step;
}
/** What is drawn, top to bottom. */
export type Row =
	| { kind: 'scenario'; key: string; scenario: ScenarioView }
	| { kind: 'step'; key: string; scenario: ScenarioView; view: StepView }
	/** A step of a scenario that the step above calls, as it was done last. */
	| { kind: 'inner'; key: string; scenario: ScenarioView; index: number; step: StoredStep }
	| { kind: 'add'; key: string; scenario: ScenarioView }
	| { kind: 'new'; key: string };

// an edit shares what it does not change: that is parsed once
const parsed = new WeakMap<object, Step>();
const stepOf = (raw: JsonObject): Step => {
	let step = parsed.get(raw);
	if (!step) parsed.set(raw, (step = parseStep(raw)));
	return step;
};
const threadsKept = new WeakMap<object, Thread[]>();

/** The scenarios of a collection as its page shows them. */
export const viewScenarios = (collection: JsonObject): ScenarioView[] =>
	scenariosOf(collection).map((given, index) => {
		const id = String(given.id ?? '');
		const steps = stepsOf(given).map((raw, at) => ({
			index: at,
			scenario: index,
			scenarioId: id,
			raw,
			step: stepOf(raw)
		}));
		let threads = threadsKept.get(given);
		if (!threads) threadsKept.set(given, (threads = threadsOf(steps.map(({ step }) => step))));
		return {
			index,
			id,
			title: String(given.title ?? id),
			tags: Array.isArray(given.tags) ? given.tags.map(String) : [],
			off: given.off === true,
			connection: String(given.connection ?? collection.connection ?? ''),
			ownConnection: String(given.connection ?? ''),
			credential: String(given.credential ?? ''),
			rows: given.rows ?? undefined,
			inputs: isObject(given.inputs) ? (given.inputs as JsonObject) : {},
			outputs: isObject(given.outputs) ? (given.outputs as JsonObject) : undefined,
			steps,
			threads
		};
	});

/** @param innerOf what was done within a call */
export function rowsOf(scenarios: readonly ScenarioView[], innerOf: (view: StepView) => StoredStep[]): Row[] {
	const rows: Row[] = [];
	for (const scenario of scenarios) {
		rows.push({ kind: 'scenario', key: `s ${scenario.id} ${scenario.index}`, scenario });
		for (const view of scenario.steps) {
			const { id, call } = view.step;
			const key = `${scenario.id}/${id} ${scenario.index}.${id ? '' : view.index}`;
			rows.push({ kind: 'step', key, scenario, view });
			if (!call) continue;
			for (const step of innerOf(view))
				rows.push({ kind: 'inner', key: `i ${scenario.index} ${step.step}`, scenario, index: view.index, step });
		}
		rows.push({ kind: 'add', key: `a ${scenario.id} ${scenario.index}`, scenario });
	}
	rows.push({ kind: 'new', key: 'new' });
	return rows;
}
