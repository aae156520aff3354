import { asText } from '../model/written.ts';
import type { StepKind } from './kind.ts';

export const stop: StepKind<'stop', string> = {
	key: 'stop',
	label: 'stop here',
	doc: 'Ends the scenario, mostly with `when`: the steps below are skipped with the reason, and clean-up is done.',
	example: { stop: 'nothing is free this week', when: '$steps.list.free = 0' },
	fields: [
		{
			name: 'stop',
			label: 'ends the scenario because',
			doc: 'The reason.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value !== 'string' || !value.trim()) report([], 'a reason is wanted');
			}
		}
	],
	fresh: () => ({ stop: 'a reason' }),
	parse: (given) => asText(given.stop),
	summary: () => 'stop',
	detail: (reason) => reason,
	note: (reason, { when }) => `ends the scenario${when ? ` when ${when}` : ''}: ${reason}`,
	reads: (reason) => [reason],
	ends: true,
	async run(reason, act) {
		act.reason(await act.text(reason));
	}
};
