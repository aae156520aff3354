import type { DataRow } from '../../datasets/index.ts';
import type { Step } from '../../steps/index.ts';
import type { Evaluator } from '../../values/index.ts';
import type { StepContext } from '../context.ts';
import type { Chosen } from '../plan.ts';
import { partPorts, type Ports } from '../ports.ts';
import { countRows, type OpenRows } from '../rows.ts';
import { unitKey, type RunPlan } from './plan.ts';
import type { Results } from './results.ts';

/** One time through a scenario. */
export interface Unit {
	chosen: Chosen;
	row?: DataRow;
	/** What keeps it from being begun. */
	trouble?: unknown;
}

/** Ports by which a unit makes up the same data whatever runs beside it, and other data in each round. */
export const unitPorts = (ports: Ports, { chosen, row }: Pick<Unit, 'chosen' | 'row'>, round: number): Ports =>
	partPorts(ports, `${unitKey(chosen.key, row?.number)}\0${round}`);

/** What the parts of a run share. */
export class Share {
	readonly plan: RunPlan;
	readonly ports: Ports;
	readonly signal: AbortSignal | undefined;
	readonly evaluator: Evaluator;
	/** What every step is carried out with. */
	readonly context: StepContext;
	readonly results: Results;
	/** Scenarios of which no further row is begun. */
	readonly halted = new Set<string>();
	/** Why no scenario can begin. */
	unready: unknown;
	readonly #counts: ReadonlyMap<string, number | undefined>;

	constructor(
		plan: RunPlan,
		{ ports, signal, evaluator, results }: Pick<Share, 'ports' | 'signal' | 'evaluator' | 'results'>
	) {
		this.plan = plan;
		this.ports = ports;
		this.signal = signal;
		this.evaluator = evaluator;
		this.results = results;
		const byHand = plan.only.length > 0;
		this.context = { ...plan, environment: plan.run.environment, ports, evaluator, signal, byHand };
		this.#counts = new Map([...(plan.rows ?? [])].map(([key, rows]) => [key, countRows(rows)]));
	}

	/** Whether single steps are sent by hand. */
	get byHand(): boolean {
		return this.plan.only.length > 0;
	}
	/** The steps of a scenario that are wanted. */
	stepsOf({ scenario }: Chosen): Step[] {
		const { only } = this.plan;
		return only.length === 0 ? scenario.steps : scenario.steps.filter((step) => only.includes(step.id));
	}
	rowsOf({ key }: Chosen): OpenRows | undefined {
		return this.plan.rows?.get(key);
	}
	/** How many rows a scenario goes through; undefined where only reading them tells. */
	countOf({ key }: Chosen): number | undefined {
		return this.#counts.get(key);
	}
}
