import type { BodyKind } from '#core/bodies/index.ts';
import { utf8 } from '#core/values/index.ts';

export const madeUp: BodyKind = {
	key: 'reversed',
	label: 'reversed',
	doc: 'A text from its end to its beginning.',
	example: 'edit wolS',
	fresh: '',
	schema: { type: 'string' },
	contentType: 'text/plain',
	check: () => {},
	build: async (value, { evaluator, scope }) => ({
		bytes: utf8([...(await evaluator.text(String(value), scope))].reverse().join('')),
		contentType: 'text/plain'
	})
};
