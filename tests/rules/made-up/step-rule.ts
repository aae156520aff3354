import type { StepRule } from '../../../src/core/lint/kind.ts';

export const madeUp: StepRule = {
	code: 'lint.json',
	doc: 'A path that shouts.',
	example: { send: 'GET /BERTHS' },
	find: ({ send: { target } }) =>
		target === target.toUpperCase() ? [{ at: ['send'], values: { detail: 'loud' } }] : []
};
