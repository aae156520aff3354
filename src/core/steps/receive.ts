import { parseChecks, requestChecks } from '../checks/index.ts';
import { parsePath } from '../model/route.ts';
import type { ReceiveSpec } from '../model/step.ts';
import { parseDuration } from '../model/units.ts';
import { asText } from '../model/written.ts';
import { hasExpression } from '../values/index.ts';
import { checks } from './fields/checks.ts';
import { keep, parseKeep } from './fields/keep.ts';
import type { StepKind } from './kind.ts';

/** `METHOD /path`, or `/path` for any method, taken apart; undefined when it is not of that form. */
function parseReceive(text: string): { method: string; path: string } | undefined {
	const match = /^\s*(?:([A-Za-z!#$%&'*+.^_`|~-]+)\s+)?(\/\S*)\s*$/.exec(text);
	return match ? { method: match[1] ?? '', path: match[2]! } : undefined;
}

export const receive: StepKind<'receive', ReceiveSpec> = {
	key: 'receive',
	label: 'receive a call',
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
		checks('must', 'What must hold of the request: the first call for which all does is meant.', requestChecks),
		keep
	],
	fresh: ({ standIns }) => ({ receive: 'POST /', from: standIns[0] ?? '' }),
	parse(given) {
		const { method, path } = parseReceive(asText(given.receive)) ?? { method: '', path: '/' };
		const parts = parsePath(path);
		return {
			...{ method, path, parts: typeof parts === 'string' ? [] : parts },
			...{ from: asText(given.from), within: asText(given.within) },
			...{ must: parseChecks(given.must), keep: parseKeep(given.keep) }
		};
	},
	summary: ({ method, path }) => `receive ${method ? `${method} ` : ''}${path}`,
	detail: ({ from }) => `at ${from || '…'}`,
	note: ({ method, path, from }) => `waits for ${method || 'a call'} ${path} at the stand-in ${from}`,
	reads: ({ within }) => [within],
	checks: ({ must }) => must,
	keeps: (spec) => spec.keep,
	names: ({ from }) => [{ what: 'stand-in', field: 'from', name: from }],
	wants: 'stand-ins',
	alone: true,
	run: (spec, act) => act.receive(spec)
};
