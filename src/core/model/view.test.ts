import { describe, expect, test } from 'vitest';
import { same, typeName } from './json.ts';
import { headerValue, isJsonType, isXmlType, mediaType, type HeaderList, type Reply } from './reply.ts';
import { viewReply } from './view.ts';

const reply = (body: Uint8Array | string, headers: HeaderList): Reply => ({
	status: 200,
	reason: 'OK',
	version: 'HTTP/1.1',
	headers,
	body: typeof body === 'string' ? new TextEncoder().encode(body) : body,
	wireSize: 0,
	reused: false,
	phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 0 }
});

describe('a reply', () => {
	test('its text is read in the charset of its header', () => {
		const latin = Uint8Array.from([0x42, 0xfc, 0x63]);
		expect(viewReply(reply(latin, [['content-type', 'text/plain; charset=ISO-8859-1']])).text).toBe('Büc');
		expect(viewReply(reply(latin, [['content-type', 'text/plain; charset="utf-8"']])).text).toBe('B\ufffdc');
		expect(viewReply(reply('Büc', [['content-type', 'text/plain; charset=no-such']])).text).toBe('Büc');
	});
	test.each<[string, string, unknown]>([
		['application/json', '{"a":1}', { a: 1 }],
		['application/problem+json; charset=utf-8', '[1]', [1]],
		['text/plain', '{"a":1}', { a: 1 }],
		['text/plain', 'plain', 'plain'],
		['application/json', 'broken', 'broken'],
		['application/json', '"text"', 'text']
	])('of type %s its body %s is data where it is JSON', (type, body, wanted) => {
		expect(viewReply(reply(body, [['Content-Type', type]])).body()).toEqual(wanted);
	});
	test('an empty body that should be JSON says that it is empty', () => {
		expect(() => viewReply(reply('', [['Content-Type', 'application/json']])).json()).toThrow('it is empty');
	});
	test.each<[string, { type: string; charset?: string }]>([
		['Application/JSON', { type: 'application/json' }],
		['text/html;charset=UTF-8', { type: 'text/html', charset: 'UTF-8' }],
		['', { type: '' }]
	])('the media type of %j', (value, wanted) => expect(mediaType([['content-TYPE', value]])).toEqual(wanted));
	test('a header that is not there is undefined, an empty one is empty', () => {
		expect(headerValue([['A', '']], 'a')).toBe('');
		expect(headerValue([], 'a')).toBeUndefined();
	});
	test.each([
		['application/json', true, false],
		['application/vnd.reedmere.v1+json', true, false],
		['text/xml', false, true],
		['application/soap+xml', false, true],
		['application/jsonp', false, false]
	])('%s: JSON %s, XML %s', (type, json, xml) => expect([isJsonType(type), isXmlType(type)]).toEqual([json, xml]));
});

describe('plain data', () => {
	test.each<[unknown, unknown, boolean]>([
		[{ a: [1, { b: null }] }, { a: [1, { b: null }] }, true],
		[{ a: 1 }, { a: 1, b: undefined }, false],
		[[], {}, false],
		[null, undefined, false],
		[NaN, NaN, true],
		[0, -0, true]
	])('%j and %j are the same: %s', (a, b, wanted) => expect(same(a, b)).toBe(wanted));
	test.each([
		[undefined, 'nothing'],
		[null, 'null'],
		[[], 'array'],
		[{}, 'object'],
		[1, 'number']
	])('%j is called %s', (value, name) => expect(typeName(value)).toBe(name));
});
