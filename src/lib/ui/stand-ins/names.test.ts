import { expect, test } from 'vitest';
import { requestNames } from './names.ts';

test('names of a request, with what they are', () => {
	const found = requestNames('/berths/{berth}/{+rest}', '/v1', {
		method: 'POST',
		target: '/v1/berths/B-07/a/b?loud=yes',
		headers: 'X-Clerk: avery\nAccept: */*',
		body: '{"boat":"Slow Tide","lines":[{"pence":8}],"odd key":1}'
	});
	const values = Object.fromEntries(found.map(({ name, detail }) => [name, detail]));
	expect(values).toMatchObject({
		'path.berth': 'B-07',
		'path.rest': 'a/b',
		'query.loud': 'yes',
		'request.method': 'POST',
		'request.body.boat': '"Slow Tide"',
		'request.body.lines[0].pence': '8',
		'request.body.`odd key`': '1'
	});
	expect(Object.keys(values)).toContain('request.headers.`x-clerk`');
});

test.each([
	['no JSON', '{"boat":', ['request.body']],
	['no body', '', []]
])('%s is no reason to fail', (_, body, names) => {
	const found = requestNames('/a', '', { method: 'GET', target: '/other', headers: '', body });
	expect(found.map(({ name }) => name).filter((name) => name.startsWith('request.body'))).toEqual(names);
});
