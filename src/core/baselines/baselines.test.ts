import { describe, expect, test } from 'vitest';
import { differenceSentence } from '../diff/index.ts';
import type { Json } from '../model/json.ts';
import { generalXPath, xmlData, xpathOf } from '../model/xml-data.ts';
import {
	acceptDifferences,
	acceptXml,
	alike,
	approvedFile,
	approvedText,
	baselineFiles,
	compareApproved,
	findVolatile,
	generalSelector
} from './index.ts';

test('a baseline is sorted, a value a line, all digits kept', () => {
	expect(approvedText('{"b":[1,{"d":1,"c":9007199254740993}],"a":null}')).toBe(
		'{\n  "a": null,\n  "b": [\n    1,\n    {\n      "c": 9007199254740993,\n      "d": 1\n    }\n  ]\n}\n'
	);
	expect(approvedText('<a/>')).toBe('<a/>');
});
test('its file is named for what it is, and that of the environment comes first', () => {
	expect(approvedFile('list', '{}')).toBe('baselines/list.json');
	expect(approvedFile('list', '<a/>', 'staging')).toBe('baselines/list@staging.xml');
	expect(approvedFile('list', 'all is well')).toBe('baselines/list.txt');
	expect(baselineFiles('list', 'staging')[0]).toBe('baselines/list@staging.json');
});

describe('what is another one each time', () => {
	const cases: [string, Json, Json, string[]][] = [
		['a time', { at: '2027-05-14T10:00:00Z' }, { at: '2027-05-14T10:01:00Z' }, ['$.at time']],
		['epoch seconds', { at: 1_800_000_000 }, { at: 1_800_000_060 }, ['$.at time']],
		[
			'a UUID',
			{ id: '6f1c3f0e-5a3b-4c58-9c7e-0d3c0f3c9a11' },
			{ id: '7f1c3f0e-5a3b-4c58-9c7e-0d3c0f3c9a12' },
			['$.id id']
		],
		['a reference', { ref: 'RW-204417' }, { ref: 'RW-204418' }, ['$.ref id']],
		['a token', { token: 'EXKkgaUcdQVP3HcqdVYWs0aa' }, { token: 'YXECzWy7nbqzmzHu4Kxwkk11' }, ['$.token token']],
		['a counter', { n: 4 }, { n: 6 }, ['$.n counter']],
		[
			'in all items of a list',
			{
				l: [
					{ k: 'a', n: 'x' },
					{ k: 'b', n: 'y' }
				]
			},
			{
				l: [
					{ k: 'a', n: 'p' },
					{ k: 'b', n: 'q' }
				]
			},
			['$.l[*].n value']
		],
		['an order', { l: ['a', 'b', 'c'] }, { l: ['c', 'a', 'b'] }, ['$.l order']],
		['nothing', { a: 1 }, { a: 1 }, []]
	];
	test.each(cases)('%s', (_, first, second, expected) => {
		expect(findVolatile([first, second]).map(({ selector, reason }) => `${selector} ${reason}`)).toEqual(expected);
	});
});

describe('an approved reply in XML', () => {
	const list = (at: string, ids: string[]) =>
		`<l:list xmlns:l="urn:l" at="${at}"><l:made><l:at>${at}</l:at></l:made>${ids.map((id) => `<l:i id="${id}">1</l:i>`).join('')}</l:list>`;
	const changesOf = (ignore: string[], unordered: string[] = []) =>
		compareApproved({ path: 'baselines/l.xml', text: list('1', ['a', 'b']) }, list('2', ['b', 'a']), {
			ignore,
			unordered
		}).map((one) => differenceSentence(one, 80, xpathOf));
	test('says its places as XPaths, and leaves out what plain XPaths mean', () => {
		expect(changesOf([])).toContain('/list/@at was "1", is "2"');
		expect(changesOf(['/list/@at', '//at'])).toEqual(
			expect.arrayContaining([expect.stringMatching(/^\/list\/i\[\d\].* stood at/)])
		);
		expect(changesOf(['/list/@at', '/l:list/l:made/l:at'], ['/list/i'])).toEqual([]);
	});
	test('what is another one each time is named as an XPath', () => {
		const answers = [xmlData(list('2027-05-14T10:00:00Z', ['a'])), xmlData(list('2027-05-14T10:01:00Z', ['a']))];
		expect(findVolatile(answers, generalXPath).map(({ selector, reason }) => `${selector} ${reason}`)).toEqual([
			'/list/@at time',
			'/list/made/at time'
		]);
	});
});

describe('namespaces of an approved reply in XML', () => {
	const changesOf = (approved: string, received: string, ignore: string[] = []) =>
		compareApproved({ path: 'baselines/l.xml', text: approved }, received, { ignore, unordered: [] }).map((one) =>
			differenceSentence(one, 80, xpathOf)
		);
	const LIST = '<l:a xmlns:l="urn:l"><l:b>1</l:b></l:a>';
	test.each([
		['another prefix for the same', '<x:a xmlns:x="urn:l"><x:b>1</x:b></x:a>', []],
		['the default one for the same', '<a xmlns="urn:l"><b>1</b></a>', []],
		['another one', '<l:a xmlns:l="urn:m"><l:b>1</l:b></l:a>', ['/a/@xmlns was "urn:l", is "urn:m"']],
		['none', '<a><b>1</b></a>', ['/a/@xmlns is gone: "urn:l"']],
		['another one further in', '<l:a xmlns:l="urn:l"><b>1</b></l:a>', ['/a/b was "1", is {"@xmlns":"","#text":"1"}']]
	])('%s', (_, received, expected) => {
		expect(changesOf(LIST, received)).toEqual(expected);
	});
	test('can be of no interest', () => {
		expect(changesOf(LIST, '<l:a xmlns:l="urn:m"><l:b>1</l:b></l:a>', ['/a/@xmlns'])).toEqual([]);
	});
	test('is accepted with its element', () => {
		const [approved, later] = [
			'<r><l:a xmlns:l="urn:l">1</l:a><b>1</b></r>',
			'<r><k:a xmlns:k="urn:m">1</k:a><b>2</b></r>'
		];
		const differences = compareApproved({ path: 'baselines/l.xml', text: approved }, later, {
			ignore: [],
			unordered: []
		});
		expect(acceptXml(approved, later, differences.slice(0, 1))).toBe('<r><k:a xmlns:k="urn:m">1</k:a><b>1</b></r>');
	});
});

describe('differences of XML are accepted', () => {
	const approved =
		'<?xml version="1.0"?>\n<l:list xmlns:l="urn:l" at="1">\n  <!-- as agreed -->\n  <l:made by=\'a\'>x &amp; y</l:made>\n  <l:i id="p"><l:n>1</l:n></l:i>\n  <l:i id="q"><l:n>2</l:n></l:i>\n  <l:none/>\n</l:list>\n';
	const accepted = (later: string, pick: (path: string) => boolean = () => true) => {
		const differences = compareApproved({ path: 'baselines/l.xml', text: approved }, later, {
			ignore: [],
			unordered: []
		});
		const some = differences.filter(({ path }) => pick(xpathOf(path)));
		expect(some.length).toBeGreaterThan(0);
		return acceptXml(approved, later, some);
	};
	const change = (from: string, to: string) => approved.replace(from, to);
	test.each<[string, string]>([
		['a text', change('x &amp; y', 'x &lt; z')],
		['an attribute', change('at="1"', 'at="2"')],
		['an attribute in single quotes', change("by='a'", 'by="b"')],
		['an attribute that is new', change('<l:i id="p">', '<l:i id="p" held="true">')],
		['an attribute that is gone', change(" by='a'", '')],
		['a value deep inside', change('<l:n>2</l:n>', '<l:n>3</l:n>')],
		['an element that was empty', change('<l:none/>', '<l:none>now</l:none>')]
	])('%s, and nothing else is written anew', (_, later) => {
		expect(accepted(later)).toBe(later);
	});
	test('one of several; the others stay', () => {
		const later = change('at="1"', 'at="2"').replace('<l:n>2</l:n>', '<l:n>3</l:n>');
		expect(accepted(later, (path) => path.endsWith('/n'))).toBe(change('<l:n>2</l:n>', '<l:n>3</l:n>'));
	});
	test('prefixes of the later document come along where they are others', () => {
		const later = approved
			.replaceAll('l:', 'm:')
			.replace('xmlns:l', 'xmlns:m')
			.replace('<m:none/>', '<m:none><m:a>1</m:a></m:none>');
		const text = accepted(later);
		expect(text).toContain('<m:none xmlns:m="urn:l"><m:a>1</m:a></m:none>');
		expect(xmlData(text)).toEqual(xmlData(later));
	});
	test.each<[string, string]>([
		['came', change('</l:list>', '<l:i id="r"><l:n>3</l:n></l:i></l:list>')],
		['went', change('<l:i id="p"><l:n>1</l:n></l:i>', '')],
		['are others', change('<l:none/>', '<l:some/>')]
	])('elements that %s: what is around them is taken over', (_, later) => {
		expect(xmlData(accepted(later))).toEqual(xmlData(later));
	});
	test('another document altogether is taken over whole', () => {
		expect(accepted('<other/>')).toBe('<other/>');
	});
});

describe('differences are accepted', () => {
	const before: Json = {
		a: 1,
		old: true,
		list: [
			{ id: 'x', n: 1 },
			{ id: 'y', n: 1 }
		]
	};
	const after: Json = {
		a: 2,
		fresh: [1],
		list: [
			{ id: 'z', n: 9 },
			{ id: 'x', n: 5 },
			{ id: 'y', n: 5 }
		]
	};
	const differences = compareApproved({ path: 'x.json', text: JSON.stringify(before) }, JSON.stringify(after), {
		ignore: [],
		unordered: []
	});
	const groups = alike(differences, generalSelector);
	test('those that are alike stand together', () => {
		expect(groups.map(({ kind, selector, differences: list }) => `${kind} ${selector} ${list.length}`)).toEqual([
			'changed $.a 1',
			'removed $.old 1',
			'changed $.list[*].n 2',
			'added $.list[*] 1',
			'added $.fresh 1'
		]);
	});
	test('one group leaves the others as they are', () => {
		expect(acceptDifferences(before, after, groups[2]!.differences)).toEqual({
			a: 1,
			old: true,
			list: [
				{ id: 'x', n: 5 },
				{ id: 'y', n: 5 }
			]
		});
	});
	test('all of them give the later answer', () => {
		expect(acceptDifferences(before, after, differences)).toEqual(after);
	});
});
