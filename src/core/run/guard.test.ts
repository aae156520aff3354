import { stringify } from 'yaml';
import { describe, expect, test } from 'vitest';
import { loadProject } from '../project/index.ts';
import { assertAllowed, unsafeCalls } from './guard.ts';
import { allScenarios } from './plan.ts';

const steps = [
	{ id: 'look', send: 'GET /x' },
	{ id: 'change', send: 'POST /x' },
	{ id: 'rest', send: 'DELETE /x', off: true },
	{ id: 'into', call: 'inner' },
	{ id: 'spared', call: 'inner', off: true }
];
const { workspace } = loadProject(
	[
		{ path: 'heron.yaml', text: 'heron: 1\n' },
		{ path: 'connections/c.yaml', text: 'heron: 1\nbase: http://127.0.0.1:1\n' },
		{ path: 'environments/live.yaml', text: 'heron: 1\nguarded: true\n' },
		{ path: 'environments/local.yaml', text: 'heron: 1\n' },
		{
			path: 'collections/a.yaml',
			text: stringify({
				heron: 1,
				connection: 'c',
				scenarios: [
					{ id: 'outer', steps },
					{
						id: 'inner',
						steps: [
							{ id: 'put', send: 'PUT /y' },
							{ id: 'quiet', send: 'PATCH /y', off: true }
						]
					}
				]
			})
		}
	],
	new Set()
);
const outer = allScenarios(workspace).filter(({ key }) => key === 'a/outer');

describe('calls that may change something', () => {
	test.each<[string, string[], string[]]>([
		['steps that are off are no such calls, in a scenario that is called neither', [], ['POST /x', 'PUT /y']],
		['one that is sent by hand is, although it is off', ['rest'], ['DELETE /x']],
		['what is not sent by hand is not', ['look'], []],
		['a call that is sent by hand, with what it calls', ['spared'], ['PUT /y']]
	])('%s', (_, only, expected) => {
		expect(unsafeCalls(workspace, outer, only).map((call) => call.replace(/^.* › (?=[A-Z]+ \/)/, ''))).toEqual(
			expected
		);
	});
	test('are refused where real users live, unless that was allowed', () => {
		const ask =
			(environment: string, allowed: boolean, only: string[] = []) =>
			() =>
				assertAllowed(workspace, outer, environment, { allowed, how: '', only });
		expect(ask('live', false)).toThrow(/2 calls may change something/);
		expect(ask('live', true)).not.toThrow();
		expect(ask('local', false)).not.toThrow();
		expect(ask('live', false, ['look'])).not.toThrow();
	});
});
