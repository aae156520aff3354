import type { CheckKind } from '#core/checks/index.ts';

export const madeUp: CheckKind = {
	key: 'vowels',
	label: 'vowels',
	doc: 'How many vowels the body has.',
	example: { vowels: { above: 2 } },
	form: 'relations',
	problem: () => undefined,
	whole: () => true,
	show: (value) => `${Number(value)} vowels`,
	look: ({ view }) => ({
		found: true,
		value: [...new TextDecoder().decode(view.reply.body)].filter((letter) => 'aeiou'.includes(letter)).length
	})
};
