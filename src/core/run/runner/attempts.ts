import { emptyMemory, inputDefault, scopeOf, type Memory, type StepContext } from '../context.ts';
import type { Outcome } from '../events.ts';
import type { Frame, Frames } from '../frame/index.ts';
import type { Chosen } from '../plan.ts';
import { isBad, worst } from '../reduce.ts';
import { recordedRow, rowNames } from '../rows.ts';
import { broken, skipped } from '../scenario.ts';
import { unitKey } from './plan.ts';
import { unitPorts, type Share, type Unit } from './share.ts';

/** A reply that is larger is not kept for scripts that are carried out by hand, in octets. */
const LAST_KEPT = 1_000_000;

/**
 * Carries out a unit until it passes, or has been tried as often as it may be.
 * @param reset has stand-ins begin anew before each attempt
 */
export async function attempts(share: Share, frames: Frames, unit: Unit, reset: () => Promise<void>): Promise<void> {
	const { plan, ports, signal, results } = share;
	const { chosen, row } = unit;
	const begun = ports.steady();
	const retries = share.byHand || unit.trouble !== undefined ? 0 : (plan.retries ?? 0);
	const key = unitKey(chosen.key, row?.number);
	/** Steps that did not pass in an earlier attempt. */
	const bad = new Set<string>();
	let outcome: Outcome;
	for (let round = 1; ; round++) {
		if (retries > 0) results.hold(key);
		const trouble = unit.trouble ?? share.unready ?? (await troubleOf(reset));
		outcome = await attempt(share, frames, trouble === undefined ? unit : { ...unit, trouble }, round);
		const again = isBad(outcome) && round <= retries && !results.stopped && !signal?.aborted;
		results.settle(key, { round, again, bad });
		if (!again) break;
		frames.forget();
	}
	if (row && share.rowsOf(chosen)?.spec.failed === 'stop' && isBad(outcome)) share.halted.add(chosen.key);
	results.push({
		type: 'scenario-end',
		scenario: chosen.key,
		outcome,
		ms: ports.steady() - begun,
		...(row ? { row: row.number } : {}),
		...(outcome === 'passed' && bad.size > 0 ? { unsteady: true as const } : {})
	});
}

const troubleOf = (act: () => Promise<void>): Promise<unknown> =>
	act().then(
		() => undefined,
		(error: unknown) => error
	);

async function attempt(share: Share, frames: Frames, unit: Unit, round: number): Promise<Outcome> {
	const { plan, ports } = share;
	const { chosen } = unit;
	const begun = ports.now();
	const fresh = !share.byHand || !plan.memories?.has(chosen.key);
	const memory = fresh ? emptyMemory(ports) : plan.memories!.get(chosen.key)!;
	plan.memories?.set(chosen.key, memory);
	const context = await contextOf(share, unit, round);
	if (round === 1) tellBegin(share, unit, begun);
	if (fresh) await takeInputs(chosen, memory, context);
	const outcomes =
		unit.trouble === undefined
			? await steps(share, frames, unit, memory, context)
			: untried(share, chosen, context, unit.trouble);
	for (const release of memory.hidden?.release.splice(0) ?? []) release();
	// looked at again when a script is carried out by hand; a large one is not worth its memory
	if ((memory.last?.view.reply.body.length ?? 0) > LAST_KEPT) delete memory.last;
	return worst(outcomes);
}

/** What the steps of a unit are carried out with. */
async function contextOf({ context }: Share, unit: Unit, round: number): Promise<StepContext> {
	const { row } = unit;
	const ports = unitPorts(context.ports, unit, round);
	if (!row) return { ...context, ports };
	return { ...context, ports, row, start: await context.start.withRow(rowNames(row), ports) };
}

function tellBegin(share: Share, { chosen, row }: Unit, startedAt: number): void {
	const cut = row && recordedRow(row);
	const uncounted = share.rowsOf(chosen) !== undefined && share.countOf(chosen) === undefined;
	share.results.push({
		type: 'scenario',
		scenario: chosen.key,
		startedAt,
		...(cut ? { row: { number: cut.number, values: share.plan.redactor.deep(cut.values) } } : {}),
		...(uncounted ? { more: share.stepsOf(chosen).length } : {})
	});
}

/** A scenario that is run by itself goes with the defaults of its inputs. */
async function takeInputs({ scenario }: Chosen, memory: Memory, context: StepContext): Promise<void> {
	for (const [name, value] of Object.entries(scenario.inputs)) {
		if (value === null || Object.hasOwn(context.start.names.env, name)) continue;
		memory.set[name] = await inputDefault(value, context.evaluator, scopeOf(context, memory));
	}
}

/** Carries out the steps, and at their end their clean-up. */
async function steps(
	share: Share,
	frames: Frames,
	{ chosen, row }: Unit,
	memory: Memory,
	context: StepContext
): Promise<Outcome[]> {
	const frame: Frame = {
		chosen,
		memory,
		context,
		outcomes: new Map(),
		undo: [],
		depth: 0,
		skips: { broken: '', failedRow: '', ended: '' },
		row,
		setsAside: row !== undefined && share.rowsOf(chosen)?.spec.failed === 'set-aside'
	};
	await frames.steps(frame, chosen.scenario.steps);
	return [...(await frames.undoAll(frame.undo)), ...frame.outcomes.values()];
}

/** The results of steps that could not be begun: the first says why. */
function untried(share: Share, chosen: Chosen, context: StepContext, trouble: unknown): Outcome[] {
	return share.stepsOf(chosen).map((step, n) => {
		const index = chosen.scenario.steps.indexOf(step);
		const result =
			n === 0
				? broken(chosen, step, index, context, trouble)
				: skipped(chosen, step, index, context, 'its row cannot be used');
		return share.results.add(result);
	});
}
