import type { SelectorKind } from './kind.ts';

export const whole: SelectorKind = {
	name: 'body',
	doc: 'The whole body: as data when it is JSON, else its text.',
	example: 'body',
	fits: (selector) => selector === 'body',
	problem: () => undefined,
	select(_, view) {
		if (view.reply.body.length === 0) return { found: false };
		const value = view.body();
		return { found: true, value, ...(value === view.text ? { text: true } : {}) };
	}
};
