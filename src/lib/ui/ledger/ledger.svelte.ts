import {
	scenariosOf,
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
	withStepsAdded,
	type StepPlace
} from '#core/refactor/index.ts';
import type { Problem } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { SvelteMap } from 'svelte/reactivity';
import { api, messageOf } from '../common/api.ts';
import type { DocumentState } from '../common/document.svelte.ts';
import { setIn, type Path } from '../common/edit.ts';
import { toasts, undoable } from '../common/toast.svelte.ts';
import type { ProjectState } from '../shell/project.svelte.ts';
import type { RowsState } from './rows.svelte.ts';
import { Sending } from './sending.svelte.ts';
import { rowsOf, viewScenarios, type ScenarioView, type StepView } from './view.ts';

export type Facet = 'send' | 'answer' | 'keep' | 'checks';
export const FACETS: readonly Facet[] = ['send', 'answer', 'keep', 'checks'];

/** Each facet beside the one that goes with it. */
const PAIRS: Record<Facet, [Facet, Facet]> = {
	send: ['send', 'answer'],
	answer: ['send', 'answer'],
	keep: ['answer', 'keep'],
	checks: ['answer', 'checks']
};
const isName = (text: string): boolean => /^[A-Za-z_]\w*$/.test(text);
const placeOf = (view: StepView): StepPlace => ({ scenario: view.scenario, index: view.index });

/** A collection on the screen: its document, what is sent of it, and what is open. */
export class Ledger {
	readonly project: ProjectState;
	readonly document: DocumentState;
	readonly name: string;
	readonly sending: Sending;
	/** A place in the answer that somebody wants to see. */
	shown: { step: string; path: Path } | undefined = $state.raw();
	open: { scenario: string; step: string } | undefined = $state.raw();
	focus: { scenario: string; step: string } | undefined = $state.raw();
	facets: [Facet, Facet] = $state.raw(['send', 'answer']);
	litThread = $state('');
	/** The scenario whose id, inputs and outputs are open. */
	inOut = $state('');
	/** Rows at which scenarios stand, by their id. */
	rowsAt = new SvelteMap<string, RowsState>();
	/** A text that is to become steps, and where: in place of `replaced` steps from `at` on. */
	pasting: { scenario: ScenarioView; at: number; replaced: number; text: string } | undefined = $state.raw();
	/** Counts what changed beside the collection that checks look at: files of baselines. */
	round = $state(0);
	#renaming: Promise<void> | undefined;

	constructor(project: ProjectState, document: DocumentState, name: string) {
		this.project = project;
		this.document = document;
		this.name = name;
		this.sending = new Sending(project, document, name);
	}

	get value(): JsonObject {
		return isObject(this.document.value) ? (this.document.value as JsonObject) : {};
	}
	get title(): string {
		return String(this.value.title ?? this.name);
	}
	/** The credential of the collection itself. */
	get credential(): string {
		return String(this.value.credential ?? '');
	}
	/** What differs from the commit, by `scenario` and `scenario/step`. */
	get marks(): Record<string, 'new' | 'changed'> {
		return this.project.marksOf(this.name);
	}
	get connection(): string {
		return String(this.value.connection ?? '');
	}

	scenarios = $derived.by(() => viewScenarios(this.value));
	rows = $derived.by(() => rowsOf(this.scenarios, (view) => this.sending.innerOf(view)));
	stepCount = $derived(this.scenarios.reduce((n, scenario) => n + scenario.steps.length, 0));

	/** The row with which steps of a scenario are looked at and sent by hand; undefined when it has none. */
	rowOf(scenario: string): number | undefined {
		return this.scenarios.find((one) => one.id === scenario)?.rows === undefined
			? undefined
			: (this.rowsAt.get(scenario)?.number ?? 1);
	}
	placeOf(view: StepView): Path | undefined {
		return this.shown?.step === `${view.scenarioId}/${view.step.id}` ? this.shown.path : undefined;
	}
	/** Shows a place of the answer. */
	showPlace(view: StepView, path: Path): void {
		this.shown = { step: `${view.scenarioId}/${view.step.id}`, path };
	}
	judgeAnew(): void {
		this.round++;
	}
	problemsOf(view: StepView): Problem[] {
		const at = this.pathOf(view);
		return this.document.problems.filter((problem) => at.every((key, i) => problem.path[i] === key));
	}
	/** What is seldom meant; a value that nobody uses is said beside the value. */
	warningsOf(view: StepView): Problem[] {
		const at = this.pathOf(view);
		return this.document.warnings.filter(
			({ code, path }) => code !== 'lint.unusedOutput' && at.every((key, i) => path[i] === key)
		);
	}
	isOpen(view: StepView): boolean {
		return this.open?.scenario === view.scenarioId && this.open.step === view.step.id;
	}
	get openView(): StepView | undefined {
		return this.open && this.viewAt(this.open);
	}
	get focusView(): StepView | undefined {
		const at = this.focus ?? this.open;
		return at && this.viewAt(at);
	}
	/** The step of a scenario, as it stands now; undefined when it is gone. */
	viewAt({ scenario, step }: { scenario: string; step: string }): StepView | undefined {
		return this.scenarios.find(({ id }) => id === scenario)?.steps.find((view) => view.step.id === step);
	}
	toggle(view: StepView): void {
		const at = { scenario: view.scenarioId, step: view.step.id };
		this.focus = at;
		this.open = this.isOpen(view) ? undefined : at;
	}
	/** Shows a facet beside the one that goes with it. */
	show(facet: Facet): void {
		this.facets = PAIRS[facet];
	}

	// edits

	pathOf(view: StepView): Path {
		return ['scenarios', view.scenario, 'steps', view.index];
	}
	setStep(view: StepView, path: Path, value: Json | undefined, label = 'the change'): void {
		this.document.set([...this.pathOf(view), ...path], value, label);
	}
	setScenario(scenario: ScenarioView, key: string, value: Json | undefined): void {
		this.document.set(['scenarios', scenario.index, key], value, 'the change');
	}
	fix({ label, edits }: NonNullable<Problem['fix']>): void {
		let value = this.document.value;
		for (const edit of edits) value = setIn(value, edit.path, edit.value);
		this.document.replace(value, label);
	}
	addStep(scenario: ScenarioView, at = scenario.steps.length, raw: JsonObject = { send: 'GET /' }): void {
		this.addSteps(scenario, at, [raw]);
	}
	/** Puts several steps in, as one change; opens the first. Where it takes the place of one, only what is sent is another. */
	addSteps(scenario: ScenarioView, at: number, list: JsonObject[], replaced = 0): void {
		const place = { scenario: scenario.index, index: at };
		const { collection, ids } = withStepsAdded(this.value, place, list, replaced);
		this.document.replace(collection, list.length === 1 ? 'adding a step' : 'adding steps');
		this.open = this.focus = { scenario: scenario.id, step: ids[0]! };
		this.facets = ['send', 'answer'];
	}
	duplicateStep(view: StepView): void {
		const { collection, id } = withStepDuplicated(this.value, placeOf(view));
		this.document.replace(collection, 'duplicating a step');
		this.focus = { scenario: view.scenarioId, step: id };
	}
	deleteStep(view: StepView): void {
		const { steps } = this.scenarios[view.scenario]!;
		const left = withStepRemoved(this.value, placeOf(view));
		const undo = undoable(this.document, () => this.document.replace(left, 'deleting a step'));
		const next = steps[view.index + 1] ?? steps[view.index - 1];
		this.focus = next ? { scenario: view.scenarioId, step: next.step.id } : undefined;
		if (this.isOpen(view)) this.open = undefined;
		toasts.show(`Step “${view.step.title || view.step.id}” is deleted.`, 'note', undo);
	}
	/** Takes the last edit back, or makes it again; a step that had the focus and is gone gives it to its neighbour. */
	takeBack(again = false): void {
		const view = this.focusView;
		if (again) this.document.redo();
		else this.document.undo();
		const gone = view && !this.viewAt({ scenario: view.scenarioId, step: view.step.id });
		if (!gone) return;
		const steps = this.scenarios.find(({ id }) => id === view.scenarioId)?.steps ?? [];
		// what was added stood behind the step that was worked with
		const near = steps[view.index - (again ? 0 : 1)] ?? steps.at(again ? -1 : 0);
		this.focus = near && { scenario: near.scenarioId, step: near.step.id };
	}
	/** @param to where it stands afterwards, in its scenario */
	moveStep(view: StepView, to: number): void {
		if (to < 0 || to >= this.scenarios[view.scenario]!.steps.length || to === view.index) return;
		this.dropStep(placeOf(view), { scenario: view.scenario, index: to > view.index ? to + 1 : to });
	}
	/** Moves a step before another one, in whatever scenario that stands. */
	dropStep(from: StepPlace, to: StepPlace): void {
		if (!this.scenarios[from.scenario] || !this.scenarios[to.scenario]) return;
		this.document.replace(withStepMoved(this.value, from, to), 'moving a step');
	}
	switchStep(view: StepView): void {
		this.setStep(view, ['off'], view.step.off ? undefined : true, view.step.off ? 'switching on' : 'switching off');
	}
	renameStep(view: StepView, id: string): void {
		const before = view.step.id;
		if (!id || id === before) return;
		const { steps } = this.scenarios[view.scenario]!;
		if (steps.some(({ step }) => step.id === id))
			return void toasts.show(`Another step here is called “${id}”.`, 'trouble');
		this.document.replace(withStepRenamed(this.value, placeOf(view), before, id), 'renaming a step');
		this.sending.renameStep(view.scenarioId, before, id);
		if (this.open?.step === before) this.open = { scenario: view.scenarioId, step: id };
		this.focus = { scenario: view.scenarioId, step: id };
	}
	/** Has a column called otherwise in a scenario, by those who use it too. */
	renameColumn(scenario: ScenarioView, title: string, from: string, to: string): void {
		if (to === from || !isName(to)) return;
		const next = withColumnNamed(this.value, scenario.index, { title, from, to });
		this.document.replace(next, `calling ${title} ${to}`);
	}
	/** Gives a kept value another name, wherever later steps use it. */
	renameKept(view: StepView, from: string, to: string): void {
		if (to === from) return;
		if (!isName(to)) return void toasts.show(`“${to}” cannot be a name: letters, digits and _ can.`, 'trouble');
		if (Object.hasOwn(view.raw.keep as JsonObject, to))
			return void toasts.show(`This step keeps a “${to}” already.`, 'trouble');
		this.document.replace(withKeptRenamed(this.value, placeOf(view), from, to), `renaming ${from}`);
	}

	/** @returns its id */
	addScenario(): string {
		const { collection, id } = withScenarioAdded(this.value, 'New scenario');
		this.document.replace(collection, 'adding a scenario');
		return id;
	}
	duplicateScenario(scenario: ScenarioView): void {
		const next = withScenarioDuplicated(this.value, scenario.index, `${scenario.title} (copy)`);
		this.document.replace(next, 'duplicating a scenario');
	}
	deleteScenario(scenario: ScenarioView): void {
		const left = withScenarioRemoved(this.value, scenario.index);
		const undo = undoable(this.document, () => this.document.replace(left, 'deleting a scenario'));
		toasts.show(`“${scenario.title}” is deleted, with ${counted(scenario.steps.length, 'step')}.`, 'note', undo);
	}
	moveScenario(scenario: ScenarioView, to: number): void {
		if (to < 0 || to >= scenariosOf(this.value).length) return;
		this.document.replace(withScenarioMoved(this.value, scenario.index, to), 'moving a scenario');
	}

	/** Has a scenario called otherwise, by those who call it and by suites too. One after the other: each has the ids of the last. */
	renameScenario(from: string, to: string): Promise<void> {
		const index = this.scenarios.findIndex(({ id }) => id === from);
		const before = this.#renaming;
		const renamed = (async () => {
			await before;
			await this.#renameScenario(this.scenarios[index]?.id ?? from, to);
		})();
		this.#renaming = renamed;
		return this.document.during(renamed);
	}
	async #renameScenario(from: string, to: string): Promise<void> {
		if (!to || to === from) return;
		try {
			await this.document.save();
			const order = { collection: this.name, from, to };
			const url = `/projects/${this.project.name}/names`;
			const { changed } = await api.post<{ changed: { file: string }[] }>(url, order);
			await this.document.refresh();
			this.sending.renameScenario(from, to);
			if (this.inOut === from) this.inOut = to;
			if (this.open?.scenario === from) this.open = { ...this.open, scenario: to };
			const others = changed.map(({ file }) => file).filter((file) => file !== `collections/${this.name}.yaml`);
			toasts.show(`${from} is ${to} now${others.length > 0 ? `, also in ${others.join(', ')}` : ''}.`, 'note', {
				label: 'undo',
				run: () => void this.renameScenario(to, from)
			});
			await this.project.reload();
		} catch (error) {
			toasts.show(messageOf(error), 'trouble');
		}
	}

	// sending

	/** Sends some steps of a scenario, with the row at which it stands. */
	#send(scenario: string, steps: string[]): void {
		void this.sending.start([`${this.name}/${scenario}`], steps, this.rowOf(scenario));
	}
	sendStep(view: StepView): void {
		this.open = { scenario: view.scenarioId, step: view.step.id };
		if (!this.facets.includes('answer')) this.facets = ['send', 'answer'];
		this.#send(view.scenarioId, [view.step.id]);
	}
	/** Sends the step that a fragment of an address names: `scenario/step`. */
	sendAt(fragment: string): void {
		const [scenario = '', step = ''] = decodeURIComponent(fragment).split('/');
		const view = this.viewAt({ scenario, step });
		if (!view) return;
		// what came back, and what to make of it
		this.facets = ['answer', 'checks'];
		this.sendStep(view);
	}
	sendUpTo(view: StepView): void {
		const steps = this.scenarios[view.scenario]!.steps.slice(0, view.index + 1).filter(
			(v) => !v.step.off && (!v.step.cleanup || v === view)
		);
		this.#send(
			view.scenarioId,
			steps.map((v) => v.step.id)
		);
	}
}
