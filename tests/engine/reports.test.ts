import { reduceRun, startState, type Exchange, type RunEvent, type StepResult } from '#core/run/index.ts';
import { reportKind } from '#core/reports/index.ts';
import Ajv from 'ajv';
import addFormats from 'ajv-formats';
import schemas from 'har-schema';
import draft6 from 'ajv/dist/refs/json-schema-draft-06.json' with { type: 'json' };
import { marked } from 'marked';
import { Parser } from 'tap-parser';
import { describe, expect, test } from 'vitest';

const nasty =
	'<script>alert(1)</script> `x` ``` | # \\ [a](javascript:1) *b* _c_ "q" \'p\' & \u0000\u001b[31m ü€ --> ]]>';
const bytes = (text: string) => new TextEncoder().encode(text);
const exchange = (more: Partial<Exchange> = {}): Exchange => ({
	method: 'POST',
	url: 'http://127.0.0.1:1/a?x=1&y=a%20b',
	requestHeaders: [
		['Content-Type', 'text/plain'],
		['Cookie', 'a=b; c=d=e']
	],
	requestBody: bytes(nasty),
	startedAt: 1_795_000_000_000,
	reply: {
		status: 200,
		reason: 'OK',
		version: 'HTTP/1.1',
		headers: [
			['Content-Type', 'text/html; charset=utf-8'],
			['Set-Cookie', 'sid=1; Path=/']
		],
		body: bytes(nasty),
		wireSize: 12,
		reused: false,
		phases: { name: 1, connect: 2, tls: 3, send: 0.5, wait: 7, body: 0.25, total: 13.75 }
	},
	...more
});
const result = (step: string, more: Partial<StepResult> = {}): StepResult => ({
	...{ scenario: 'c/s', step, title: `Title of ${step}`, index: 0, kind: 'send', call: 'GET /', cleanup: false },
	...{ outcome: 'passed', checks: [], kept: {}, attempts: 1, exchanges: [exchange()], startedAt: 0, ms: 12, ...more }
});
const results = [
	result('fine'),
	result('wrong', {
		title: nasty,
		outcome: 'failed',
		row: { number: 3, values: { boat: nasty } },
		checks: [
			{
				index: 0,
				subject: 'body $.x',
				relation: 'equals',
				expected: 'north basin 3',
				received: 'north basin 7',
				holds: false
			},
			{ index: 1, subject: 'body $.y', relation: 'equals', expected: nasty, received: `${nasty}!`, holds: false }
		]
	}),
	result('away', {
		outcome: 'error',
		error: { code: 'send.refused', message: `nothing listens ${nasty}` },
		exchanges: [exchange({ reply: undefined as never, error: { code: 'send.refused', message: nasty } })]
	}),
	result('picture', {
		exchanges: [
			exchange({
				requestBody: new Uint8Array([0xff, 0xd8, 0, 1]),
				reply: { ...exchange().reply!, body: new Uint8Array([0xff, 0xfe, 0, 0xd8]) }
			})
		]
	}),
	result('large', { exchanges: [exchange({ reply: { ...exchange().reply!, body: bytes('ü'.repeat(300_000)) } })] }),
	result('left', { outcome: 'skipped', reason: `because # of ${nasty}`, exchanges: [] })
];
const events: RunEvent[] = [
	{
		type: 'run',
		run: {
			...{
				id: 'r',
				startedAt: 0,
				title: nasty,
				project: 'p',
				environment: 'local',
				suite: '',
				job: nasty,
				build: '418'
			},
			...{ commit: 'abc', branch: 'main', link: 'https://build.reedmere.example/418?a=<b>', seed: 1 }
		},
		steps: 6,
		scenarios: [{ scenario: 'c/s', title: nasty, collectionTitle: 'C', steps: 6 }]
	},
	{ type: 'scenario', scenario: 'c/s', startedAt: 0 },
	...results.map((one): RunEvent => ({ type: 'step', result: one })),
	{ type: 'scenario-end', scenario: 'c/s', outcome: 'error', ms: 48 },
	{
		type: 'end',
		summary: { passed: 3, failed: 1, errors: 1, skipped: 1, unsteady: 0, quarantined: 0, checks: 2, checksFailed: 2 },
		ms: 50,
		stopped: ''
	}
];
function write(key: string): string {
	const sink = reportKind(key)!.open({ color: false, detail: 'normal', version: '1' });
	const state = startState();
	let out = '';
	for (const event of events) {
		reduceRun(state, event);
		out += sink.event(event);
	}
	return out + sink.end(state, 1);
}

describe('reports as others read them', () => {
	test('TAP: every point with its outcome, and what was wrong', () => {
		const all = Parser.parse(write('tap'));
		const points = all.flatMap((line) =>
			line[0] === 'assert'
				? [line[1] as { ok: boolean; name: string; skip: boolean | string; diag?: { failed?: string[] } }]
				: []
		);
		expect(points.map(({ ok, skip }) => (skip ? 'skipped' : ok ? 'ok' : 'not ok'))).toEqual([
			...['ok', 'not ok', 'not ok', 'ok', 'ok', 'skipped']
		]);
		expect(points[1]!.name).toContain('c/s row 3 › wrong: <script>');
		expect(points[1]!.diag!.failed![0]).toBe('body $.x equals: expected north basin 3, received north basin 7');
		expect(all.some(([kind]) => kind === 'extra')).toBe(false);
		expect(all.find(([kind]) => kind === 'complete')).toMatchObject(['complete', { count: 6, fail: 2, skip: 1 }]);
	});
	test('HTTP Archive: valid by the schema of 1.2, bodies as text or base64', () => {
		const ajv = new Ajv({ strict: false, allErrors: true });
		addFormats(ajv);
		ajv.addMetaSchema(draft6);
		for (const schema of Object.values(schemas)) if (schema.$id && schema.$id !== 'har.json') ajv.addSchema(schema);
		const validate = ajv.compile(schemas.har!);
		const data = JSON.parse(write('har')) as {
			log: {
				entries: {
					request: { cookies: object[]; queryString: object[] };
					response: { content: Record<string, unknown> };
					timings: object;
				}[];
			};
		};
		expect([validate(data), validate.errors]).toEqual([true, null]);
		const { entries } = data.log;
		expect(entries).toHaveLength(5);
		expect(entries[0]!.request).toMatchObject({
			cookies: [
				{ name: 'a', value: 'b' },
				{ name: 'c', value: 'd=e' }
			],
			queryString: [
				{ name: 'x', value: '1' },
				{ name: 'y', value: 'a b' }
			]
		});
		expect(entries[0]!.response.content.text).toBe(nasty);
		expect(entries[0]!.timings).toEqual({ blocked: -1, dns: 1, connect: 5, ssl: 3, send: 0.5, wait: 7, receive: 0.25 });
		expect(entries[3]!.response.content).toMatchObject({ encoding: 'base64', text: '//4A2A==' });
		expect(entries[4]!.response.content).toMatchObject({ size: 600_000, comment: 'the first 256000 of 600000 bytes' });
	});
	test('Markdown: rendered, nothing of a reply becomes markup', async () => {
		const out = write('markdown');
		const shown = await marked(out);
		expect(shown).not.toMatch(/<script|href="javascript|<em>/);
		expect(shown).not.toContain('\u001b');
		expect(shown).toContain('Did not pass');
		expect(shown).toContain('<strong>c/s row 3 › wrong</strong>');
		expect(shown).toContain('body $.x equals: expected north basin 3, received north basin 7');
		expect(shown.match(/<a /g)).toHaveLength(1);
		expect(shown).toContain('href="https://build.reedmere.example/418?a=%3Cb%3E"');
		expect(out).not.toContain('fine');
	});
	test('HTML: nothing of a reply becomes markup, and the policy allows no script', () => {
		const out = write('html');
		expect(out.match(/<script/gi)).toBeNull();
		expect(out).toContain("content=\"default-src 'none'; style-src 'sha256-");
		expect(out).toContain('north basin <mark>3</mark>');
		expect(out).toContain('north basin <mark>7</mark>');
		// eslint-disable-next-line no-control-regex
		expect(out).not.toMatch(/[\u0000-\u0008\u001b]/);
		// what needs a look comes before all there is
		expect(out.indexOf('wrong')).toBeLessThan(out.indexOf('Every scenario'));
		expect(out.indexOf('Every scenario')).toBeLessThan(out.indexOf('fine'));
	});
});
