import { requestChecks } from '../checks/index.ts';
import { parsePath } from '../stand-in/path.ts';
import { parseDuration } from '../model/units.ts';
import { hasExpression } from '../values/index.ts';
import type { StepKind } from './kind.ts';
import { checkCheck, checkSchema, keep } from './send.ts';

/** `METHOD /path`, or `/path` for any method, taken apart; undefined when it is not of that form. */
export function parseReceive(text: string): { method: string; path: string } | undefined {
	const match = /^\s*(?:([A-Za-z!#$%&'*+.^_`|~-]+)\s+)?(\/\S*)\s*$/.exec(text);
	return match ? { method: match[1] ?? '', path: match[2]! } : undefined;
}

export const receive: StepKind = {
	key: 'receive',
	label: 'receive',
	doc: 'Waits for a call that comes to a stand-in, and looks at its request.',
	example: {
		receive: 'POST /board/notices',
		from: 'notices',
		within: '10 s',
		must: [{ body: '$.boat', equals: 'Slow Tide' }]
	},
	fields: [
		{
			name: 'receive',
			doc: 'METHOD /path with {name} for any part, or /path for any method.',
			schema: { type: 'string' },
			check(value, report) {
				const read = typeof value === 'string' ? parseReceive(value) : undefined;
				if (!read) return report([], 'a method and a path are wanted, such as POST /board/notices');
				const parts = parsePath(read.path);
				if (typeof parts === 'string') report([], parts);
			}
		},
		{
			name: 'from',
			doc: 'The stand-in that it comes to.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value !== 'string' || !value.trim()) report([], 'the name of a stand-in is wanted');
			}
		},
		{
			name: 'within',
			doc: 'How long it is waited for; 10 s when left out.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value === 'string' && hasExpression(value)) return;
				if (parseDuration(value) === undefined) report([], 'a duration is wanted, such as 10 s');
			}
		},
		{
			name: 'must',
			doc: 'What must hold of the request: the first call for which all does is meant.',
			schema: checkSchema(requestChecks),
			check(value, report) {
				if (!Array.isArray(value)) return report([], 'a list of checks is wanted');
				value.forEach((item, index) => checkCheck(item, index, report, requestChecks));
			}
		},
		keep
	]
};
