import type { StepKind } from '#core/steps/index.ts';

export const madeUp: StepKind<'tide', string> = {
	key: 'tide',
	label: 'tide',
	doc: 'Sets the state of the tide at a place.',
	example: { tide: 'Staithe Lock' },
	fields: [
		{
			name: 'tide',
			doc: 'The place.',
			schema: { type: 'string' },
			check: (value, report) => {
				if (typeof value !== 'string') report([], 'a place is wanted');
			}
		}
	],
	fresh: () => ({ tide: '' }),
	parse: ({ tide }) => String(tide),
	summary: (place) => `tide at ${place}`,
	note: (place) => `asks for the tide at ${place}`,
	reads: (place) => [place],
	sets: () => ({ tide: 'high' }),
	async run(place, act) {
		act.set('tide', `high at ${await act.text(place)}`);
	}
};
