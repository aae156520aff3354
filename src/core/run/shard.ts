import type { Chosen } from './plan.ts';

/** One of several parts of a run, from 1. */
export interface Shard {
	index: number;
	count: number;
}

/** `2/3`; undefined for what is none. */
export function parseShard(text: string): Shard | undefined {
	const [, index, count] = /^(\d{1,4})\/(\d{1,4})$/.exec(text) ?? [];
	const shard = { index: Number(index), count: Number(count) };
	return shard.index >= 1 && shard.index <= shard.count ? shard : undefined;
}

/**
 * The scenarios of one part. All parts together hold each scenario once, whichever is asked for first: it depends on the
 * scenarios and their times alone. The longest are dealt out first, each to the part that has least so far.
 * @param times milliseconds of scenarios when they last ran, by `collection/scenario`; others count by their steps
 */
export function shardOf(
	scenarios: readonly Chosen[],
	{ index, count }: Shard,
	times: ReadonlyMap<string, number> = new Map()
): Chosen[] {
	const stepsOf = ({ scenario }: Chosen): number => Math.max(1, scenario.steps.length);
	const known = scenarios.filter(({ key }) => times.has(key));
	const steps = known.reduce((sum, one) => sum + stepsOf(one), 0);
	const ms = known.reduce((sum, { key }) => sum + times.get(key)!, 0);
	// what never ran is taken to be as quick as the others are, step by step
	const each = steps > 0 && ms > 0 ? ms / steps : 1;
	const weightOf = (one: Chosen): number => times.get(one.key) ?? stepsOf(one) * each;
	const ordered = [...scenarios].sort((a, b) => weightOf(b) - weightOf(a) || (a.key < b.key ? -1 : 1));
	const loads = Array.from({ length: count }, () => 0);
	const mine = new Set<Chosen>();
	for (const one of ordered) {
		const least = loads.indexOf(Math.min(...loads));
		loads[least] = loads[least]! + weightOf(one);
		if (least === index - 1) mine.add(one);
	}
	// in the order in which they would run
	return scenarios.filter((one) => mine.has(one));
}
