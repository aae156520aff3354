import { parseDuration } from '../model/units.ts';
import { hasExpression } from '../values/index.ts';
import type { StepKind } from './kind.ts';

export const wait: StepKind = {
	key: 'wait',
	label: 'wait',
	doc: 'Waits before the next step.',
	example: { wait: '500 ms' },
	fields: [
		{
			name: 'wait',
			doc: 'How long: a number with ms, s or min.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value === 'string' && hasExpression(value)) return;
				if (parseDuration(value) === undefined) report([], 'a duration is wanted, such as 500 ms, 2 s or 1 min');
			}
		}
	]
};
