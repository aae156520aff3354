import { show } from '../model/show.ts';
import type { CheckKind } from './kind.ts';

const fits = (code: number, expected: unknown): boolean => {
	if (Array.isArray(expected)) return expected.some((one) => fits(code, one));
	const text = String(expected).toUpperCase();
	return /^[1-5]XX$/.test(text) ? Math.floor(code / 100) === Number(text[0]) : code === Number(text);
};

export const status: CheckKind<'status'> = {
	key: 'status',
	label: 'status',
	doc: 'The status code: one code, a list, or a range as in OpenAPI (2XX).',
	example: { status: [201, '2XX'] },
	form: 'value',
	problem(value) {
		const list = Array.isArray(value) ? value : [value];
		const wrong = list.find((one) => !/^([1-5]XX|[1-9]\d\d|\{\$[\s\S]*\})$/i.test(String(one)));
		if (list.length > 0 && wrong === undefined) return undefined;
		return `${show(wrong ?? '')} is not a status: a code (201), a list ([200, 201]) or a range (2XX) is`;
	},
	look: ({ view }) => ({ found: true, value: view.reply.status }),
	judge({ value }, expected, { view }) {
		const received = `${view.reply.status} ${view.reply.reason}`.trim();
		return { holds: fits(value as number, expected), received };
	}
};
