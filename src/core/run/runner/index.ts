import { createEvaluator } from '../../values/index.ts';
import { weightOf, type RunEvent } from '../events.ts';
import { createFrames, type Frames } from '../frame/index.ts';
import type { Ports } from '../ports.ts';
import { createQueue } from '../queue.ts';
import { createResets } from '../stand-ins.ts';
import { attempts } from './attempts.ts';
import { Results } from './results.ts';
import type { RunPlan } from './plan.ts';
import { Share } from './share.ts';
import { units } from './units.ts';

export type { RunPlan } from './plan.ts';

/**
 * Carries out a run. Never throws for what a server, the network or a check does; clean-up steps run last, in reverse
 * order, even after the signal. Events come in order within a scenario and row; those that run side by side are interleaved.
 */
export async function* runPlan(plan: RunPlan, ports: Ports, signal?: AbortSignal): AsyncGenerator<RunEvent[]> {
	const queue = createQueue<RunEvent>(weightOf);
	const started = ports.steady();
	const results = new Results(plan, (event) => queue.push(event));
	const share = new Share(plan, { ports, signal, evaluator: createEvaluator(), results });
	queue.push(opening(share));
	const finished = carryOut(share, () => queue.room()).then(
		() => {
			queue.push({ type: 'end', summary: results.summary, ms: ports.steady() - started, stopped: results.stopped });
			queue.close();
		},
		(error: unknown) => {
			queue.close();
			throw error;
		}
	);
	finished.catch(() => {});
	yield* queue.drain();
	await finished;
}

/** What a run begins with: what it will go through, as far as that is known. */
function opening(share: Share): RunEvent {
	const { run, scenarios } = share.plan;
	return {
		type: 'run',
		run,
		steps: scenarios.reduce((n, chosen) => {
			const times = share.rowsOf(chosen) ? (share.countOf(chosen) ?? 0) : 1;
			return n + share.stepsOf(chosen).length * times;
		}, 0),
		scenarios: scenarios.map((chosen) => {
			const rows = share.rowsOf(chosen);
			const count = share.countOf(chosen);
			return {
				scenario: chosen.key,
				title: chosen.scenario.title,
				collectionTitle: chosen.collectionTitle,
				steps: share.stepsOf(chosen).length,
				...(rows ? { data: rows.dataset.file } : {}),
				...(count === undefined ? {} : { rows: count })
			};
		})
	};
}

/** Carries out all units, so many side by side as the plan says, and at the end the clean-up of what they share. */
async function carryOut(share: Share, room: () => Promise<void> | undefined): Promise<void> {
	const { plan, ports, signal, results } = share;
	const resets = createResets({ ...plan, environment: plan.run.environment }, { ports, signal });
	const frames: Frames = createFrames({
		...plan,
		seed: plan.run.seed,
		ports,
		evaluator: share.evaluator,
		push: (event) => results.push(event),
		add: (result) => results.add(result),
		room,
		stopped: () => (results.isStopped(signal) ? results.stopped : '')
	});
	// steps that are sent by hand go on where they are
	if (!share.byHand)
		await resets.atStart(plan.scenarios).catch((error: unknown) => {
			share.unready = error;
		});
	const waiting = units(share);
	const lane = async (): Promise<void> => {
		for (let next = await waiting.next(); !next.done; next = await waiting.next()) {
			const unit = next.value;
			if (share.byHand) await attempts(share, frames, unit, () => Promise.resolve());
			else await resets.before(unit.chosen, (reset) => attempts(share, frames, unit, reset));
			await room();
		}
	};
	const most = plan.rows?.size ? plan.parallel : Math.min(plan.parallel, plan.scenarios.length);
	await Promise.all(Array.from({ length: most }, lane));
	await frames.undoAll(frames.lastUndo);
}
