import { HeronError } from '../../errors.ts';
import { emptyMemory, scopeOf } from '../context.ts';
import type { Chosen } from '../plan.ts';
import { chosenRows, type OpenRows } from '../rows.ts';
import type { Share, Unit } from './share.ts';

/** All that a run goes through, in order: scenarios, or their rows. */
export async function* units(share: Share): AsyncGenerator<Unit> {
	for (const chosen of share.plan.scenarios) {
		const rows = share.rowsOf(chosen);
		if (!rows) yield { chosen };
		else
			try {
				yield* rowUnits(share, chosen, rows);
			} catch (error) {
				// a file that cannot be read any further
				yield { chosen, trouble: error };
			}
	}
}

/** @throws HeronError dataset.*, value.* */
async function* rowUnits(share: Share, chosen: Chosen, { spec, dataset }: OpenRows): AsyncGenerator<Unit> {
	const { plan, ports, evaluator, context, signal, results, halted } = share;
	let some = false;
	const scope = scopeOf(context, emptyMemory(ports));
	for await (const row of chosenRows({ spec, dataset }, { evaluator, scope, seed: plan.run.seed })) {
		const stopped = results.isStopped(signal);
		if (some && (stopped || halted.has(chosen.key))) break;
		some = true;
		const { number, problem } = row;
		if (!problem) yield { chosen, row };
		else yield { chosen, row, trouble: new HeronError('dataset.row', { number, file: dataset.file, detail: problem }) };
	}
	if (some) return;
	const hint = spec.where ? `: none for which ${spec.where}` : '';
	yield { chosen, trouble: new HeronError('dataset.empty', { file: dataset.file, hint }) };
}
