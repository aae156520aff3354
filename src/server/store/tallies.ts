import { gatherPast, seenOf, type StepPast } from '#core/gate/index.ts';
import { causeOf, tallying, type RunTally } from '#core/run/index.ts';
import { Op } from 'sequelize';
import { stepOf, type StoredStep } from './stored.ts';
import { RunRow, StepRow } from './tables/index.ts';

/** What is known of a run without reading its results. */
interface Folded {
	tally: RunTally;
	/** How each step ended, rows and passes put together. */
	past: StepPast[];
}

export interface Tallies {
	/** Takes results in that were just recorded. */
	take(run: string, steps: readonly StoredStep[]): void;
	/** What a run has come to; read from its results once where nothing is kept. */
	of(run: string): Promise<Folded>;
	/** The same, in the form in which it is kept with a run that ends. */
	written(run: string): Promise<{ tally: string; past: string }>;
	/** It has ended, and what it came to is kept. */
	forget(run: string): void;
}

/** So many results are read at a time. */
const PIECE = 1000;

interface Fold {
	tally: RunTally;
	take(step: StoredStep): void;
	past(): StepPast[];
}
function startFold(): Fold {
	const { tally, take } = tallying();
	const gathered = gatherPast();
	return {
		tally,
		take(step) {
			// it may have come another way meanwhile
			if (step.seq !== tally.recorded) return;
			take(step);
			gathered.add(seenOf(step));
		},
		past: () => gathered.steps()
	};
}

/** Folds what runs record while they go on, so that nobody has to read their results to know how they stand. */
export function createTallies(): Tallies {
	const live = new Map<string, Fold>();

	/** Reads what is recorded and not in the fold yet. */
	async function catchUp(run: string, fold: Fold): Promise<Fold> {
		for (;;) {
			const rows = await StepRow.findAll({
				where: { run, seq: { [Op.gte]: fold.tally.recorded } },
				order: ['seq'],
				limit: PIECE,
				raw: true
			});
			for (const row of rows) {
				const step = stepOf(row);
				fold.take(step);
				// recorded before findings had it
				const cause = row.cause === '' ? causeOf(step) : '';
				if (cause) await StepRow.update({ cause }, { where: { run, seq: row.seq } });
			}
			if (rows.length < PIECE) return fold;
		}
	}
	const foldedOf = (fold: Fold): Folded => ({ tally: fold.tally, past: fold.past() });
	const writtenOf = ({ tally, past }: Folded) => ({ tally: JSON.stringify(tally), past: JSON.stringify(past) });

	return {
		take(run, steps) {
			const [first] = steps;
			if (first?.seq === 0) live.set(run, startFold());
			const fold = live.get(run);
			if (fold) for (const step of steps) fold.take(step);
		},
		async of(run) {
			const own = await RunRow.findByPk(run, { attributes: ['tally', 'past', 'status'], raw: true });
			if (own?.tally)
				return { tally: JSON.parse(own.tally) as RunTally, past: JSON.parse(own.past ?? '[]') as StepPast[] };
			if (own?.status === 'running') {
				const fold = live.get(run) ?? startFold();
				live.set(run, fold);
				return foldedOf(await catchUp(run, fold));
			}
			const folded = foldedOf(await catchUp(run, startFold()));
			if (own) await RunRow.update(writtenOf(folded), { where: { id: run, tally: '', status: own.status } });
			return folded;
		},
		written: async (run) => writtenOf(foldedOf(await catchUp(run, live.get(run) ?? startFold()))),
		forget: (run) => void live.delete(run)
	};
}
