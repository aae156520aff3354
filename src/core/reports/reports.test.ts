import { XmlDocument } from 'libxml2-wasm';
import { describe, expect, test } from 'vitest';
import { reduceRun, startState, type RunEvent, type StepResult } from '../run/index.ts';
import type { Exchange } from '../model/exchange.ts';
import { callWords } from './sentence.ts';
import { consoleReport, reportKinds, type ReportKind } from './index.ts';

const result = (step: string, more: Partial<StepResult> = {}): StepResult => ({
	scenario: 'c/s',
	step,
	title: `Title of ${step}`,
	index: 0,
	kind: 'send',
	call: 'GET /',
	cleanup: false,
	outcome: 'passed',
	checks: [],
	kept: {},
	attempts: 1,
	exchanges: [],
	startedAt: 0,
	ms: 12,
	...more
});
const nasty = 'a <b> & "c" \u0000\u0001\ud800 ]]> \u001b[31m';
const results = [
	result('fine'),
	result('wrong', {
		outcome: 'failed',
		attempts: 3,
		checks: [
			{ index: 0, subject: 'body $.x', relation: 'equals', expected: '3', received: nasty, holds: false },
			{ index: 1, subject: 'status', relation: 'status', expected: '200', received: '200', holds: true }
		]
	}),
	result('away', { outcome: 'error', error: { code: 'send.refused', message: `nothing listens ${nasty}` } }),
	result('left', { outcome: 'skipped', reason: 'step away could not be carried out' })
];
const run = {
	id: 'r',
	startedAt: 0,
	title: nasty,
	project: 'p',
	environment: 'local',
	suite: '',
	job: '',
	build: '',
	commit: '',
	branch: '',
	seed: 1
};
const events: RunEvent[] = [
	{ type: 'run', run, steps: 4, scenarios: [{ scenario: 'c/s', title: nasty, collectionTitle: 'C', steps: 4 }] },
	{ type: 'scenario', scenario: 'c/s', startedAt: 0 },
	...results.map((r): RunEvent => ({ type: 'step', result: r })),
	{ type: 'scenario-end', scenario: 'c/s', outcome: 'error', ms: 48 },
	{
		type: 'end',
		summary: { passed: 1, failed: 1, errors: 1, skipped: 1, unsteady: 0, quarantined: 0, checks: 2, checksFailed: 1 },
		ms: 50,
		stopped: ''
	}
];
function write(
	kind: ReportKind,
	detail: 'quiet' | 'normal' | 'verbose' = 'normal',
	color = false,
	all: readonly RunEvent[] = events
): string {
	const sink = kind.open({ color, detail, version: '1' });
	const state = startState();
	let out = '';
	for (const event of all) {
		reduceRun(state, event);
		out += sink.event(event);
	}
	return out + sink.end(state, 1);
}
const kind = (key: string) => reportKinds.find((one) => one.key === key)!;

describe('the call of a result, in words', () => {
	const exchange = (
		method: string,
		path: string,
		answer?: number | [status: number, location: string],
		leg?: string
	): StepResult['exchanges'][number] => {
		const [status, location] = typeof answer === 'number' ? [answer] : (answer ?? []);
		const headers = location === undefined ? [] : [['Location', location]];
		return {
			...{ method, url: `http://h${path}`, requestHeaders: [], requestBody: new Uint8Array(), startedAt: 0 },
			...(leg === undefined ? {} : { leg }),
			...(status === undefined
				? {}
				: { reply: { status, reason: status < 300 ? 'OK' : '', headers } as unknown as NonNullable<Exchange['reply']> })
		};
	};
	test.each<[string, StepResult['exchanges'], string]>([
		['nothing was sent', [], ' → '],
		['one call', [exchange('GET', '/a', 200)], 'GET http://h/a → 200 OK'],
		['no answer', [exchange('GET', '/a')], 'GET http://h/a → no answer'],
		[
			'two redirects',
			[
				exchange('POST', '/a', [301, '/b#there']),
				exchange('GET', '/b', [302, 'http://h/c']),
				exchange('GET', '/c', 200)
			],
			'GET http://h/c (redirected from POST http://h/a by 301, 302) → 200 OK'
		],
		['a redirect that is not followed', [exchange('POST', '/a', [303, '/b'])], 'POST http://h/a → 303'],
		[
			'a redirect that is not followed, and tried again',
			[exchange('GET', '/a', [302, '/b']), exchange('GET', '/a', [302, '/b'])],
			'GET http://h/a → 302'
		],
		[
			'a status of a redirect that leads nowhere, and another try',
			[exchange('GET', '/a', 302), exchange('GET', '/a', 200)],
			'GET http://h/a → 200 OK'
		],
		[
			'a try that failed before, and a token that was fetched',
			[
				exchange('POST', '/token', 200, 'token'),
				exchange('GET', '/a', 503),
				exchange('GET', '/a', [307, '/b']),
				exchange('GET', '/b', 200)
			],
			'GET http://h/b (redirected from GET http://h/a by 307) → 200 OK'
		],
		[
			'a sign-in that redirects',
			[exchange('GET', '/sign-in', [302, '/a'], 'sign-in'), exchange('GET', '/a', 200)],
			'GET http://h/a → 200 OK'
		]
	])('%s', (_, exchanges, wanted) => {
		const { call, answer } = callWords({ exchanges });
		expect(`${call} → ${answer}`).toBe(wanted);
	});
});

describe('reports', () => {
	test('JUnit XML stays well-formed, whatever a reply holds', () => {
		const document = XmlDocument.fromString(write(kind('junit')));
		const count = (path: string) => document.find(path).length;
		expect([count('//testcase'), count('//failure'), count('//error'), count('//skipped')]).toEqual([4, 1, 1, 1]);
		expect((document.get('//failure') as unknown as { content: string }).content).toContain(
			'body $.x equals: expected 3, received a <b> & "c"'
		);
		document.dispose();
	});
	test.each<[string, StepResult[], string, string[]]>([
		['passed so far', [results[0]!, results[3]!], 'the time was over', ['the run', 'the time was over']],
		['had failed by then', [results[1]!], 'the time was over', []],
		['came to its end', [results[0]!], '', []]
	])('JUnit XML tells of a run that %s only where no step does', (_, steps, stopped, wanted) => {
		const count = (outcome: string) => steps.filter((step) => step.outcome === outcome).length;
		const summary = {
			...{ passed: count('passed'), failed: count('failed'), errors: 0, skipped: count('skipped') },
			...{ unsteady: 0, quarantined: 0, checks: 2, checksFailed: 1 }
		};
		const document = XmlDocument.fromString(
			write(kind('junit'), 'normal', false, [
				...events.slice(0, 2),
				...steps.map((one): RunEvent => ({ type: 'step', result: one })),
				{ type: 'end', summary, ms: 50, stopped }
			])
		);
		const all = (path: string) => document.find(path).map((node) => node.content);
		expect([...all('//testcase[error]/@classname'), ...all('//error/@message')]).toEqual(wanted);
		expect(all('/testsuites/@tests')).toEqual([String(document.find('//testcase').length)]);
		expect(all('/testsuites/@errors')).toEqual([String(document.find('//error').length)]);
		document.dispose();
	});
	test('JSON is one object, with everything', () => {
		const data = JSON.parse(write(kind('json'))) as { steps: StepResult[]; summary: object; exitCode: number };
		expect(data.steps.map((s) => s.outcome)).toEqual(['passed', 'failed', 'error', 'skipped']);
		expect(data).toMatchObject({ exitCode: 1, summary: { failed: 1 } });
	});
	test('the console shows what needs a look, whole, then the summary', () => {
		const out = write(consoleReport);
		expect(out).toMatch(/^FAILED {2}c\/s › wrong {2}Title of wrong\n/);
		expect(out).toContain('          expected  3\n');
		expect(out).toContain('tried 3 times');
		expect(out).toContain('ERROR   c/s › away');
		expect(out).not.toContain('fine');
		expect(out.trimEnd().split('\n').slice(-2)).toEqual([
			'1 passed, 1 failed, 1 error, 1 skipped',
			'2 checks in 1 scenario, 50 ms'
		]);
	});
	test('quiet says less, verbose says all, colours only where wanted', () => {
		expect(write(consoleReport, 'quiet')).not.toContain('2 checks in');
		expect(write(consoleReport, 'verbose')).toContain('passed  c/s › fine');
		expect(write(consoleReport, 'normal', true)).toContain('\u001b[31mFAILED');
	});
});
