import type { StepKind } from './kind.ts';

export const stop: StepKind = {
	key: 'stop',
	label: 'stop here',
	doc: 'Ends the scenario, mostly with `when`: the steps below are skipped with the reason, and clean-up is done.',
	example: { stop: 'nothing is free this week', when: '$steps.list.free = 0' },
	fields: [
		{
			name: 'stop',
			doc: 'The reason.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value !== 'string' || !value.trim()) report([], 'a reason is wanted');
			}
		}
	]
};
