import { judge, type CheckResult, type JudgeTools } from '#core/checks/index.ts';
import { parseCheck } from '#core/checks/index.ts';
import type { TlsFacts } from '#core/model/exchange.ts';
import { writeJson, type Json } from '#core/model/json.ts';
import { viewReply } from '#core/model/view.ts';
import { createSchemas } from '#server/engine/json-schema.ts';
import { createXml } from '#server/engine/xml.ts';
import { describe, expect, it } from 'vitest';

const now = Date.UTC(2027, 4, 14);
const files: Record<string, string> = {
	'schemas/stay.xsd':
		'<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"><xs:element name="stay"><xs:complexType><xs:sequence><xs:element name="nights" type="xs:int" maxOccurs="9"/></xs:sequence></xs:complexType></xs:element></xs:schema>',
	'schemas/list.json': '{"type":"object","properties":{"items":{"items":{"required":["id"]}}}}'
};
const readFile = (path: string) => (Object.hasOwn(files, path) ? new TextEncoder().encode(files[path]) : undefined);
const xml = createXml(readFile);
const validate = createSchemas(readFile);

async function judged(
	check: Json,
	body: string,
	more: Partial<JudgeTools> = {},
	type = body.startsWith('<') ? 'text/xml' : 'application/json'
): Promise<CheckResult> {
	const bytes = new TextEncoder().encode(body);
	const view = viewReply(
		{
			status: 200,
			reason: 'OK',
			version: 'HTTP/1.1',
			headers: [['Content-Type', type]],
			body: bytes,
			wireSize: bytes.length,
			reused: false,
			phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
		},
		xml
	);
	const tools: JudgeTools = {
		view,
		resolve: async (value) => value,
		expression: async () => true,
		now: () => now,
		validate,
		...more
	};
	const [result] = await judge(parseCheck(check)!, 0, tools);
	view.close();
	return result!;
}

const LIST =
	'<m:list xmlns:m="urn:m" total="2"><m:berth id="B-1"><m:nights>2</m:nights><m:free>true</m:free></m:berth><m:berth id="B-2"><m:nights>11</m:nights><m:free>false</m:free></m:berth></m:list>';
const FAULT_11 =
	'<s:Envelope xmlns:s="http://schemas.xmlsoap.org/soap/envelope/"><s:Body><s:Fault><faultcode>s:Client</faultcode><faultstring>no such lock</faultstring><detail><code>L-9</code></detail></s:Fault></s:Body></s:Envelope>';
const FAULT_12 =
	'<s:Envelope xmlns:s="http://www.w3.org/2003/05/soap-envelope"><s:Body><s:Fault><s:Code><s:Value>s:Sender</s:Value><s:Subcode><s:Value>t:NoLock</s:Value></s:Subcode></s:Code><s:Reason><s:Text xml:lang="en">no such lock</s:Text></s:Reason></s:Fault></s:Body></s:Envelope>';

describe('checks on XML', () => {
	const cases: [string, Json, string, boolean][] = [
		['text beside a number is compared as one', { body: '//berth[1]/nights', equals: 2 }, LIST, true],
		['text beside a text is not', { body: '//berth[1]/nights', equals: '02' }, LIST, false],
		['true is true', { body: '//berth[1]/free', equals: true }, LIST, true],
		['a number is not below by its letters', { body: '//berth[2]/nights', above: 9 }, LIST, true],
		['an attribute by the name that is seen', { body: '/list/@total', equals: 2 }, LIST, true],
		['a prefix of the document', { body: '/m:list/m:berth[2]/@id', equals: 'B-2' }, LIST, true],
		['one match is counted as one', { body: '//berth[nights > 9]', count: 1 }, LIST, true],
		['no match is counted as none', { body: '//lock', count: 0 }, LIST, true],
		['every match', { body: '//berth/nights', every: { atMost: 11 } }, LIST, true],
		['the order of matches does not matter when asked', { body: '//berth/nights', sameItems: [11, 2] }, LIST, true],
		['nothing is there', { body: '//lock', present: false }, LIST, true],
		[
			'digits of a long number',
			{ body: '//n', equals: 9007199254740993n as unknown as Json },
			'<n>9007199254740993</n>',
			true
		],
		[
			'a digit that differs',
			{ body: '//n', equals: 9007199254740993n as unknown as Json },
			'<n>9007199254740992</n>',
			false
		],
		['a function', { body: 'count(//berth) * 2', equals: 4 }, LIST, true],
		['the code of a fault, its prefix left out', { fault: 'code', equals: 'Client' }, FAULT_11, true],
		['the reason of a SOAP 1.2 fault', { fault: 'reason', contains: 'lock' }, FAULT_12, true],
		['its subcode', { fault: 'subcode', equals: 'NoLock' }, FAULT_12, true],
		['the detail of a fault', { fault: 'detail', contains: 'L-9' }, FAULT_11, true],
		['no fault', { fault: 'code', present: false }, LIST, true],
		['a schema', { schema: 'schemas/stay.xsd' }, '<stay><nights>3</nights></stay>', true],
		['a schema that it does not fit', { schema: 'schemas/stay.xsd' }, '<stay><nights>three</nights></stay>', false]
	];
	it.each(cases)('%s', async (_, check, body, holds) => {
		const result = await judged(check, body);
		expect(result.error).toBeUndefined();
		expect(result.holds, `${result.expected} / ${result.received}`).toBe(holds);
	});
	it('names what cannot be read', async () => {
		expect((await judged({ body: '//a', equals: 1 }, '{"a":1}')).error).toMatch(/the body is not XML/);
		expect((await judged({ body: '//q:a', equals: 1 }, LIST)).error).toMatch(/cannot be read.*namespace/i);
		expect((await judged({ body: '$.a', equals: 1 }, LIST)).error).toMatch(/the body is not JSON/);
		expect((await judged({ schema: 'schemas/list.json' }, LIST)).error).toMatch(/ends in \.xsd/);
	});
});

const PAGE = `<!DOCTYPE html>
<!-- who signs in -->
<HTML lang=en><title>Locks &amp; weirs</title>
<script>if (1 < 2 && "</p>") go();</script>
<body @click="go()" data-n=1 DATA-N=2>
<p>first<p>second<br>line &copy 2027&nbsp;R
<ul><li>one<li id=two>two</ul>
<form><input type=hidden name="csrf" value="a&quot;b"><input name=user disabled></form>
<svg><use xlink:href="#gate"></svg><template><b>inside</b></template><o:p>odd</o:p><x"y>odder</x"y>
\u0001`;

describe('checks on HTML', () => {
	const cases: [string, Json, string, boolean][] = [
		['a hidden field', { body: '//input[@name="csrf"]/@value', equals: 'a"b' }, PAGE, true],
		['names have small letters', { body: '/html/@lang', equals: 'en' }, PAGE, true],
		[
			'a paragraph that is not closed',
			{ body: '(//p)[position() < 3]', equals: ['first', 'secondline © 2027\u00a0R\n'] },
			PAGE,
			true
		],
		['an item that is not closed', { body: 'string(//li[@id="two"])', equals: 'two' }, PAGE, true],
		['an attribute without a value', { body: '//input[@disabled]/@name', equals: 'user' }, PAGE, true],
		['a script is text', { body: '//script', contains: '1 < 2 &&' }, PAGE, true],
		['of attributes of one name the first', { body: '//body/@data-n', equals: '1' }, PAGE, true],
		['a name that XML does not allow', { body: '//body/@_click', equals: 'go()' }, PAGE, true],
		['a prefix is left out', { body: '//use/@href', equals: '#gate' }, PAGE, true],
		['what a template holds', { body: '//template/b', equals: 'inside' }, PAGE, true],
		['an element with a prefix', { body: '//p[. = "odd"]', present: true }, PAGE, true],
		['no comment', { body: 'count(//comment())', equals: 0 }, PAGE, true],
		['what is not there', { body: '//form/@action', present: false }, PAGE, true],
		['no page at all', { body: 'count(//*)', equals: 3 }, 'plain', true],
		['XHTML, its letters as they are', { body: '//P', equals: 'in' }, '<html><P>in</P></html>', true]
	];
	it.each(cases)('%s', async (_, check, body, holds) => {
		const result = await judged(check, body, {}, 'text/html; charset=utf-8');
		expect(result.error).toBeUndefined();
		expect(result.holds, `${result.expected} / ${result.received}`).toBe(holds);
	});
	it('says where it is too deep, and does not hang', async () => {
		const deep = await judged({ body: '//b', equals: 'x' }, '<div>'.repeat(20_000), {}, 'text/html');
		expect(deep.error).toMatch(/nested deeper than 256 levels/);
	});
});

describe('checks on JSON', () => {
	const cases: [string, Json, string, boolean][] = [
		[
			'integers beyond 2^53 are told apart by every digit',
			{ body: '$.n', equals: 9007199254740993n as unknown as Json },
			'{"n":9007199254740992}',
			false
		],
		[
			'and are the same when they are',
			{ body: '$.n', equals: 9007199254740993n as unknown as Json },
			'{"n":9007199254740993}',
			true
		],
		['are integers', { body: '$.n', type: 'integer' }, '{"n":9007199254740993}', true],
		['have an order', { body: '$.n', above: 9007199254740992 }, '{"n":9007199254740993}', true],
		['no item twice, by all digits', { body: '$', unique: true }, '[9007199254740993,9007199254740992]', true],
		['near a number', { body: '$.n', near: { to: 0.3, by: 0.0001 } }, '{"n":0.30000000000000004}', true],
		['not near enough', { body: '$.n', near: { to: 10, by: 0.5 } }, '{"n":10.6}', false],
		['near a time', { body: '$.at', near: { to: 'now', by: '5 min' } }, '{"at":"2027-05-14T00:04:00Z"}', true],
		['not near a time', { body: '$.at', near: { to: 'now', by: '5 min' } }, '{"at":"2027-05-14T01:00:00Z"}', false],
		['the same items in another order', { body: '$', sameItems: [{ a: 1, b: 2 }, 3] }, '[3,{"b":2,"a":1}]', true],
		['an item once too often', { body: '$', sameItems: [1, 2] }, '[1,2,2]', false],
		['a schema', { schema: 'schemas/list.json' }, '{"items":[{"id":1}]}', true]
	];
	it.each(cases)('%s', async (_, check, body, holds) => {
		const result = await judged(check, body);
		expect(result.error).toBeUndefined();
		expect(result.holds, `${result.expected} / ${result.received}`).toBe(holds);
	});
	it('shows all digits', async () => {
		const result = await judged({ body: '$.n', equals: 1 }, '{"n":12345678901234567890}');
		expect(result.received).toBe('12345678901234567890');
		expect(writeJson(result)).toContain('12345678901234567890');
	});
	it('says where a schema does not fit, and which item of a list does not hold', async () => {
		expect(await judged({ schema: 'schemas/list.json' }, '{"items":[{"id":1},{}]}')).toMatchObject({
			holds: false,
			place: '$.items[1]',
			received: expect.stringMatching(/required property 'id'/) as unknown
		});
		expect(await judged({ body: '$.items', every: { n: { above: 1 } } }, '{"items":[{"n":2},{"n":0}]}')).toMatchObject({
			place: '$.items[1]'
		});
	});
	it('says what is too many and what is missing', async () => {
		expect((await judged({ body: '$', sameItems: [1, 3] }, '[1,2]')).received).toBe('too many: 2; missing: 3');
	});
});

describe('TLS', () => {
	const facts = {
		version: 'TLSv1.2',
		cipher: '',
		alpn: '',
		distrust: '',
		chain: [{ validTo: now + 40 * 86_400_000 }]
	} as unknown as TlsFacts;
	const cases: [string, Json, TlsFacts | undefined, boolean][] = [
		['a version that is high enough', { version: '1.2' }, facts, true],
		['one that is not', { version: 1.3 }, facts, false],
		['a certificate that is valid for long enough', { validFor: '30 d' }, facts, true],
		['one that is not', { validFor: '60 d' }, facts, false],
		['no TLS at all', { version: '1.0' }, undefined, false]
	];
	it.each(cases)('%s', async (_, tls, given, holds) => {
		expect((await judged({ tls }, '{}', { tls: given })).holds).toBe(holds);
	});
	it('tells what it saw', async () => {
		expect((await judged({ tls: { version: '1.3' } }, '{}', { tls: facts })).received).toBe(
			'TLSv1.2, a certificate valid for 40 d'
		);
	});
});

describe('a baseline', () => {
	const approved = (text: string, path = 'baselines/x.json') => ({ approved: () => ({ path, text }) });
	const check = (more: object = {}): Json => ({ baseline: 'x', ...more });
	const cases: [string, Json, string, string, boolean][] = [
		['the order of keys does not matter', check(), '{"a":1,"b":2}', '{"b":2,"a":1}', true],
		['a change is told', check(), '{"a":1}', '{"a":2}', false],
		[
			'what is ignored may change',
			check({ ignore: ['$..at'] }),
			'{"list":[{"at":1,"n":1}]}',
			'{"list":[{"at":2,"n":1}]}',
			true
		],
		['a list in another order', check(), '{"list":[1,2]}', '{"list":[2,1]}', false],
		['unless its order is of no interest', check({ unordered: ['$.list'] }), '{"list":[1,2]}', '{"list":[2,1]}', true],
		['XML is compared by what it says', check(), '<a x="1" y="2"><b/></a>', '<a y="2" x="1">\n  <b></b>\n</a>', true],
		['and text by lines', check(), 'a\nb', 'a\nc', false]
	];
	it.each(cases)('%s', async (_, given, before, after, holds) => {
		const path = before.startsWith('<')
			? 'baselines/x.xml'
			: before.startsWith('{')
				? 'baselines/x.json'
				: 'baselines/x.txt';
		const result = await judged(given, after, approved(before, path));
		expect(result.error).toBeUndefined();
		expect(result.holds, result.received).toBe(holds);
	});
	it('is compared with secrets masked, as it was written', async () => {
		const tools = {
			...approved('{"token":"‹secret.key›"}'),
			redact: (text: string) => text.replace('s3cret', '‹secret.key›')
		};
		expect((await judged(check(), '{"token":"s3cret"}', tools)).holds).toBe(true);
	});
	it('that is not there, or cannot be read any more, is named', async () => {
		expect((await judged(check(), '{}', { approved: () => undefined })).error).toMatch(/no reply is approved as x/);
		expect((await judged(check(), '{}', approved('{"a": '))).error).toMatch(/baselines\/x\.json cannot be read/);
	});
});

describe('texts that an XPath finds', () => {
	const list = (items: string[]) => `<l>${items.map((item) => `<v>${item}</v>`).join('')}</l>`;
	it.each<[string, Json, string, boolean]>([
		['numbers are sorted by size', { sorted: true }, list(['9', '10', '100']), true],
		['and not by their letters', { sorted: true }, list(['10', '100', '9']), false],
		['texts among them are sorted as texts', { sorted: true }, list(['10', 'a', 'b']), true],
		['0 and 1 are no truth values', { sorted: true }, list(['0', '1', '2']), true],
		['one of some numbers', { oneOf: [3, 4] }, list(['3']), true],
		['one of some texts', { oneOf: ['3', '4'] }, list(['3']), true],
		['one of both', { oneOf: ['a', 4] }, list(['4']), true],
		['none of them', { oneOf: [3, 4] }, list(['5']), false],
		['unique as they are written', { unique: true }, list(['1', '1.0', 'true']), true],
		['the same items as numbers', { sameItems: [2, 1] }, list(['1', '2']), true]
	])('%s', async (_, relation, body, holds) => {
		expect((await judged({ body: '/l/v', ...(relation as object) } as Json, body)).holds).toBe(holds);
	});
});
