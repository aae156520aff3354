import { expect, test } from 'vitest';
import { runAll } from '../support/project.ts';

const project = (reset: string, board: string) => ({
	standIns: { board: { reset, answers: [{ id: 'a', ask: 'GET /', answer: { status: 200 } }] } },
	connections: { board: { base: 'https://board.reedmere.example' } },
	environments: { local: { standIns: { board: 'board' } } },
	environment: 'local',
	set: { standIns: { board } },
	collections: {
		board: {
			connection: 'board',
			scenarios: [
				{
					id: 'one',
					steps: [
						{ id: 'first', send: 'GET /' },
						{ id: 'second', send: 'GET /' }
					]
				}
			]
		}
	}
});

test.each(['run', 'scenario'])(
	'a stand-in that cannot be reset (%s) keeps its scenario from beginning, and says why',
	async (reset) => {
		// nobody listens at the discard port of loopback
		const results = await runAll(project(reset, 'http://127.0.0.1:9'));
		expect(results.map(({ step, outcome }) => `${step} ${outcome}`)).toEqual(['first error', 'second skipped']);
		expect(results[0]!.error?.message).toMatch(/127\.0\.0\.1:9|refused/);
		expect(results[0]!.exchanges).toEqual([]);
	}
);
