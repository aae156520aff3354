import type { Gate } from '../documents/suite.ts';
import type { Workspace } from '../project/index.ts';
import { touchedTallies, type KindTally } from '../tallies/index.ts';
import { createMadeCollector, type MadeStep } from './made.ts';

/** Counts for a gate what a run touches; undefined where the gate does not ask for it. */
export function touchCounter(
	workspace: Workspace,
	gate: Gate | undefined
): { take(result: MadeStep): void; tallies(): KindTally[] } | undefined {
	if (!gate?.coverage && gate?.coverageFall === undefined) return undefined;
	const collector = createMadeCollector(workspace);
	return { take: (result) => collector.take(result), tallies: () => touchedTallies(collector.result()) };
}
