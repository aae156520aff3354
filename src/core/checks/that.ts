import { templateProblem } from '../values/index.ts';
import type { CheckKind } from './kind.ts';
import { show } from '../model/show.ts';

const bare = (value: unknown): string =>
	String(value)
		.trim()
		.replace(/^\{(\$[\s\S]*)\}$/, '$1');

export const that: CheckKind<'that'> = {
	key: 'that',
	label: 'that',
	doc: 'An expression over $request, $response and all other names that must be true.',
	example: { that: '$count($response.body.items) = $steps.all.total' },
	form: 'value',
	expression: true,
	whole: (expected) => String(expected).includes('$response'),
	problem(value) {
		if (typeof value !== 'string' || !value.trim()) return 'an expression is wanted';
		return templateProblem(bare(value), true)?.message;
	},
	look: () => ({ found: true, value: undefined }),
	async judge(_, expected, tools) {
		const source = bare(expected);
		const value = await tools.expression(source);
		if (value === true) return { holds: true, received: show(value) };
		const reason = await tools.reason?.(source);
		return { holds: false, received: reason ? `${show(value)}: ${reason}` : show(value) };
	}
};
