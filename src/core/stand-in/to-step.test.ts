import { describe, expect, test } from 'vitest';
import type { CallRecord } from './call-record.ts';
import { receivingStep, sendingStep } from './to-step.ts';

const call = (more: Partial<CallRecord>): CallRecord => ({
	...{ id: 1, standIn: 'board', at: 0, ms: 1, method: 'POST', target: '/v1/notices?loud=yes' },
	...{ requestHeaders: [['Content-Type', 'application/json']], requestBody: '{"boat":"Slow Tide"}', requestSize: 20 },
	...{ status: 201, headers: [], body: '', size: 0, by: 'a', tried: [], faults: [], notes: [], drift: [] },
	...more
});
const sent = (more: Partial<CallRecord>) => sendingStep(call(more), 'http://127.0.0.1:4720/v1', new Set(['clerk']));

describe('a step that sends what was asked', () => {
	test('below the base, with query, body and status', () => {
		expect(sent({}).step).toEqual({
			send: 'POST /notices',
			query: { loud: 'yes' },
			body: { json: { boat: 'Slow Tide' } },
			checks: [{ status: 201 }]
		});
	});
	test('a secret that the log hides is the project’s own again', () => {
		const made = sent({
			requestHeaders: [
				['Authorization', 'Bearer ‹clerk›'],
				['X-Note', 'by ‹clerk›']
			],
			requestBody: ''
		});
		expect(made.step.headers).toEqual({ Authorization: 'Bearer {$secret.clerk}', 'X-Note': 'by {$secret.clerk}' });
		expect(made.secrets).toEqual([]);
	});
	test('one that it does not hide is taken out, and told', () => {
		const made = sent({ requestHeaders: [['Authorization', 'Bearer abc.def']], requestBody: '' });
		expect(JSON.stringify(made.step)).not.toContain('abc.def');
		expect(made.secrets.map(({ value }) => value)).toEqual(['abc.def']);
	});
	test('what looks like an expression stays what it is', () => {
		expect(sent({ requestBody: '{"text":"{$env.x}"}' }).step.body).toEqual({ json: { text: '\\{$env.x}' } });
	});
});

describe('a step that waits for such a call', () => {
	test.each<[string, string, unknown]>([
		[
			'plain values as they are',
			'{"boat":"Slow Tide","nights":3,"paid":true,"note":null}',
			[
				{ body: '$.boat', equals: 'Slow Tide' },
				{ body: '$.nights', equals: 3 },
				{ body: '$.paid', equals: true },
				{ body: '$.note', equals: null }
			]
		],
		[
			'what is another one each time by its shape',
			'{"at":"2027-05-03T09:30:00Z"}',
			[{ body: '$.at', matches: '^\\d{4}-\\d\\d-\\d\\dT\\d\\d:\\d\\d' }]
		],
		['nothing of what is hidden', '{"key":"‹clerk›"}', undefined],
		['nothing of a list', '[1,2]', undefined],
		['nothing of what is no JSON', 'boat', undefined]
	])('%s', (_, requestBody, must) => {
		const step = receivingStep(call({ requestBody }), '/v1');
		expect(step).toEqual({ receive: 'POST /notices', from: 'board', ...(must ? { must } : {}) });
	});
});
