import { seeded } from '#core/model/seed.ts';
import type { Json } from '#core/model/json.ts';
import { multipart as readMultipart } from '../support/multipart.ts';
import { run } from '../support/scripted.ts';
import { XmlDocument, XmlElement } from 'libxml2-wasm';
import { describe, expect, test } from 'vitest';

// what is rendered, read back by a parser that is not ours, gives the value
const PIECES = [
	...[
		' ',
		'"',
		"'",
		'<',
		'>',
		'&',
		'%',
		'%41',
		'+',
		'/',
		'\\',
		'{',
		'}',
		'$',
		'{$',
		'\\{$',
		'#',
		'?',
		'=',
		';',
		',',
		':',
		'@'
	],
	...[
		'é',
		'ü',
		'日本',
		'😀',
		'\u0301',
		'\n',
		'\t',
		'\r',
		'\r\n',
		']]>',
		'<!--',
		'&amp;',
		'</a>',
		'a',
		'B',
		'0',
		'-',
		'_',
		'.',
		'~',
		'|',
		'^',
		'`'
	]
];
const random = seeded(20270514);
const textOf = (length: number): string =>
	Array.from({ length }, () => PIECES[Math.floor(random() * PIECES.length)]!).join('');
const decode = (bytes: Uint8Array): string => new TextDecoder().decode(bytes);
const VALUES = ['', ...PIECES, ...Array.from({ length: 120 }, () => textOf(1 + Math.floor(random() * 12)))];

describe('a value comes back as it was', () => {
	test.each<[string, object, (request: { url: string; body: Uint8Array; headers: [string, string][] }) => unknown]>([
		[
			'from a segment of the path',
			{ send: 'GET /a/{v}', path: { v: 'x{$steps.one.v}' } },
			({ url }) => decodeURIComponent(new URL(url).pathname.split('/')[3]!).slice(1)
		],
		[
			'from the query',
			{ send: 'GET /a', query: { v: '{$steps.one.v}' } },
			({ url }) => new URL(url).searchParams.get('v')
		],
		[
			'from a name in the query',
			{ send: 'GET /a', query: { 'n{$steps.one.v}': 1 } },
			({ url }) => [...new URL(url).searchParams.keys()][0]!.slice(1)
		],
		[
			'from an address as text',
			{ send: 'GET http://h/a?v={$steps.one.v}' },
			({ url }) => new URL(url).searchParams.get('v')
		],
		[
			'from JSON as data',
			{ send: 'POST /a', body: { json: { v: '{$steps.one.v}' } } },
			({ body }) => (JSON.parse(decode(body)) as { v: Json }).v
		],
		[
			'from JSON as text, in quotes',
			{ send: 'POST /a', body: { json: '{ "v": "x{$steps.one.v}" }' } },
			({ body }) => (JSON.parse(decode(body)) as { v: string }).v.slice(1)
		],
		[
			'from JSON as text, without quotes',
			{ send: 'POST /a', body: { json: '{ "v": {$steps.one.v} }' } },
			({ body }) => (JSON.parse(decode(body)) as { v: Json }).v
		],
		[
			'from a form',
			{ send: 'POST /a', body: { form: { v: '{$steps.one.v}' } } },
			({ body }) => new URLSearchParams(decode(body)).get('v')
		],
		[
			'from a part',
			{ send: 'POST /a', body: { multipart: [{ name: 'v', text: '{$steps.one.v}' }] } },
			({ body, headers }) => readMultipart(body, headers).get('v')
		],
		['from text', { send: 'POST /a', body: { text: '{$steps.one.v}' } }, ({ body }) => decode(body)]
	])('%s', async (_, step, read) => {
		for (const value of VALUES) {
			const { sent, results } = await run(
				[{ id: 'one', send: 'GET /', keep: { v: '$.v' } }, { id: 'two', ...step } as never],
				{
					answer: () => ({ body: { v: value } })
				}
			);
			expect(results[1]!.error, JSON.stringify(value)).toBeUndefined();
			expect(read(sent[1]!), JSON.stringify(value)).toBe(value);
		}
	});
	test('from XML, as text and as an attribute', async () => {
		for (const value of VALUES) {
			const body = { xml: '<a b="{$steps.one.v}">{$steps.one.v}</a>' };
			const { sent } = await run(
				[
					{ id: 'one', send: 'GET /', keep: { v: '$.v' } },
					{ id: 'two', send: 'POST /a', body }
				],
				{
					answer: () => ({ body: { v: value } })
				}
			);
			const document = XmlDocument.fromBuffer(sent[1]!.body);
			const root = document.root as XmlElement;
			expect([root.content, root.attr('b')!.value], JSON.stringify(value)).toEqual([value, value]);
			document.dispose();
		}
	});
	test('from a header, where HTTP allows it; what it does not allow is refused', async () => {
		for (const value of VALUES) {
			const { sent, results } = await run(
				[
					{ id: 'one', send: 'GET /', keep: { v: '$.v' } },
					{ id: 'two', send: 'GET /a', headers: { 'X-V': 'x{$steps.one.v}x' } }
				],
				{ answer: () => ({ body: { v: value } }) }
			);
			if (/[\r\n]/.test(value)) expect(results[1]!.error!.code).toBe('value.header');
			else
				expect(Buffer.from(sent[1]!.headers.find(([name]) => name === 'X-V')![1], 'latin1').toString('utf8')).toBe(
					`x${value}x`
				);
		}
	});
	test.each<Json>([0, -1.5, 1e21, true, false, null, [1, 'a'], { a: { b: null } }])(
		'and keeps its type in JSON: %j',
		async (value) => {
			for (const json of [{ v: '{$steps.one.v}' }, '{ "v": {$steps.one.v} }'] as Json[]) {
				const { sent } = await run(
					[
						{ id: 'one', send: 'GET /', keep: { v: '$.v' } },
						{ id: 'two', send: 'POST /a', body: { json } }
					],
					{
						answer: () => ({ body: { v: value } })
					}
				);
				expect((JSON.parse(decode(sent[1]!.body)) as { v: Json }).v).toEqual(value);
			}
		}
	);
});
