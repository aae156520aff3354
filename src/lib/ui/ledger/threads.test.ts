import { parseStep } from '#core/steps/index.ts';
import { describe, expect, test } from 'vitest';
import { threadsOf } from './threads.ts';

const steps = (...sends: string[]) => sends.map((send, i) => parseStep({ id: `s${i}`, send, keep: { x: '$.x' } }));

describe('threads', () => {
	test('join the step that keeps with all that use it', () => {
		const found = threadsOf(steps('GET /a', 'GET /b', 'GET /{$steps.s0.x}', 'GET /{$steps.s0.x}'));
		expect(found).toEqual([{ step: 's0', from: 0, uses: [2, 3], lane: 0 }]);
	});
	test('that overlap take lanes of their own, and a lane that is free again is used again', () => {
		const found = threadsOf(
			steps('GET /a', 'GET /{$steps.s0.x}', 'GET /{$steps.s1.x}{$steps.s0.x}', 'GET /{$steps.s2.x}')
		);
		expect(found.map((t) => [t.step, t.lane])).toEqual([
			['s0', 0],
			['s1', 1],
			['s2', 0]
		]);
	});
	test('of a use before its keep, or of an unknown step, are not drawn', () => {
		expect(threadsOf(steps('GET /{$steps.s1.x}', 'GET /{$steps.no.x}'))).toEqual([]);
	});
});
