import { parseDuration } from '../../model/units.ts';
import { problemOf } from '../problem.ts';
import type { FaultKind } from './kind.ts';

function parts(value: unknown): { calls: number; per: number } | undefined {
	const match = /^\s*(\d+)\s+per\s+(.+)$/.exec(String(value));
	const per = match && parseDuration(match[2]);
	return match && per ? { calls: Number(match[1]), per } : undefined;
}

export const limit: FaultKind = {
	key: 'limit',
	label: 'rate limit',
	doc: 'More calls than so many in a time are answered 429, with Retry-After (RFC 6585 section 4).',
	example: '10 per 1 s',
	schema: { type: 'string', pattern: '^\\s*\\d+\\s+per\\s+' },
	problem: (value) => (parts(value) ? undefined : 'a number of calls in a time is wanted, such as 10 per 1 s'),
	words: (value) => `at most ${String(value)}`,
	apply(given, value, { now, memory }) {
		const { calls, per } = parts(value) ?? { calls: 1, per: 1000 };
		const at = now();
		const recent = (memory.calls ?? []).filter((one) => one > at - per);
		if (recent.length < calls) {
			memory.calls = [...recent, at];
			return;
		}
		memory.calls = recent;
		const wait = Math.max(1, Math.ceil((recent[0]! + per - at) / 1000));
		Object.assign(
			given,
			problemOf(429, `at most ${String(value)}, by a fault on purpose`, {}, [['Retry-After', String(wait)]])
		);
	}
};
