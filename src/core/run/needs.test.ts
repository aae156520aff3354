import { describe, expect, test } from 'vitest';
import { loadProject } from '../project/index.ts';
import { blockingProblems, choose } from './index.ts';

/** What stands in the way of steps of `book`, in a project whose second step is as it is given. */
function inTheWay(second: string, only: string[], more = ''): string[] {
	const files = {
		'heron.yaml': 'heron: 1\ntitle: Locks\n',
		'connections/office.yaml': 'heron: 1\nbase: http://127.0.0.1:1\n',
		'connections/broken.yaml': 'heron: 1\nbase: 7\n',
		'collections/locks.yaml': `heron: 1\ntitle: Locks\nconnection: office\nscenarios:\n  - id: book\n    steps:\n      - { id: ask, send: GET /a }\n      - ${second}\n      - { id: more, call: other }\n  - id: other\n    steps:\n      - { id: there, send: GET /b }\n${more}`
	};
	const { workspace } = loadProject(
		Object.entries(files).map(([path, text]) => ({ path, text })),
		new Set(),
		() => undefined
	);
	const targets = ['locks/book'];
	const { scenarios } = choose(workspace, { targets });
	return blockingProblems(workspace, { targets, scenarios, only, environment: '' }).map(
		({ file, path }) => `${file} ${path.slice(0, 4).join('/')}`
	);
}

describe('steps that are sent by hand wait for nothing that they do not need', () => {
	const second = 'collections/locks.yaml scenarios/0/steps/1';
	test.each<[string, string, string]>([
		['a value that nobody keeps', "{ id: next, send: 'GET /a/{$steps.ask.id}' }", second],
		['a key that nobody knows', '{ id: next, sned: GET /a }', second],
		['a step that is none', '7', second],
		['a check that cannot be read', '{ id: next, send: GET /a, checks: [{ status: 999999 }] }', second],
		['a connection that is broken', '{ id: next, send: GET /a, connection: broken }', 'connections/broken.yaml base']
	])('%s, in another step', (_, step, problem) => {
		expect(inTheWay(step, ['ask'])).toEqual([]);
		expect(inTheWay(step, [])).toContain(problem);
		if (step.includes('next')) expect(inTheWay(step, ['next'])).toContain(problem);
	});
	test('what a step that is sent calls stands in its way', () => {
		const more = '      - { id: far, send: GET /c, checks: [{ status: x }] }\n';
		expect(inTheWay('{ id: next, send: GET /b }', ['ask'], more)).toEqual([]);
		expect(inTheWay('{ id: next, send: GET /b }', ['more'], more)).toEqual([
			'collections/locks.yaml scenarios/1/steps/1'
		]);
	});
});
