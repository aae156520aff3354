/* eslint-disable @typescript-eslint/no-explicit-any */
import { expect, it } from 'vitest';
import type { Json } from '../model/json.ts';
import { documentDifferences } from './index.ts';

const before = {
	title: 'Bookings',
	scenarios: [
		{
			id: 'book',
			steps: [
				{ id: 'sign-in', send: 'POST /sessions', checks: [{ status: 201 }] },
				{ id: 'make', send: 'POST /bookings' }
			]
		}
	]
};
const changed = (change: (value: any) => void): Json => {
	const value = structuredClone(before) as unknown as Json;
	change(value);
	return value;
};
it.each<[string, (value: any) => void, string[]]>([
	['nothing', () => {}, []],
	['a title', (v) => (v.title = 'Berths'), ['title was "Bookings", is "Berths"']],
	[
		'a check of a step',
		(v) => (v.scenarios[0].steps[0].checks[0].status = 200),
		['book › sign-in › checks[1].status was 201, is 200']
	],
	[
		'a step that is new',
		(v) => v.scenarios[0].steps.push({ id: 'end', wait: '1 s' }),
		['book › end is new: {"id":"end","wait":"1 s"}']
	],
	[
		'a step that is gone',
		(v) => v.scenarios[0].steps.pop(),
		['book › make is gone: {"id":"make","send":"POST /bookings"}']
	]
])('%s is told by scenario, step and field', (_, change, expected) => {
	expect(documentDifferences(before as unknown as Json, changed(change))).toEqual(expected);
});
