import { HeronError } from '../../errors.ts';
import type { Step, Until } from '../../model/collection.ts';
import { showDuration } from '../../model/units.ts';
import type { Evaluator, Scope } from '../../values/index.ts';
import { fail, type StepContext } from '../context.ts';
import type { StepResult } from '../events.ts';
import type { Ports } from '../ports.ts';
import { isTriedAgain, pauseBefore } from '../scenario.ts';

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
	for (let pause = until.every; ; pause *= until.growth) {
		result.attempts++;
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
		if ((until.times > 0 && result.attempts >= until.times) || spent + pause > until.within) {
			const received = `not so after ${result.attempts} tries in ${showDuration(spent)}`;
			const expected = `${that === undefined ? 'all passes' : String(that)} within ${showDuration(until.within)}`;
			result.checks = [{ index: -1, subject: 'until', relation: 'until', expected, received, holds: false }];
			if (result.outcome === 'passed') result.outcome = 'failed';
			return;
		}
		await ports.sleep(pause, context.signal);
	}
}

/** Calls again while it does not pass, as often as the step says. */
export async function tried(
	ports: Ports,
	step: Step,
	call: () => Promise<void>,
	result: StepResult,
	context: StepContext
): Promise<void> {
	for (;;) {
		result.attempts++;
		await call();
		if (!isTriedAgain(result, step.retry) || result.attempts > step.retry.times || context.signal?.aborted) return;
		await ports.sleep(pauseBefore(result.attempts, step.retry, result, ports.now()), context.signal);
	}
}
