import { counted } from '../../messages.ts';
import { showDuration } from '../../model/units.ts';
import { median, percentile, placeKey, type PastRun } from '../past.ts';
import type { Place } from '../../run/index.ts';
import { shownPlaces, type GateRule } from '../rule.ts';

/** Fewer earlier runs say nothing of what is usual. */
export const LEAST_RUNS = 5;

/** Times by step, and of whole scenarios under a step without a name; of those that passed. */
function timesOf(steps: PastRun['steps']): Map<string, { place: Place; ms: number; most: number }> {
	const times = new Map<string, { place: Place; ms: number; most: number }>();
	const unfit = new Set<string>();
	for (const { scenario, step, standing, ms, most } of steps) {
		const passed = standing === 'passed' || standing === 'unsteady';
		if (!passed) {
			// a scenario that came to no end says nothing of its time
			if (standing !== 'skipped') unfit.add(scenario);
			continue;
		}
		times.set(placeKey(scenario, step), { place: { scenario, step }, ms, most });
		// the steps of a called scenario are within the one that calls it
		if (step.includes('/')) continue;
		const whole = times.get(placeKey(scenario, '')) ?? { place: { scenario, step: '' }, ms: 0, most: 0 };
		times.set(placeKey(scenario, ''), { place: whole.place, ms: whole.ms + ms, most: whole.most + most });
	}
	for (const scenario of unfit) times.delete(placeKey(scenario, ''));
	return times;
}

/**
 * What takes longer than usual: its 95th percentile in a run against the median of the runs before, with a tolerance, and only
 * where it is also longer than 95 of 100 of them, so that what always varies is not told.
 */
export function slowerThan(
	steps: PastRun['steps'],
	past: readonly PastRun[],
	{ ratio, runs }: { ratio: number; runs: number }
): { places: Place[]; judged: number } {
	const before = new Map<string, { usual: number[]; most: number[] }>();
	for (const run of past.slice(0, runs))
		for (const [key, { ms, most }] of timesOf(run.steps)) {
			const one = before.get(key) ?? { usual: [], most: [] };
			one.usual.push(ms);
			one.most.push(most);
			before.set(key, one);
		}
	const places: (Place & { times: number })[] = [];
	let judged = 0;
	for (const [key, { place, most }] of timesOf(steps)) {
		const known = before.get(key);
		if (!known || known.usual.length < LEAST_RUNS) continue;
		judged++;
		const usual = median(known.usual);
		const highest = percentile(
			known.most.sort((a, b) => a - b),
			0.95
		);
		if (!(most > usual * ratio && most > highest) || usual === 0) continue;
		const times = most / usual;
		const note = `${showDuration(most)}, usually ${showDuration(usual)}: ${Math.round(times * 10) / 10} times as long`;
		places.push({ ...place, note, times });
	}
	places.sort((a, b) => b.times - a.times);
	return { places: places.map(({ times: _, ...place }) => (void _, place)), judged };
}

export const slower: GateRule = {
	key: 'slower',
	doc: 'How many times as long as usual a step or a scenario may take.',
	sentence: ({ slower }) =>
		`nothing takes more than ${slower?.ratio ?? 1} times as long as over the last ${slower?.runs ?? 0} runs`,
	judge(gate, { steps, past, run }) {
		if (!gate.slower) return undefined;
		const own = past.filter(({ branch }) => branch === run.branch);
		// a branch of its own is held against all of them until it has a past
		const { places, judged } = slowerThan(steps, own.length >= LEAST_RUNS ? own : past, gate.slower);
		return {
			holds: places.length === 0,
			because:
				judged === 0
					? `not judged yet: there are ${counted(past.length, 'earlier run')}, and ${LEAST_RUNS} are needed`
					: `${places.length} of ${judged} are slower`,
			places: shownPlaces(places)
		};
	}
};
