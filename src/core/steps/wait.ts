import { HeronError } from '../errors.ts';
import { parseDuration } from '../model/units.ts';
import { asText } from '../model/written.ts';
import { hasExpression } from '../values/index.ts';
import type { StepKind } from './kind.ts';

export const wait: StepKind<'wait', string> = {
	key: 'wait',
	label: 'wait',
	doc: 'Waits before the next step.',
	example: { wait: '500 ms' },
	fields: [
		{
			name: 'wait',
			label: 'how long',
			doc: 'How long: a number with ms, s or min.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value === 'string' && hasExpression(value)) return;
				if (parseDuration(value) === undefined) report([], 'a duration is wanted, such as 500 ms, 2 s or 1 min');
			}
		}
	],
	fresh: () => ({ wait: '500 ms' }),
	parse: (given) => asText(given.wait),
	summary: (duration) => `wait ${duration}`,
	note: (duration) => `waits ${duration}`,
	reads: (duration) => [duration],
	async run(duration, act) {
		const text = await act.text(duration);
		const ms = parseDuration(text);
		if (ms === undefined) throw new HeronError('value.duration', { text, example: '500 ms' });
		await act.pause(ms);
	}
};
