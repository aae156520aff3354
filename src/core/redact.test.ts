import { describe, expect, test } from 'vitest';
import { createRedactor } from './redact.ts';

const secret = 'p@ss "wörd"/+1&';
const redactor = createRedactor({ password: secret, short: 'xyz9', none: '' });

describe('no secret leaves', () => {
	const forms: [string, string][] = [
		['plain', secret],
		['inside a sentence', `the password is ${secret}!`],
		['JSON-escaped', JSON.stringify({ secret })],
		['JSON with escaped slashes', JSON.stringify({ secret }).replace(/\//g, '\\/')],
		['percent-encoded', encodeURIComponent(secret)],
		['percent-encoded in small letters', encodeURIComponent(secret).replace(/%[0-9A-F]{2}/g, (h) => h.toLowerCase())],
		['as a form field', new URLSearchParams({ secret }).toString()],
		['base64', Buffer.from(secret).toString('base64')],
		['base64 of user and password', Buffer.from(`avery:${secret}`).toString('base64')],
		['base64 with one letter before', Buffer.from(`a${secret}bc`).toString('base64')],
		['base64 with two letters before', Buffer.from(`ab${secret}`).toString('base64')],
		['base64url', Buffer.from(secret).toString('base64url')],
		['as the octets of a header field', Buffer.from(secret, 'utf8').toString('latin1')],
		['XML-escaped', secret.replace(/&/g, '&amp;').replace(/"/g, '&quot;')]
	];
	test.each(forms)('%s', (_, text) => {
		const out = redactor.text(text);
		expect(out).toContain('‹password›');
		for (const [, form] of forms.slice(0, 1)) expect(out).not.toContain(form);
		// nothing that could be turned back: neither form stands in what is left
		expect(out).not.toContain(Buffer.from(secret).toString('base64').slice(4, 12));
	});
	test('deep in data, in keys and in bytes', () => {
		const out = redactor.deep({ list: [secret], [secret]: { bytes: new TextEncoder().encode(secret) } });
		expect(JSON.stringify(out)).not.toContain('wörd');
		expect(
			new TextDecoder().decode((out as unknown as Record<string, { bytes: Uint8Array }>)['‹password›']!.bytes)
		).toBe('‹password›');
	});
	test('a form of ours keeps its names and words, however short a secret is', () => {
		const short = createRedactor({ pin: 'e', word: 'passed' });
		const given = { outcome: 'passed', received: 'the end', list: [{ code: 'send.failed', message: 'passed on' }] };
		expect(short.record(given, ['outcome', 'code'])).toEqual({
			outcome: 'passed',
			received: 'th‹pin› ‹pin›nd',
			list: [{ code: 'send.failed', message: '‹word› on' }]
		});
	});
	test('an empty secret hides nothing, and no secret changes nothing', () => {
		expect(redactor.text('none')).toBe('none');
		const value = { a: [1] };
		expect(createRedactor({}).deep(value)).toBe(value);
	});
});
