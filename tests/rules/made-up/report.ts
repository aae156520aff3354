import type { ReportKind } from '#core/reports/index.ts';

export const madeUp: ReportKind = {
	key: 'count',
	ending: 'count',
	label: 'count',
	doc: 'How many steps there were.',
	open() {
		let steps = 0;
		return {
			event: ({ type }) => {
				if (type === 'step') steps++;
				return '';
			},
			end: () => `${steps} steps`
		};
	}
};
