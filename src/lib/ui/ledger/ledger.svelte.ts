import { renamedValue } from '#core/refactor/index.ts';
import { parseStep, type Step } from '#core/model/collection.ts';
import type { Problem } from '#core/errors.ts';
import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import type { LiveEvent, StoredRun, StoredStep } from '$lib/wire.ts';
import { SvelteMap } from 'svelte/reactivity';
import { api, messageOf } from '../common/api.ts';
import type { DocumentState } from '../common/document.svelte.ts';
import { freeName, moved, setIn, type Path } from '../common/edit.ts';
import { toasts } from '../common/toast.svelte.ts';
import type { ProjectState } from '../frame/project.svelte.ts';
import { followRun, type Following } from '../run/follow.ts';
import { startRun } from '../run/start.svelte.ts';
import type { RowsState } from './rows.svelte.ts';
import { threadsOf, type Thread } from './threads.ts';

export type Facet = 'send' | 'answer' | 'keep' | 'checks';
export const FACETS: readonly Facet[] = ['send', 'answer', 'keep', 'checks'];

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

interface Live {
	run: StoredRun;
	done: number;
	ended: Promise<void>;
	following: Following;
}

const parsed = new WeakMap<object, Step>();
const stepOf = (raw: JsonObject): Step => {
	let step = parsed.get(raw);
	if (!step) parsed.set(raw, (step = parseStep(raw)));
	return step;
};
const keyOfStep = ({ scenario, step }: { scenario: string; step: string }): string =>
	`${scenario.slice(scenario.indexOf('/') + 1)}/${step}`;
const threadsKept = new WeakMap<object, Thread[]>();

/** A collection on the screen: its document, what last came back, and what is open. */
/** What of a step says what is sent. */
const SENT = new Set(['send', 'path', 'query', 'headers', 'cookies', 'body', 'connection', 'credential', 'timeout']);

export class Ledger {
	readonly project: ProjectState;
	readonly document: DocumentState;
	readonly name: string;
	/** The newest results, by `scenario/step`. */
	results = new SvelteMap<string, StoredStep>();
	/** Steps that are under way, by `scenario/step`. */
	under = new SvelteMap<string, string>();
	/** A place in the answer that somebody wants to see. */
	shown: { step: string; path: Path } | undefined = $state.raw();
	open: { scenario: string; step: string } | undefined = $state.raw();
	focus: { scenario: string; step: string } | undefined = $state.raw();
	facets: [Facet, Facet] = $state.raw(['send', 'answer']);
	live: Live | undefined = $state.raw();
	lastRun: StoredRun | undefined = $state.raw();
	litThread = $state('');
	/** The scenario whose id, inputs and outputs are open. */
	inOut = $state('');
	/** Rows at which scenarios stand, by their id. */
	rowsAt = new SvelteMap<string, RowsState>();

	constructor(project: ProjectState, document: DocumentState, name: string) {
		this.project = project;
		this.document = document;
		this.name = name;
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

	scenarios = $derived.by((): ScenarioView[] => {
		const list = Array.isArray(this.value.scenarios) ? this.value.scenarios : [];
		return list.map((raw, index) => {
			const given = isObject(raw) ? (raw as JsonObject) : {};
			const steps = (Array.isArray(given.steps) ? given.steps : []).map((s): JsonObject =>
				isObject(s) ? (s as JsonObject) : {}
			);
			const id = String(given.id ?? '');
			const views = steps.map((step, at) => ({
				index: at,
				scenario: index,
				scenarioId: id,
				raw: step,
				step: stepOf(step)
			}));
			let threads = threadsKept.get(given);
			if (!threads) threadsKept.set(given, (threads = threadsOf(views.map((view) => view.step))));
			return {
				index,
				id,
				title: String(given.title ?? id),
				tags: Array.isArray(given.tags) ? given.tags.map(String) : [],
				off: given.off === true,
				connection: String(given.connection ?? this.connection),
				ownConnection: String(given.connection ?? ''),
				credential: String(given.credential ?? ''),
				rows: given.rows ?? undefined,
				inputs: isObject(given.inputs) ? (given.inputs as JsonObject) : {},
				outputs: isObject(given.outputs) ? (given.outputs as JsonObject) : undefined,
				steps: views,
				threads
			};
		});
	});

	rows = $derived.by((): Row[] => {
		const rows: Row[] = [];
		for (const scenario of this.scenarios) {
			rows.push({ kind: 'scenario', key: `s ${scenario.id} ${scenario.index}`, scenario });
			for (const view of scenario.steps) {
				rows.push({
					kind: 'step',
					key: `${scenario.id}/${view.step.id} ${scenario.index}.${view.step.id ? '' : view.index}`,
					scenario,
					view
				});
				if (view.step.call)
					for (const step of this.innerOf(view))
						rows.push({ kind: 'inner', key: `i ${scenario.index} ${step.step}`, scenario, index: view.index, step });
			}
			rows.push({ kind: 'add', key: `a ${scenario.id} ${scenario.index}`, scenario });
		}
		rows.push({ kind: 'new', key: 'new' });
		return rows;
	});

	stepCount = $derived(this.scenarios.reduce((n, scenario) => n + scenario.steps.length, 0));

	/** The row with which steps of a scenario are looked at and sent by hand; undefined when it has none. */
	rowOf(scenario: string): number | undefined {
		return this.scenarios.find((one) => one.id === scenario)?.rows === undefined
			? undefined
			: (this.rowsAt.get(scenario)?.number ?? 1);
	}
	/** What was done within a call, in order. */
	innerOf(view: StepView): StoredStep[] {
		const start = `${view.scenarioId}/${view.step.id}/`;
		return [...this.results]
			.filter(([key]) => key.startsWith(start))
			.map(([, step]) => step)
			.sort((a, b) => a.startedAt - b.startedAt);
	}
	resultOf(view: StepView): StoredStep | undefined {
		return this.results.get(`${view.scenarioId}/${view.step.id}`);
	}
	isUnder(view: StepView): boolean {
		return this.under.has(`${view.scenarioId}/${view.step.id}`);
	}
	/** How far a step that takes long has come. */
	progressOf(view: StepView): string {
		return this.under.get(`${view.scenarioId}/${view.step.id}`) ?? '';
	}
	placeOf(view: StepView): Path | undefined {
		return this.shown?.step === `${view.scenarioId}/${view.step.id}` ? this.shown.path : undefined;
	}
	/** Counts what changed beside the collection that checks look at: files of baselines. */
	round = $state(0);
	judgeAnew(): void {
		this.round++;
	}
	/** Shows another pass of a step that repeats, and what was done within it. */
	showPass(view: StepView, step: StoredStep): void {
		this.results.set(`${view.scenarioId}/${view.step.id}`, step);
	}
	/** Shows a place of the answer. */
	showPlace(view: StepView, path: Path): void {
		this.shown = { step: `${view.scenarioId}/${view.step.id}`, path };
	}
	problemsOf(view: StepView) {
		const at = ['scenarios', view.scenario, 'steps', view.index];
		return this.document.problems.filter((problem) => at.every((key, i) => problem.path[i] === key));
	}
	/** What is seldom meant; a value that nobody uses is said beside the value. */
	warningsOf(view: StepView) {
		const at = ['scenarios', view.scenario, 'steps', view.index];
		return this.document.warnings.filter(
			({ code, path }) => code !== 'lint.unusedOutput' && at.every((key, i) => path[i] === key)
		);
	}
	mend({ label, edits }: NonNullable<Problem['mend']>): void {
		let value = this.document.value;
		for (const edit of edits) value = setIn(value, edit.path, edit.value);
		this.document.replace(value, label);
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
		const pairs: Record<Facet, [Facet, Facet]> = {
			send: ['send', 'answer'],
			answer: ['send', 'answer'],
			keep: ['answer', 'keep'],
			checks: ['answer', 'checks']
		};
		this.facets = pairs[facet];
	}

	// edits

	pathOf(view: StepView): Path {
		return ['scenarios', view.scenario, 'steps', view.index];
	}
	setStep(view: StepView, path: Path, value: Json | undefined, label = 'the change'): void {
		this.document.set([...this.pathOf(view), ...path], value, label);
	}
	#setSteps(scenario: ScenarioView, steps: Json[], label: string): void {
		this.document.replace(
			{
				...this.value,
				scenarios: (this.value.scenarios as Json[]).map((raw, i) =>
					i === scenario.index ? { ...(raw as JsonObject), steps } : raw
				)
			},
			label
		);
	}
	#ids(scenario: ScenarioView): string[] {
		return scenario.steps.map((view) => view.step.id);
	}
	#stepsOf(scenario: ScenarioView): Json[] {
		return scenario.steps.map((view) => view.raw);
	}

	/** A text that is to become steps, and where: in place of `replaced` steps from `at` on. */
	pasting: { scenario: ScenarioView; at: number; replaced: number; text: string } | undefined = $state.raw();

	addStep(scenario: ScenarioView, at = scenario.steps.length, raw: JsonObject = { send: 'GET /' }): void {
		const id = freeName('step', this.#ids(scenario));
		const steps = this.#stepsOf(scenario);
		steps.splice(at, 0, { id, ...raw });
		this.#setSteps(scenario, steps, 'adding a step');
		this.open = this.focus = { scenario: scenario.id, step: id };
		this.facets = ['send', 'answer'];
	}
	/** Puts several steps in, as one change; opens the first. Where it takes the place of one, only what is sent is another. */
	addSteps(scenario: ScenarioView, at: number, list: JsonObject[], replaced = 0): void {
		const steps = this.#stepsOf(scenario);
		const ids = this.#ids(scenario);
		const fresh = list.map((raw, index): JsonObject => {
			const old = replaced > 0 && index === 0 ? (steps[at] as JsonObject) : undefined;
			if (old) return { ...Object.fromEntries(Object.entries(old).filter(([key]) => !SENT.has(key))), ...raw };
			const id = freeName('step', ids);
			ids.push(id);
			return { id, ...raw };
		});
		steps.splice(at, replaced, ...fresh);
		this.#setSteps(scenario, steps, list.length === 1 ? 'adding a step' : 'adding steps');
		this.open = this.focus = { scenario: scenario.id, step: String(fresh[0]!.id) };
		this.facets = ['send', 'answer'];
	}
	duplicateStep(view: StepView): void {
		const scenario = this.scenarios[view.scenario]!;
		const id = freeName(view.step.id || 'step', this.#ids(scenario));
		const steps = this.#stepsOf(scenario);
		steps.splice(view.index + 1, 0, { ...view.raw, id });
		this.#setSteps(scenario, steps, 'duplicating a step');
		this.focus = { scenario: scenario.id, step: id };
	}
	deleteStep(view: StepView): void {
		const scenario = this.scenarios[view.scenario]!;
		const steps = this.#stepsOf(scenario);
		steps.splice(view.index, 1);
		this.#setSteps(scenario, steps, 'deleting a step');
		const next = scenario.steps[view.index + 1] ?? scenario.steps[view.index - 1];
		this.focus = next ? { scenario: scenario.id, step: next.step.id } : undefined;
		if (this.isOpen(view)) this.open = undefined;
		toasts.show(`Step “${view.step.title || view.step.id}” is deleted.`, 'note', {
			label: 'undo',
			run: () => this.document.undo()
		});
	}
	moveStep(view: StepView, to: number): void {
		const scenario = this.scenarios[view.scenario]!;
		if (to < 0 || to >= scenario.steps.length || to === view.index) return;
		this.#setSteps(scenario, moved(this.#stepsOf(scenario), view.index, to), 'moving a step');
	}
	/** Moves a step before another one, in whatever scenario that stands. */
	dropStep(from: { scenario: number; index: number }, to: { scenario: number; index: number }): void {
		const source = this.scenarios[from.scenario];
		const target = this.scenarios[to.scenario];
		if (!source || !target) return;
		if (from.scenario === to.scenario) {
			this.#setSteps(
				source,
				moved(this.#stepsOf(source), from.index, to.index > from.index ? to.index - 1 : to.index),
				'moving a step'
			);
			return;
		}
		const raw = source.steps[from.index]!.raw;
		const list = this.value.scenarios as JsonObject[];
		const id = freeName(String(raw.id ?? 'step'), this.#ids(target));
		const next = list.map((scenario, index) => {
			const steps = (scenario.steps ?? []) as Json[];
			if (index === from.scenario) return { ...scenario, steps: steps.filter((_, at) => at !== from.index) };
			if (index === to.scenario)
				return { ...scenario, steps: [...steps.slice(0, to.index), { ...raw, id }, ...steps.slice(to.index)] };
			return scenario;
		});
		this.document.replace({ ...this.value, scenarios: next }, 'moving a step');
	}
	switchStep(view: StepView): void {
		this.setStep(view, ['off'], view.step.off ? undefined : true, view.step.off ? 'switching on' : 'switching off');
	}
	renameStep(view: StepView, id: string): void {
		if (!id || id === view.step.id) return;
		const scenario = this.scenarios[view.scenario]!;
		if (this.#ids(scenario).includes(id)) return void toasts.show(`Another step here is called “${id}”.`, 'trouble');
		// whoever speaks of the step goes on doing so
		const steps = this.#stepsOf(scenario).map((raw, index) =>
			index === view.index ? { ...(raw as JsonObject), id } : renamedValue(raw, ['steps', view.step.id], id)
		);
		this.#setSteps(scenario, steps, 'renaming a step');
		const result = this.results.get(`${scenario.id}/${view.step.id}`);
		if (result) this.results.set(`${scenario.id}/${id}`, { ...result, step: id });
		if (this.isOpen(view) || this.open?.step === view.step.id) this.open = { scenario: scenario.id, step: id };
		this.focus = { scenario: scenario.id, step: id };
	}

	/** Has a column called otherwise in a scenario, by those who use it too. */
	renameColumn(scenario: ScenarioView, title: string, from: string, to: string): void {
		if (to === from || !/^[A-Za-z_]\w*$/.test(to)) return;
		const list = this.value.scenarios as JsonObject[];
		const raw = list[scenario.index]!;
		const rows: JsonObject = isObject(raw.rows) ? (raw.rows as JsonObject) : { data: raw.rows ?? '' };
		const others = Object.entries((rows.names ?? {}) as JsonObject).filter(([, column]) => column !== title);
		const renamed = renamedValue(renamedValue(raw, ['row', from], to), ['env', from], to) as JsonObject;
		const names = Object.fromEntries([...others, [to, title]]);
		const next = { ...renamed, rows: { ...rows, names } };
		const scenarios = list.map((one, index) => (index === scenario.index ? next : one));
		this.document.replace({ ...this.value, scenarios }, `calling ${title} ${to}`);
	}
	/** Gives a kept value another name, wherever later steps use it. */
	renameKept(view: StepView, from: string, to: string): void {
		const keep = view.raw.keep as JsonObject;
		if (to === from) return;
		if (!/^[A-Za-z_]\w*$/.test(to))
			return void toasts.show(`“${to}” cannot be a name: letters, digits and _ can.`, 'trouble');
		if (Object.hasOwn(keep, to)) return void toasts.show(`This step keeps a “${to}” already.`, 'trouble');
		const scenario = this.scenarios[view.scenario]!;
		const renamed = Object.fromEntries(Object.entries(keep).map(([name, it]) => [name === from ? to : name, it]));
		const steps = this.#stepsOf(scenario).map((raw, index) => {
			const next = renamedValue(raw, ['steps', view.step.id, from], to) as JsonObject;
			return index === view.index ? { ...next, keep: renamed } : next;
		});
		this.#setSteps(scenario, steps, `renaming ${from}`);
	}

	/** @returns its id */
	addScenario(): string {
		const list = (Array.isArray(this.value.scenarios) ? this.value.scenarios : []) as JsonObject[];
		const id = freeName(
			'scenario',
			list.map((s) => String(s.id ?? ''))
		);
		this.document.replace(
			{ ...this.value, scenarios: [...list, { id, title: 'New scenario', steps: [] }] },
			'adding a scenario'
		);
		return id;
	}
	#scenarioList(): JsonObject[] {
		return [...((this.value.scenarios ?? []) as JsonObject[])];
	}
	duplicateScenario(scenario: ScenarioView): void {
		const list = this.#scenarioList();
		const id = freeName(
			scenario.id || 'scenario',
			list.map((s) => String(s.id ?? ''))
		);
		list.splice(scenario.index + 1, 0, { ...list[scenario.index]!, id, title: `${scenario.title} (copy)` });
		this.document.replace({ ...this.value, scenarios: list }, 'duplicating a scenario');
	}
	deleteScenario(scenario: ScenarioView): void {
		const list = this.#scenarioList();
		list.splice(scenario.index, 1);
		this.document.replace({ ...this.value, scenarios: list }, 'deleting a scenario');
		toasts.show(`“${scenario.title}” and its ${scenario.steps.length} steps are deleted.`, 'note', {
			label: 'undo',
			run: () => this.document.undo()
		});
	}
	moveScenario(scenario: ScenarioView, to: number): void {
		const list = this.#scenarioList();
		if (to < 0 || to >= list.length) return;
		this.document.replace({ ...this.value, scenarios: moved(list, scenario.index, to) }, 'moving a scenario');
	}
	setScenario(scenario: ScenarioView, key: string, value: Json | undefined): void {
		this.document.set(['scenarios', scenario.index, key], value, 'the change');
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
	#renaming: Promise<void> | undefined;
	async #renameScenario(from: string, to: string): Promise<void> {
		if (!to || to === from) return;
		try {
			await this.document.save();
			const order = { collection: this.name, from, to };
			const { changed } = await api.post<{ changed: { file: string }[] }>(
				`/projects/${this.project.name}/names`,
				order
			);
			await this.document.refresh();
			// what came back last goes along
			for (const [key, result] of [...this.results])
				if (key.startsWith(`${from}/`)) {
					this.results.delete(key);
					this.results.set(to + key.slice(from.length), { ...result, scenario: `${this.name}/${to}` });
				}
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

	async loadResults(): Promise<void> {
		const url = `/projects/${this.project.name}/latest?collection=${encodeURIComponent(this.name)}&environment=${encodeURIComponent(this.project.environment)}`;
		const fresh = (this.#fresh = {});
		const steps = await api.get<StoredStep[]>(url);
		if (fresh !== this.#fresh) return;
		// what came while this was asked for is newer
		for (const key of [...this.results.keys()]) if (!Object.hasOwn(fresh, key)) this.results.delete(key);
		for (const step of steps) if (!Object.hasOwn(fresh, keyOfStep(step))) this.#keep(step);
	}
	/** Results that came since the recorded ones were asked for. */
	#fresh: Record<string, true> = {};
	/** @param seen steps of which this run has told already: of rows and passes one that did not pass stays */
	#keep(step: StoredStep, seen: Record<string, true> = {}): void {
		const key = keyOfStep(step);
		this.under.delete(key);
		const before = seen[key] ? this.results.get(key)?.outcome : undefined;
		seen[key] = true;
		if (before === 'failed' || (before === 'error' && step.outcome !== 'failed')) return;
		this.results.set(key, step);
	}

	/** Sends some steps of a scenario by hand, or runs scenarios. */
	async start(targets: string[], only: string[] = []): Promise<void> {
		// all has come back, and only the end is still on its way
		if (this.live && this.live.done >= this.live.run.total) await this.live.ended;
		if (this.live || this.#starting)
			return void toasts.show('Something is being sent already: stop it first.', 'trouble');
		this.#starting = true;
		try {
			await this.document.save();
			if (this.document.status === 'conflict' || this.document.status === 'trouble')
				throw new Error(this.document.trouble);
			const row = only.length > 0 ? this.rowOf(targets[0]!.slice(targets[0]!.indexOf('/') + 1)) : undefined;
			const run = await startRun(this.project.name, {
				targets,
				only,
				environment: this.project.environment,
				...(row === undefined ? {} : { rows: { row } })
			});
			if (run) this.#follow(run);
		} catch (error) {
			const problems = (error as { problems?: { message: string }[] }).problems ?? [];
			const detail =
				problems.length > 0
					? `: ${problems[0]!.message}${problems.length > 1 ? ` (and ${problems.length - 1} more)` : ''}`
					: '';
			toasts.show(messageOf(error) + detail, 'trouble');
		} finally {
			this.#starting = false;
		}
	}
	#starting = false;

	#follow(run: StoredRun): void {
		const seen: Record<string, true> = {};
		let end = () => {};
		const ended = new Promise<void>((resolve) => (end = resolve));
		const onEvent = (event: LiveEvent) => {
			const live = this.live;
			if (event.type === 'begin') this.under.set(keyOfStep(event), '');
			else if (event.type === 'progress') this.under.set(keyOfStep(event), event.text);
			else if (event.type === 'step') {
				if (event.step.outcome !== 'skipped') {
					this.#fresh[keyOfStep(event.step)] = true;
					this.#keep(event.step, seen);
				}
				if (live) this.live = { ...live, done: live.done + 1 };
			} else if (event.type === 'end') {
				live?.following.stop();
				this.live = undefined;
				end();
				this.under.clear();
				if (event.message && event.status !== 'stopped') toasts.show(event.message, 'trouble');
				// a run may have fetched tokens
				void this.project.resolve();
				if (run.kind === 'run') {
					this.lastRun = run;
					void this.project.loadLastRun();
				}
			}
		};
		this.live = { run, done: 0, ended, following: followRun(run.id, -1, onEvent) };
	}

	sendStep(view: StepView): void {
		this.open = { scenario: view.scenarioId, step: view.step.id };
		if (!this.facets.includes('answer')) this.facets = ['send', 'answer'];
		void this.start([`${this.name}/${view.scenarioId}`], [view.step.id]);
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
		void this.start(
			[`${this.name}/${view.scenarioId}`],
			steps.map((v) => v.step.id)
		);
	}
	async stop(): Promise<void> {
		if (this.live) await api.post(`/runs/${this.live.run.id}/cancel`);
	}
	leave(): void {
		this.live?.following.stop();
	}
}
