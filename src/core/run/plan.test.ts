import { describe, expect, test } from 'vitest';
import { stringify } from 'yaml';
import { loadProject } from '../project/index.ts';
import { scriptedPorts } from '../../../tests/support/scripted.ts';
import {
	allScenarios,
	choose,
	findUnkept,
	findUnresolved,
	secretVariable,
	startNames,
	summaryLine,
	titleOf,
	unrecordedRun,
	worst,
	type Outcome
} from './index.ts';
import { createQueue } from './queue.ts';

const scenario = (id: string, tags: string[] = [], off = false) => ({
	id,
	title: `Title ${id}`,
	tags,
	...(off ? { off } : {}),
	steps: [{ id: 'a', send: 'GET /' }]
});
const files: Record<string, unknown> = {
	'heron.yaml': { heron: 1, title: 'All of it' },
	'collections/bookings.yaml': {
		heron: 1,
		title: 'Bookings',
		scenarios: [scenario('book', ['smoke', 'write']), scenario('refuse', ['write']), scenario('odd', ['smoke'], true)]
	},
	'collections/permits.yaml': { heron: 1, title: 'Permits', scenarios: [scenario('upload', ['smoke'])] },
	'suites/smoke.yaml': { heron: 1, title: 'Smoke', scenarios: [{ tag: 'smoke' }], gate: { failed: 1, errors: 0 } },
	'suites/mixed.yaml': { heron: 1, title: 'Mixed', scenarios: ['permits', 'bookings/odd'] }
};
const { workspace } = loadProject(
	Object.entries(files).map(([path, value]) => ({ path, text: stringify(value) })),
	new Set(Object.keys(files))
);
const keys = (targets: string[], tag?: string) =>
	choose(workspace, { targets, ...(tag === undefined ? {} : { tag }) }).scenarios.map((one) => one.key);

describe('what runs', () => {
	test.each<[string, string[], string | undefined, string[]]>([
		[
			'nothing named: all but those that are off',
			[],
			undefined,
			['bookings/book', 'bookings/refuse', 'permits/upload']
		],
		['a collection', ['permits'], undefined, ['permits/upload']],
		['a scenario', ['bookings/refuse'], undefined, ['bookings/refuse']],
		['one that is off, by its own name', ['bookings/odd'], undefined, ['bookings/odd']],
		['a suite by tag leaves out what is off', ['smoke'], undefined, ['bookings/book', 'permits/upload']],
		['a suite that names one that is off', ['mixed'], undefined, ['bookings/odd', 'permits/upload']],
		[
			'several, each once, in the order of the project',
			['permits', 'bookings/book', 'bookings'],
			undefined,
			['bookings/book', 'bookings/refuse', 'permits/upload']
		],
		['a tag', [], 'write', ['bookings/book', 'bookings/refuse']],
		['either of two tags', [], 'write,smoke', ['bookings/book', 'bookings/refuse', 'permits/upload']],
		['none with a tag', [], '!write', ['permits/upload']],
		['one and not the other', [], 'smoke,!write', ['permits/upload']],
		['a tag within a collection', ['bookings'], 'smoke', ['bookings/book']]
	])('%s', (_, targets, tag, wanted) => expect(keys(targets, tag)).toEqual(wanted));

	test('a name that is nothing is refused with the nearest', () => {
		expect(() => choose(workspace, { targets: ['bookings/bok'] })).toThrow('did you mean "bookings/book"?');
		expect(() => choose(workspace, { targets: ['book'] })).toThrow('did you mean "bookings/book"?');
	});
	test.each<[string[], string]>([
		[[], 'All of it'],
		[['smoke'], 'Smoke'],
		[['bookings'], 'Bookings'],
		[['bookings/book'], 'Title book'],
		[['bookings', 'permits'], 'All of it']
	])('%j is called %s', (targets, title) =>
		expect(titleOf(workspace, targets, choose(workspace, { targets }))).toBe(title)
	);
	test('each scenario knows its collection', () => {
		expect(allScenarios(workspace).map((one) => one.collectionTitle)).toEqual([
			'Bookings',
			'Bookings',
			'Bookings',
			'Permits'
		]);
	});
});

describe('secrets have a variable each', () => {
	test.each([
		['clerkPassword', 'HERON_SECRET_CLERK_PASSWORD'],
		['key', 'HERON_SECRET_KEY'],
		['api-key2', 'HERON_SECRET_API_KEY2'],
		['already_snake', 'HERON_SECRET_ALREADY_SNAKE']
	])('%s is %s', (name, variable) => expect(secretVariable(name)).toBe(variable));
});

describe('verdicts', () => {
	test.each<[Outcome[], Outcome]>([
		[[], 'skipped'],
		[['skipped', 'passed'], 'passed'],
		[['passed', 'error', 'skipped'], 'error'],
		[['error', 'failed'], 'failed']
	])('of %j the worst is %s', (outcomes, wanted) => expect(worst(outcomes)).toBe(wanted));
	const summary = (failed: number, errors: number) => ({
		passed: 1,
		failed,
		errors,
		skipped: 0,
		unsteady: 0,
		quarantined: 0,
		checks: 0,
		checksFailed: 0
	});
	test('the summary counts one error as one error', () => {
		expect(summaryLine(summary(2, 1))).toBe('1 passed, 2 failed, 1 error, 0 skipped');
		expect(summaryLine({ ...summary(0, 0), unsteady: 2, quarantined: 1 })).toBe(
			'1 passed, 2 unsteady, 0 failed, 0 errors, 1 quarantined, 0 skipped'
		);
	});
});

describe('the queue of events', () => {
	test('gives everything in order, whoever is quicker', async () => {
		const queue = createQueue<number>();
		const got: number[] = [];
		const reading = (async () => {
			for await (const batch of queue.drain()) got.push(...batch);
		})();
		queue.push(1);
		queue.push(2);
		await new Promise((resolve) => setTimeout(resolve, 1));
		queue.push(3);
		queue.close();
		await reading;
		expect(got).toEqual([1, 2, 3]);
	});
	test('what was pushed before it is read is not lost', async () => {
		const queue = createQueue<number>();
		queue.push(1);
		queue.close();
		const got: number[][] = [];
		for await (const batch of queue.drain()) got.push(batch);
		expect(got).toEqual([[1]]);
	});
});

describe('a credential or a connection that asks for what a step keeps is looked at before anything is sent', () => {
	const signIn = '{ id: in, send: POST /in, credential: none, connection: plain, keep: { token: $.token } }';
	const both =
		'$steps.in.token is not set: the credential clerk asks for it, and no step above keeps it|$steps.in.token is not set: the connection c asks for it, and no step above keeps it';
	test.each<[string, string[], string[]]>([
		['a step above keeps it', [signIn, '{ id: list, send: GET / }'], []],
		['no step keeps it', ['{ id: list, send: GET / }', '{ id: again, send: GET / }'], both.split('|')],
		['a step below keeps it', ['{ id: list, send: GET / }', signIn], both.split('|')],
		[
			'the step that keeps it is off',
			[signIn.replace('id: in', 'id: in, off: true'), '{ id: list, send: GET / }'],
			both.split('|')
		],
		['the step may be left out', ['{ id: list, send: GET /, when: $env.more }'], []],
		[
			'the step calls as somebody else, over another connection',
			['{ id: list, send: GET /, credential: none, connection: plain }'],
			[]
		]
	])('%s', async (_, steps, messages) => {
		const files = {
			'heron.yaml': 'heron: 1\nvariables: { more: true }\n',
			'connections/c.yaml':
				'heron: 1\nbase: http://h\ncredential: clerk\nheaders: { X-Visit: "{$steps.in.token}", X-Mark: "{$exists($steps.mark)}" }\n',
			'connections/plain.yaml': 'heron: 1\nbase: http://h\n',
			'credentials/clerk.yaml': 'heron: 1\nkind: bearer\ntoken: "{$steps.in.token}"\n',
			'collections/x.yaml': `heron: 1\nconnection: c\nscenarios:\n  - id: s\n    steps:\n${steps.map((step) => `      - ${step}\n`).join('')}`
		};
		const { workspace } = loadProject(
			Object.entries(files).map(([path, text]) => ({ path, text })),
			new Set(Object.keys(files))
		);
		expect(workspace.problems).toEqual([]);
		const { made } = scriptedPorts(() => ({}));
		const start = await startNames(workspace, '', { set: {}, secrets: {}, run: unrecordedRun('', 0) }, made);
		const problems = findUnresolved(workspace, allScenarios(workspace), start);
		expect(problems.map(({ message }) => message).toSorted()).toEqual(messages.toSorted());
		expect(findUnkept(workspace, allScenarios(workspace), '')).toEqual(problems);
		for (const { file, path } of problems)
			expect([file, path]).toEqual([
				'collections/x.yaml',
				['scenarios', 0, 'steps', steps[0]!.includes('off: true') ? 1 : 0]
			]);
	});
});

describe('a name without a value is named where it stands', () => {
	test.each<[string, string, Record<string, string>, [string, (string | number)[]][]]>([
		[
			'in a credential',
			'',
			{ 'credentials/clerk.yaml': 'kind: basic\nuser: warden\npassword: "{$secret.pass}"\n' },
			[['credentials/clerk.yaml', ['password']]]
		],
		[
			'in a credential, and not in its test vector, which brings its own',
			'',
			{
				'credentials/clerk.yaml':
					'kind: signature-recipe\nvector: { request: { send: "GET http://h/{$secret.seal}" }, secrets: { seal: a }, expect: {} }\nlines: { token: \'{$hmac("sha256", $secret.seal, "a")}\' }\nput: { header: { X-Token: "{$lines.token}" } }\n'
			},
			[['credentials/clerk.yaml', ['lines', 'token']]]
		],
		[
			'in a header of a connection',
			'',
			{
				'connections/c.yaml':
					'base: http://h\nheaders:\n  X-Off: { value: "{$env.gone}", off: true }\n  X-Mark: "{$env.gone}"\n'
			},
			[['connections/c.yaml', ['headers', 'X-Mark']]]
		],
		[
			'in what a connection says for one environment',
			'staging',
			{ 'connections/c.yaml': 'base: http://h\nenvironments:\n  staging: { base: "http://{$env.gone}" }\n' },
			[['connections/c.yaml', ['environments', 'staging', 'base']]]
		]
	])('%s', async (_, environment, own, places) => {
		const texts: Record<string, string> = {
			'connections/c.yaml': `base: http://h\n${'credentials/clerk.yaml' in own ? 'credential: clerk\n' : ''}`,
			'collections/x.yaml': 'connection: c\nscenarios:\n  - { id: s, steps: [{ id: a, send: GET / }] }\n',
			'environments/staging.yaml': '',
			...own
		};
		const files = Object.entries({ 'heron.yaml': '', ...texts }).map(([path, text]) => ({
			path,
			text: `heron: 1\n${text}`
		}));
		const { workspace } = loadProject(files, new Set(files.map(({ path }) => path)));
		expect(workspace.problems).toEqual([]);
		const { made } = scriptedPorts(() => ({}));
		const start = await startNames(workspace, environment, { set: {}, secrets: {}, run: unrecordedRun('', 0) }, made);
		const problems = findUnresolved(workspace, allScenarios(workspace), start);
		expect(problems.map(({ file, path }) => [file, path])).toEqual(places);
	});
});
