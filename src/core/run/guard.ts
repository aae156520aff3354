import { HeronError } from '../errors.ts';
import { counted } from '../messages.ts';
import { effectOf } from '../model/method.ts';
import type { Workspace } from '../model/workspace.ts';
import type { Chosen } from './plan.ts';

const NAMED = 12;

/** Calls of a run that may change something, as `collection/scenario › POST /path`; those of steps that are off left out. */
export function unsafeCalls(scenarios: Chosen[], only: string[] = []): string[] {
	return scenarios.flatMap(({ key, scenario }) =>
		scenario.steps.flatMap(({ id, off, send }) => {
			const runs = only.length > 0 ? only.includes(id) : !off;
			return runs && send && effectOf(send.method) !== 'safe' ? [`${key} › ${send.method} ${send.target}`] : [];
		})
	);
}

/**
 * Refuses what may change something in an environment that is guarded, unless it was allowed.
 * @throws HeronError run.guarded, with each call as a problem
 */
export function demandAllowed(
	workspace: Workspace,
	scenarios: Chosen[],
	environment: string,
	{ only = [], allowed, how }: { only?: string[]; allowed: boolean; how: string }
): void {
	const guarded = workspace.environments.get(environment)?.guarded;
	if (!guarded || allowed) return;
	const calls = unsafeCalls(scenarios, only);
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
