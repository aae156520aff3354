import { describe, expect, test } from 'vitest';
import { clockProblem, nextTimes, timesBetween } from './index.ts';

const at = (text: string) => Date.parse(text);
const iso = (list: number[]) => list.map((ms) => new Date(ms).toISOString().slice(0, 16));
const now = at('2026-11-28T10:00:00Z');

describe('times by the clock', () => {
	test.each([
		['every night', '0 4 * * *', 'UTC', ['2026-11-29T04:00', '2026-11-30T04:00']],
		['on working days', '30 6 * * 1-5', 'UTC', ['2026-11-30T06:30', '2026-12-01T06:30']],
		['every quarter of an hour', '*/15 * * * *', 'UTC', ['2026-11-28T10:15', '2026-11-28T10:30']],
		['in a time zone', '0 4 * * *', 'Europe/Amsterdam', ['2026-11-29T03:00', '2026-11-30T03:00']],
		// POSIX: when both days are given either is enough
		['on the first, or on Mondays', '0 0 1 * 1', 'UTC', ['2026-11-30T00:00', '2026-12-01T00:00']]
	])('%s', (_, pattern, zone, expected) => {
		expect(iso(nextTimes(pattern, zone, now, 2))).toEqual(expected);
	});
	test('summer time comes and goes: once a night, at four on the wall', () => {
		const list = iso(nextTimes('0 4 * * *', 'Europe/Amsterdam', at('2026-03-27T12:00:00Z'), 3));
		expect(list).toEqual(['2026-03-28T03:00', '2026-03-29T02:00', '2026-03-30T02:00']);
	});
	test('what was due while nobody looked', () => {
		expect(iso(timesBetween('0 * * * *', 'UTC', at('2026-11-28T07:00:00Z'), now))).toEqual([
			'2026-11-28T08:00',
			'2026-11-28T09:00',
			'2026-11-28T10:00'
		]);
		expect(timesBetween('* * * * *', 'UTC', at('2020-01-01T00:00:00Z'), now)).toHaveLength(1000);
	});
	test.each([
		['', 'UTC', /five fields/],
		['0 4 * *', 'UTC', /five fields/],
		['0 0 4 * * *', 'UTC', /five fields/],
		['@daily', 'UTC', /five fields/],
		['61 4 * * *', 'UTC', /no time by the clock/],
		['a b c d e', 'UTC', /no time by the clock/],
		['0 0 30 2 *', 'UTC', /never comes/],
		['0 4 * * *', 'Mars/Olympus', /no time zone/],
		['0 4 * * *', '', /no time zone/]
	])('"%s" in "%s" is refused', (pattern, zone, words) => {
		expect(clockProblem(pattern, zone, now)).toMatch(words);
	});
	test('what is right is taken', () => {
		expect(clockProblem(' 0 4 * * 1-5 ', 'Europe/Amsterdam', now)).toBeUndefined();
	});
});
