import { expect, test } from 'vitest';
import { lineOf, placesOf } from './mapping.ts';

test.each([
	['$path.number', ['target']],
	['$query.page', ['target']],
	['$request.body.boat', ['body boat']],
	['$request.body.craft.name', ['body name']],
	['$request.body.lines[0].pence', ['body pence']],
	['$request.body', ['body ']],
	['$request.headers.`X-Who`', ['headers X-Who']],
	['$request.headers.authorization', ['headers authorization']],
	['$request.cookies.sid', ['headers cookie']],
	['$uppercase($request.body.boat) & $path.number', ['target', 'body boat']],
	['$asked + 1041', []],
	['$stored.number', []]
])('%s is from %j', (source, places) => {
	expect(placesOf(source).map((one) => ('name' in one ? `${one.field} ${one.name}` : one.field))).toEqual(places);
});

test('the line in which a value stands', () => {
	const body = '{\n  "boat": "Slow Tide",\n  "boats": 2\n}';
	expect(lineOf({ field: 'body', name: 'boat' }, body)).toBe(1);
	expect(lineOf({ field: 'body', name: 'boats' }, body)).toBe(2);
	expect(lineOf({ field: 'body', name: 'none' }, body)).toBe(0);
	expect(lineOf({ field: 'headers', name: 'x-who' }, 'Accept: a\nX-Who: b')).toBe(1);
});
