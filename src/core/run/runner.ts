import { HeronError } from '../errors.ts';
import type { Workspace } from '../model/workspace.ts';
import type { Redactor } from '../redact.ts';
import { createEvaluator } from '../values/index.ts';
import type { Outcome, RunEvent, RunInfo } from './events.ts';
import type { Chosen, StartNames } from './plan.ts';
import type { Ports } from './ports.ts';
import { createQueue } from './queue.ts';
import { countStep, emptySummary, worst } from './reduce.ts';
import { emptyMemory, runStep, skipped, type Memory, type StepContext } from './scenario.ts';

export interface RunPlan {
	run: RunInfo;
	workspace: Workspace;
	scenarios: Chosen[];
	start: StartNames;
	redactor: Redactor;
	/** How many scenarios run at the same time. */
	parallel: number;
	/** Stop after so many steps that failed or could not be carried out; 0 for never. */
	stopAfter: number;
	/** Only these steps, with what earlier sends left in `memories`; empty for all. */
	only: string[];
	/** What scenarios remember, by `collection/scenario`; filled by the run. */
	memories?: Map<string, Memory>;
	agent: string;
}

const CLEANUP_LIMIT_MS = 60_000;

/**
 * Carries out a run. Never throws for what a server, the network or a check does; clean-up steps run even after the
 * signal. Events come in order within a scenario; scenarios that run side by side are interleaved.
 */
export async function* runPlan(plan: RunPlan, ports: Ports, signal?: AbortSignal): AsyncGenerator<RunEvent[]> {
	const queue = createQueue<RunEvent>();
	const started = ports.now();
	const summary = emptySummary();
	const wanted = (id: string) => plan.only.length === 0 || plan.only.includes(id);
	const stepsOf = (chosen: Chosen) => chosen.scenario.steps.filter((step) => wanted(step.id));
	let stopped = '';
	const evaluator = createEvaluator();

	queue.push({
		type: 'run',
		run: plan.run,
		steps: plan.scenarios.reduce((n, chosen) => n + stepsOf(chosen).length, 0),
		scenarios: plan.scenarios.map((chosen) => ({
			scenario: chosen.key,
			title: chosen.scenario.title,
			collectionTitle: chosen.collectionTitle,
			steps: stepsOf(chosen).length
		}))
	});

	const runScenario = async (chosen: Chosen): Promise<void> => {
		const begun = ports.now();
		const memory = (plan.only.length > 0 ? plan.memories?.get(chosen.key) : undefined) ?? emptyMemory(ports);
		plan.memories?.set(chosen.key, memory);
		const context: StepContext = { ...plan, environment: plan.run.environment, ports, evaluator, signal };
		const outcomes = new Map<string, Outcome>();
		let broken = '';
		queue.push({ type: 'scenario', scenario: chosen.key, startedAt: begun });
		for (const [index, step] of chosen.scenario.steps.entries()) {
			if (!wanted(step.id)) continue;
			if (!stopped && signal?.aborted) stopped = reasonOf(signal);
			const alone = plan.only.length === 1;
			let result;
			if (step.off && !alone) result = skipped(chosen, step, index, ports.now(), 'switched off');
			else if (!step.cleanup && stopped) result = skipped(chosen, step, index, ports.now(), stopped);
			else if (!step.cleanup && broken)
				result = skipped(chosen, step, index, ports.now(), `step ${broken} could not be carried out`);
			else {
				queue.push({ type: 'begin', scenario: chosen.key, step: step.id });
				const late = step.cleanup && !alone ? ports.deadline(CLEANUP_LIMIT_MS, undefined) : undefined;
				result = await runStep(
					chosen,
					step,
					index,
					memory,
					late ? { ...context, signal: late.signal } : context,
					outcomes
				);
				late?.clear();
			}
			outcomes.set(step.id, result.outcome);
			if (result.outcome === 'error') broken ||= step.id;
			countStep(summary, result);
			if (!stopped && plan.stopAfter > 0 && summary.failed + summary.errors >= plan.stopAfter) {
				stopped = `stopped after ${plan.stopAfter} that did not pass`;
			}
			queue.push({ type: 'step', result });
		}
		queue.push({
			type: 'scenario-end',
			scenario: chosen.key,
			outcome: worst(outcomes.values()),
			ms: ports.now() - begun
		});
	};

	const waiting = [...plan.scenarios];
	const lane = async (): Promise<void> => {
		for (let next = waiting.shift(); next; next = waiting.shift()) await runScenario(next);
	};
	const lanes = Promise.all(Array.from({ length: Math.min(plan.parallel, plan.scenarios.length) }, lane));
	const finished = lanes.then(
		() => {
			queue.push({ type: 'end', summary, ms: ports.now() - started, stopped });
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

function reasonOf(signal: AbortSignal): string {
	return signal.reason instanceof HeronError ? signal.reason.message : 'the run was stopped';
}
