import { viewReply } from '#core/model/view.ts';
import { keepOne } from '#core/run/index.ts';
import { select } from '#core/selectors/index.ts';
import { namesInAnyNamespace } from '#core/selectors/xpath.ts';
import { createXml } from '#server/engine/xml.ts';
import { describe, expect, it } from 'vitest';

const files = new Map<string, string>();
const xml = createXml((path) => (files.has(path) ? new TextEncoder().encode(files.get(path)) : undefined));
const REPLY = `<?xml version="1.0" encoding="ISO-8859-1"?>
<s:Envelope xmlns:s="urn:envelope"><s:Body><list xmlns="urn:moorings" total="3">
<mooring id="B-14"><name>Sedge Reach</name><nights>2</nights></mooring><mooring id="C-02"><name>Lower Staithe – Süd</name><nights>11</nights></mooring>
</list></s:Body></s:Envelope>`;

describe('XPath over a reply', () => {
	it.each([
		['a name without prefix matches in any namespace', '//mooring/name', ['Sedge Reach', 'Lower Staithe – Süd']],
		['a prefix is the document’s', '/s:Envelope/s:Body/list/@total', ['3']],
		['a count is a number', 'count(//mooring)', 2],
		['a comparison in a predicate is by number', '//mooring[nights > 9]/@id', ['C-02']],
		['div and mod stay operators', 'count(//mooring) div 2 + 5 mod 2', 2],
		['a name that is called like an operator', 'count(//div)', 0],
		['a text', 'string(//mooring[last()]/@id)', 'C-02'],
		['a truth value', '//list/@total = 3', true],
		['an axis', '//name[following-sibling::nights = 2]', ['Sedge Reach']],
		['a star behind a prefix', 'count(/s:*/s:*)', 1],
		['nothing', '//lock', []]
	])('%s', async (_, expression, expected) => {
		const document = await xml.open(REPLY);
		expect(document.xpath(namesInAnyNamespace(expression), { s: 'urn:envelope' })).toEqual(expected);
		document.close();
	});
	it.each([
		['a prefix that nobody declares', '//q:mooring', /q:mooring/],
		['what only the parser finds', '//mooring[nights >]', /nights/]
	])('says what is wrong: %s', async (_, expression, message) => {
		const document = await xml.open(REPLY);
		expect(() => document.xpath(expression, {})).toThrow(message);
		document.close();
	});
});

describe('what a document begins with', () => {
	it.each([
		['a line before its declaration', '\n<?xml version="1.0" encoding="UTF-8"?><a/>'],
		['a text before it', 'warning: <a/>'],
		['two declarations', '<?xml version="1.0"?><?xml version="1.0"?><a/>']
	])('is refused with %s (XML 1.0 section 2.8)', async (_, text) => {
		await expect(xml.open(text)).rejects.toThrow(/line \d+, column \d+/);
	});
	it.each([
		['a byte order mark', '\uFEFF<?xml version="1.0" encoding="UTF-16"?><a/>'],
		['a blank where there is no declaration', '\n <a/>'],
		['a comment', '<!-- gauges --><a/>']
	])('may be %s', async (_, text) => {
		const document = await xml.open(text);
		expect(document.xpath('count(/a)', {})).toBe(1);
		document.close();
	});
});

describe('a reply by the prefixes of the project', () => {
	const view = (declared: Record<string, string>) =>
		viewReply(
			{
				status: 200,
				reason: '',
				version: 'HTTP/1.1',
				headers: [['Content-Type', 'application/xml']],
				body: new TextEncoder().encode(REPLY.replace('ISO-8859-1', 'UTF-8')),
				wireSize: 0,
				reused: false,
				phases: { name: 0, connect: 0, tls: 0, send: 0, wait: 0, body: 0, total: 1 }
			},
			xml,
			declared
		);
	it('a prefix that the reply does not declare', async () => {
		expect(await view({ m: 'urn:moorings' }).xpath('count(//m:mooring)')).toBe(2);
		expect(await view({ m: 'urn:others' }).xpath('count(//m:mooring)')).toBe(0);
	});
	it('goes before one of the same name in the reply', async () => {
		expect(await view({ s: 'urn:moorings' }).xpath('count(//s:mooring)')).toBe(2);
	});
	it('an unknown prefix is told with where to declare it', async () => {
		await expect(Promise.resolve(select('//q:mooring', view({})))).rejects.toThrow(
			'the prefix q is declared neither by the reply nor under namespaces: of the connection or the project'
		);
	});
	it('an element that holds elements is kept as XML, and one that holds text as text', async () => {
		const kept = (selector: string) => keepOne({ name: 'x', selector }, view({}), 'http://localhost/moorings');
		expect(await kept('//mooring[1]')).toBe(
			'<mooring xmlns="urn:moorings" id="B-14"><name>Sedge Reach</name><nights>2</nights></mooring>'
		);
		expect(await kept('//mooring[1]/name')).toBe('Sedge Reach');
		expect(await kept('//mooring/@id')).toEqual(['B-14', 'C-02']);
		expect(await kept('string(//mooring[1])')).toBe('Sedge Reach2');
	});
});

describe('XML that means harm', () => {
	const bomb = `<!DOCTYPE a [<!ENTITY a0 "aaaaaaaaaa">${Array.from({ length: 9 }, (_, i) => `<!ENTITY a${i + 1} "${`&a${i};`.repeat(10)}">`).join('')}]><a>&a9;</a>`;
	it.each([
		['entities that multiply', bomb, /entity|amplification/i],
		['a body that ends early', '<a><b>', /line 1/],
		['nothing at all', '', /empty/],
		['text', 'out of service', /not XML/]
	])('%s are refused with a reason', async (_, text, message) => {
		await expect(xml.open(text).then((document) => document.xpath('string(/)', {}))).rejects.toThrow(message);
	});
	it('does not read files by external entities', async () => {
		const document = await xml.open('<!DOCTYPE a [<!ENTITY f SYSTEM "file:///etc/hostname">]><a>x&f;</a>');
		expect(document.xpath('string(/a)', {})).toBe('x');
	});
	it('reads an element with a hundred thousand attributes', async () => {
		const many = Array.from({ length: 100_000 }, (_, i) => `b${i}="x"`).join(' ');
		const document = await xml.open(`<a ${many}/>`);
		expect(document.xpath('count(/a/@*)', {})).toBe(100_000);
		document.close();
	});
});

describe('XSD', () => {
	files.set(
		'schemas/types.xsd',
		'<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"><xs:simpleType name="nights"><xs:restriction base="xs:int"><xs:maxInclusive value="14"/></xs:restriction></xs:simpleType></xs:schema>'
	);
	files.set(
		'schemas/stay.xsd',
		'<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"><xs:include schemaLocation="types.xsd"/><xs:element name="stay"><xs:complexType><xs:sequence><xs:element name="nights" type="nights"/></xs:sequence></xs:complexType></xs:element></xs:schema>'
	);
	files.set(
		'schemas/away.xsd',
		'<xs:schema xmlns:xs="http://www.w3.org/2001/XMLSchema"><xs:include schemaLocation="../../etc/passwd"/><xs:element name="a" type="missing"/></xs:schema>'
	);
	it('accepts what fits, over two files', async () => {
		expect(await xml.validate('<stay><nights>3</nights></stay>', 'schemas/stay.xsd')).toEqual([]);
	});
	it('says where what is wrong', async () => {
		const [first, ...rest] = await xml.validate('<stay>\n<nights>30</nights></stay>', 'schemas/stay.xsd');
		expect(first).toMatchObject({ line: 2 });
		expect(first!.message).toMatch(/nights.*30/);
		expect(rest.length).toBeLessThan(3);
	});
	it('reads nothing outside of the project, and says so', async () => {
		await expect(xml.validate('<a/>', 'schemas/away.xsd')).rejects.toThrow(/schemas\/away\.xsd cannot be used/);
	});
	it('names a schema that is not there', async () => {
		await expect(xml.validate('<a/>', 'schemas/none.xsd')).rejects.toThrow('schemas/none.xsd');
	});
});
