import type { RunState } from '#core/run/index.ts';
import { tame } from '#core/tame.ts';
import type { Io } from './command.ts';

/** One line on standard error that is written over, on a terminal only. */
export function createProgress(io: Io, quiet: boolean) {
	const on = !quiet && process.stderr.isTTY === true;
	let last = 0;
	return {
		show(state: RunState) {
			if (!on || Date.now() - last < 80) return;
			last = Date.now();
			const width = 24;
			const full = state.total ? Math.round((state.done / state.total) * width) : 0;
			const { failed, errors } = state.summary;
			const inProgress = [...state.inProgress][0];
			const line = `${'━'.repeat(full)}${'─'.repeat(width - full)} ${state.done} of ${state.total}${failed + errors ? `, ${failed} failed, ${errors} errors` : ''}${inProgress ? tame(`  ${inProgress[0]} › ${inProgress[1]}`) : ''}`;
			io.raw.err(`\r\u001b[2K${line.slice(0, (process.stderr.columns ?? 80) - 1)}`);
		},
		clear() {
			if (on) io.raw.err('\r\u001b[2K');
		}
	};
}
