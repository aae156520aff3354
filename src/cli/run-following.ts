import { touchCounter } from '#core/coverage/index.ts';
import { HeronError } from '#core/errors.ts';
import { createJudge } from '#core/gate/index.ts';
import type { Suite } from '#core/documents/suite.ts';
import { reduceRun, startState, type Chosen, type RunEvent, type RunInfo, type Shard } from '#core/run/index.ts';
import type { ProjectFolder } from '#server/engine/index.ts';
import { setMaxListeners } from 'node:events';
import { basename } from 'node:path';
import type { Flags, Io } from './command.ts';
import { openHistory } from './history.ts';
import { createProgress } from './progress.ts';
import { openPublisher, publishingTo } from './publish.ts';
import { deliver, NOT_DELIVERED, openReports } from './reports.ts';
import { partGate } from './run-options.ts';

const INTERRUPTED = 130;

/** A run as it was asked for: what is in it, and what it is called. */
export interface Asked {
	folder: ProjectFolder;
	scenarios: Chosen[];
	suite: Suite | undefined;
	shard: Shard | undefined;
	info: RunInfo;
}

/** Ends a run early: by a signal of the system, or when its time is over. */
export function stopping(
	io: Io,
	timeout: number | undefined,
	limit: string
): { signal: AbortSignal; interrupted(): boolean; end(): void } {
	const stop = new AbortController();
	// every request under way listens
	setMaxListeners(0, stop.signal);
	let interrupted = false;
	const onSignal = () => {
		if (interrupted) process.exit(INTERRUPTED);
		interrupted = true;
		io.err('\nstopping: clean-up steps still run; once more ends at once\n');
		stop.abort(new HeronError('send.cancelled'));
	};
	process.on('SIGINT', onSignal).on('SIGTERM', onSignal).on('SIGHUP', onSignal);
	const timer =
		timeout === undefined ? undefined : setTimeout(() => stop.abort(new HeronError('run.timeout', { limit })), timeout);
	return {
		signal: stop.signal,
		interrupted: () => interrupted,
		end() {
			clearTimeout(timer);
			process.off('SIGINT', onSignal).off('SIGTERM', onSignal).off('SIGHUP', onSignal);
		}
	};
}

/** Takes what is told of a run: counts, judges, reports and publishes it. */
export async function follow(
	io: Io,
	flags: Flags,
	{ folder, suite, shard, info }: Asked
): Promise<{ take(batch: RunEvent[]): Promise<void>; pause(): void; end(interrupted: boolean): Promise<number> }> {
	const name = basename(folder.dir);
	// a part of a run is judged with the others, when they are merged; it publishes nothing of itself
	const gate = shard ? partGate(suite) : suite?.gate;
	const judge = createJudge(
		folder.workspace.quarantine,
		touchCounter(folder.workspace, shard ? undefined : suite?.gate)
	);
	const publishing = shard ? ([io, flags] as const) : publishingTo(io, flags, suite);
	const history = shard ? undefined : await openHistory(...publishing, name, info);
	const outputs = openReports(io, flags, folder);
	const publisher = await openPublisher(...publishing, name);
	const progress = createProgress(io, flags.quiet === true);
	const state = startState();
	return {
		async take(batch) {
			for (const event of batch) {
				reduceRun(state, event);
				judge.take(event);
				for (const output of outputs) output.write(output.sink.event(event));
			}
			progress.show(state);
			await publisher?.take(batch, state);
			// a slow disk holds the run back instead of filling the memory
			for (const output of outputs) await output.drained();
		},
		pause: () => progress.clear(),
		async end(interrupted) {
			const { verdict, steps } = judge.judge(state, gate, history?.past ?? []);
			const code = interrupted ? INTERRUPTED : verdict.code;
			const delivered = await deliver(io, outputs, state, code, verdict);
			const unpublished = await publisher?.end(state, verdict);
			if (unpublished) io.err(`heron run: ${unpublished}\n`);
			// what was broken off says nothing of what is usual
			const unkept = state.stopped ? undefined : await history?.add(state, verdict, steps);
			if (unkept) io.err(`heron run: ${unkept}\n`);
			return delivered && !unpublished && !unkept ? code : NOT_DELIVERED;
		}
	};
}
