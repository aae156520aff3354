import { HeronError } from '../errors.ts';
import { counted } from '../messages.ts';
import { effectOf } from '../model/method.ts';
import type { Workspace } from '../project/index.ts';
import { calledScenario, type Chosen } from './plan.ts';

const NAMED = 12;

/** Calls of a run that may change something, as `collection/scenario › POST /path`; those of steps that are off left out. */
export function unsafeCalls(workspace: Workspace, scenarios: Chosen[], only: string[] = []): string[] {
	const callsOf = (chosen: Chosen, key: string, wanted: string[], seen: string[]): string[] =>
		chosen.scenario.steps.flatMap(({ id, off, send, call }) => {
			if (wanted.length > 0 ? !wanted.includes(id) : off) return [];
			if (send) return effectOf(send.method) === 'safe' ? [] : [`${key} › ${send.method} ${send.target}`];
			const called = call && calledScenario(workspace, chosen, call.target);
			return called && !seen.includes(called.key) ? callsOf(called, `${key} › ${id}`, [], [...seen, called.key]) : [];
		});
	return scenarios.flatMap((chosen) => callsOf(chosen, chosen.key, only, [chosen.key]));
}

/**
 * Refuses what may change something in an environment that is guarded, unless it was allowed.
 * @throws HeronError run.guarded, with each call as a problem
 */
export function assertAllowed(
	workspace: Workspace,
	scenarios: Chosen[],
	environment: string,
	{ only = [], allowed, how }: { only?: string[]; allowed: boolean; how: string }
): void {
	const guarded = workspace.environments.get(environment)?.guarded;
	if (!guarded || allowed) return;
	const calls = unsafeCalls(workspace, scenarios, only);
	if (calls.length === 0) return;
	const rest = calls.length > NAMED ? [`and ${calls.length - NAMED} more`] : [];
	throw new HeronError(
		'run.guarded',
		{ environment, count: counted(calls.length, 'call'), how },
		{
			problems: [...calls.slice(0, NAMED), ...rest].map((message) => ({
				code: 'run.guarded',
				message,
				file: `environments/${environment}.yaml`,
				path: ['guarded']
			}))
		}
	);
}
