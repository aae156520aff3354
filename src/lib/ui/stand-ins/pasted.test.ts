import { expect, test } from 'vitest';
import { pastedCall } from './pasted.ts';

test.each<[string, string, unknown]>([
	[
		'a command of curl',
		"curl -X POST 'https://board.reedmere.example/notices?loud=yes' -H 'X-Clerk: avery' -H 'Content-Type: application/json' -d '{\"boat\":1}'",
		{
			method: 'POST',
			target: '/notices?loud=yes',
			headers: 'X-Clerk: avery\nContent-Type: application/json',
			body: '{"boat":1}'
		}
	],
	[
		'a request as it is on the wire',
		'PUT /notices/N-1 HTTP/1.1\r\nHost: board.reedmere.example\r\nX-Clerk: avery\r\n\r\nhello',
		{ method: 'PUT', target: '/notices/N-1', headers: 'X-Clerk: avery', body: 'hello' }
	],
	['an address', 'https://board.reedmere.example/a', { method: 'GET', target: '/a', headers: '', body: '' }]
])('%s', (_, text, call) => expect(pastedCall(text)).toEqual(call));

test('what is none is told', () => expect(pastedCall('curl --nothing')).toMatch(/\w/));
