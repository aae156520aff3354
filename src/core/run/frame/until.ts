import { HeronError } from '../../errors.ts';
import type { Until } from '../../model/step.ts';
import { showDuration } from '../../model/units.ts';
import type { Evaluator, Scope } from '../../values/index.ts';
import { fail, type StepContext } from '../context.ts';
import type { StepResult } from '../events.ts';
import type { Ports } from '../ports.ts';

/** Calls until an expression is true, or without one until all passes. */
export async function untilHolds(
	{ ports, evaluator }: { ports: Ports; evaluator: Evaluator },
	until: Until,
	call: () => Promise<void>,
	result: StepResult,
	scope: Scope,
	context: StepContext
): Promise<void> {
	const begun = ports.steady();
	const that = until.check?.relations[0]?.expected;
	for (let tries = 1, pause = until.every; ; tries++, pause *= until.growth) {
		// the first one is counted already
		if (tries > 1) result.attempts++;
		await call();
		try {
			const holds =
				that === undefined ? result.outcome === 'passed' : (await evaluator.expression(String(that), scope)) === true;
			if (holds) return;
		} catch (error) {
			// it asks for what a call that did not pass has not kept: that call says why
			if (result.outcome === 'passed') throw error;
			return;
		}
		const spent = ports.steady() - begun;
		if (context.signal?.aborted) return fail(result, new HeronError('send.cancelled'));
		if ((until.times > 0 && tries >= until.times) || spent + pause > until.within) {
			const received = `not so after ${tries} tries in ${showDuration(spent)}`;
			const expected = `${that === undefined ? 'all passes' : String(that)} within ${showDuration(until.within)}`;
			result.checks = [{ index: -1, subject: 'until', relation: 'until', expected, received, holds: false }];
			if (result.outcome === 'passed') result.outcome = 'failed';
			return;
		}
		await ports.sleep(pause, context.signal);
	}
}
