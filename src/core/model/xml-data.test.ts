import { describe, expect, test } from 'vitest';
import type { Json } from './json.ts';
import { compileXmlPlaces, generalXPath, xmlData, xpathOf } from './xml-data.ts';

describe('XML as data', () => {
	const cases: [string, string, Json][] = [
		['text', '<a>x</a>', { a: 'x' }],
		['an empty element', '<a/>', { a: '' }],
		['attributes', '<a b="1"/>', { a: { '@b': '1' } }],
		['text beside attributes', '<a b="1">x</a>', { a: { '@b': '1', '#text': 'x' } }],
		['several of one name are a list', '<l><i>1</i><i>2</i></l>', { l: { i: ['1', '2'] } }],
		[
			'namespaces and prefixes are left out',
			'<s:a xmlns:s="urn:s"><b xmlns="urn:b" s:c="1"/></s:a>',
			{ a: { b: { '@c': '1' } } }
		],
		['CDATA and entities are text', '<a><![CDATA[<x>]]>&amp;</a>', { a: '<x>&' }],
		['white space between children goes', '<a>\n  <b>1</b>\n</a>', { a: { b: '1' } }],
		['white space of a text stays', '<a> x </a>', { a: ' x ' }],
		['text between children', '<p>see <b>B</b> there</p>', { p: { b: 'B', '#text': 'see  there' } }],
		[
			'a name that objects have anyway',
			'<a><__proto__>1</__proto__></a>',
			{ a: JSON.parse('{"__proto__":"1"}') as Json }
		]
	];
	test.each(cases)('%s', (_, text, expected) => {
		expect(xmlData(text)).toEqual(expected);
	});
	test('what is not XML is refused with its place', () => {
		expect(() => xmlData('<a>\n<b></a>')).toThrow(/2:/);
		expect(() => xmlData('')).toThrow();
	});
	test('a place is an XPath', () => {
		expect(xpathOf(['Envelope', 'item', 1, '@id'])).toBe('/Envelope/item[2]/@id');
	});
});

describe('the places of a plain XPath in such data', () => {
	const data = xmlData(
		'<s:list xmlns:s="urn:s" at="now"><s:berth id="a"><at>1</at></s:berth><s:berth id="b"><at>2</at><x><at>3</at></x></s:berth><one>4</one></s:list>'
	);
	const at = (selector: string) => compileXmlPlaces(selector)(data).map(xpathOf);
	test.each<[string, string, string[]]>([
		['names', '/list/one', ['/list/one']],
		['prefixes are not looked at', '/s:list/s:berth/@id', ['/list/berth[1]/@id', '/list/berth[2]/@id']],
		['a number', '/list/berth[2]/at', ['/list/berth[2]/at']],
		['wherever it stands', '//at', ['/list/berth[1]/at', '/list/berth[2]/at', '/list/berth[2]/x/at']],
		['below a place', '/list//x/at', ['/list/berth[2]/x/at']],
		['an attribute wherever it stands', '//@id', ['/list/berth[1]/@id', '/list/berth[2]/@id']],
		['whatever it is called', '/list/*/x', ['/list/berth[2]/x']],
		['the text of an element', '/list/one/text()', ['/list/one']],
		['nothing', '/list/nobody', []],
		['a number that is too large', '/list/berth[9]', []]
	])('%s', (_, selector, expected) => {
		expect(at(selector)).toEqual(expected);
	});
	test.each(['', '/', 'list/one', '/list/berth[@id="a"]', 'count(/list)', '/list/one/'])(
		'%s is refused',
		(selector) => {
			expect(() => compileXmlPlaces(selector)).toThrow();
		}
	);
	test('items stand for each other', () => {
		expect(generalXPath(['list', 'berth', 1, '@id'])).toBe('/list/berth/@id');
		expect(at(generalXPath(['list', 'berth', 1, '@id']))).toHaveLength(2);
	});
});
