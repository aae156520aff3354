import { asText } from '../model/written.ts';
import type { StepKind } from './kind.ts';

export const script: StepKind<'script', string> = {
	key: 'script',
	label: 'script',
	doc: 'JavaScript for what nothing else can say, in a sandbox without network, files and clock. It sees request and response of the last call, values.env, .row, .steps and .run, and now, and has keep(name, value), check(what, holds), equal(what, received, expected) and log(…). Integers beyond 2^53 are BigInt. What it makes after it read a secret is hidden like one, but for keep(name, value, { shown: true }).',
	example: { script: "keep('nights', response.body.items.reduce((all, item) => all + item.nights, 0));" },
	fields: [
		{
			name: 'script',
			doc: 'The text of the script.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value !== 'string' || !value.trim()) report([], 'the text of a script is wanted');
			}
		}
	],
	fresh: () => ({ script: "check('it came', response.status < 400);\n" }),
	parse: (given) => asText(given.script),
	summary: () => 'script',
	detail: (text) => text.trim().split('\n')[0]!,
	note: () => 'runs a script',
	// as far as its text tells
	keeps: (text) => [...text.matchAll(/\bkeep\(\s*(["'`])(\w+)\1/g)].map(([, , name]) => ({ name: name! })),
	judges: true,
	alone: true,
	run: (text, act) => act.script(text)
};
