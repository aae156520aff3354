import { fails } from '../checks/index.ts';
import type { Quarantine, Quarantined } from '../documents/quarantine.ts';
import type { QuarantineMark, StepResult } from './events.ts';
import { isBad } from './reduce.ts';

/** The day of a moment, in UTC. */
export const dayOf = (ms: number): string => new Date(ms).toISOString().slice(0, 10);

/** Whether an entry is about a step. */
export const isAbout = (
	entry: Pick<Quarantined, 'scenario' | 'step'>,
	{ scenario, step }: Pick<StepResult, 'scenario' | 'step'>
): boolean => entry.scenario === scenario && (!entry.step || entry.step === step || step.startsWith(`${entry.step}/`));

/** An entry that names checks knows a result of which nothing else fails. */
function knows({ checks }: Quarantined, result: StepResult): boolean {
	if (checks.length === 0) return true;
	const failing = result.checks.filter(fails);
	return (
		result.outcome === 'failed' &&
		failing.length > 0 &&
		failing.every(({ index, error }) => checks.includes(index + 1) && error === undefined)
	);
}

/** Says of a result that did not pass what the quarantine knows of it, on the day on which the run began. */
export function quarantineOf(
	{ entries }: Quarantine,
	startedAt: number
): (result: StepResult) => QuarantineMark | undefined {
	const today = dayOf(startedAt);
	return (result) => {
		if (entries.length === 0 || !isBad(result.outcome)) return undefined;
		const found = entries.filter((entry) => isAbout(entry, result) && knows(entry, result));
		// of several the one that lasts longest
		const [entry] = found.sort((a, b) => (a.until < b.until ? 1 : -1));
		if (!entry) return undefined;
		const { why, who, link, until } = entry;
		return {
			why,
			...(who ? { who } : {}),
			...(link ? { link } : {}),
			until,
			...(until < today ? { over: true as const } : {})
		};
	};
}
