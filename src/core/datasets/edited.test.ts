import { describe, expect, test } from 'vitest';
import type { JsonObject } from '../model/json.ts';
import { editedText, type TableForm } from './index.ts';

/** A file whose second row gets another name, as it is written then. */
function changed(form: TableForm, text: string, titles: string[], rows: JsonObject[], delimiter?: string): string {
	const edited = editedText(form, text, { titles, rows }, delimiter);
	expect(edited.write(titles, rows, true)).toBe(text);
	return edited.write(titles, [rows[0]!, { ...rows[1], name: 'Tern' }, ...rows.slice(2)], true);
}
const BOATS: JsonObject[] = [
	{ name: 'Pike', length: '9' },
	{ name: 'Heron', length: '11' },
	{ name: 'Eel', length: '7' }
];
const TITLES = ['name', 'length'];

describe('a file of which one row is changed', () => {
	test.each<[string, string, string, string?]>([
		['keeps line feeds', 'name,length\nPike,9\nHeron,11\nEel,7\n', 'name,length\nPike,9\nTern,11\nEel,7\n'],
		[
			'keeps the ends of RFC 4180',
			'name,length\r\nPike,9\r\nHeron,11\r\nEel,7\r\n',
			'name,length\r\nPike,9\r\nTern,11\r\nEel,7\r\n'
		],
		['without an end has none', 'name,length\nPike,9\nHeron,11\nEel,7', 'name,length\nPike,9\nTern,11\nEel,7'],
		[
			'keeps quotes that nobody needs',
			'"name","length"\n"Pike","9"\n"Heron","11"\n"Eel","7"\n',
			'"name","length"\n"Pike","9"\nTern,11\n"Eel","7"\n'
		],
		[
			'keeps its mark and semicolons',
			'\uFEFFname;length\nPike;9\nHeron;11\nEel;7\n',
			'\uFEFFname;length\nPike;9\nTern;11\nEel;7\n',
			';'
		]
	])('%s', (_, text, expected, delimiter = ',') => {
		expect(changed('csv', text, TITLES, BOATS, delimiter)).toBe(expected);
	});
	test('keeps lines within cells, and a quote in the middle', () => {
		const rows = [
			{ name: 'Pike\n"the"', note: '9" wide' },
			{ name: 'Heron', note: '' }
		];
		expect(changed('csv', 'name,note\n"Pike\n""the""",9" wide\nHeron,\n', ['name', 'note'], rows)).toBe(
			'name,note\n"Pike\n""the""",9" wide\nTern,\n'
		);
	});
	test('has no titles where it had none', () => {
		const rows = [
			{ name: '1', column2: '9' },
			{ name: '2', column2: '11' }
		];
		expect(changed('csv', '1,9\n2,11\n', ['name', 'column2'], rows)).toBe('1,9\nTern,11\n');
	});
	test('keeps comments in YAML', () => {
		expect(
			changed(
				'yaml',
				'# ours\n- name: Pike # the old one\n- { name: Heron }\n',
				['name'],
				[{ name: 'Pike' }, { name: 'Heron' }]
			)
		).toBe('# ours\n- name: Pike # the old one\n- { name: Tern }\n');
	});
	test.each([
		['two blanks', '[\n  {\n    "name": "Pike"\n  },\n  {\n    "name": "Heron"\n  }\n]\n'],
		['tabs', '[\n\t{\n\t\t"name": "Pike"\n\t},\n\t{\n\t\t"name": "Heron"\n\t}\n]'],
		['one line', '[{"name":"Pike"},{"name":"Heron"}]']
	])('keeps how JSON stands: %s', (_, text) => {
		expect(changed('json', text, ['name'], [{ name: 'Pike' }, { name: 'Heron' }])).toBe(text.replace('Heron', 'Tern'));
	});
});

test('a column that is called otherwise changes the line of the titles alone; other columns change all lines', () => {
	const edited = editedText(
		'csv',
		'name,length\n"Pike",9\n"Heron",11\n',
		{ titles: TITLES, rows: BOATS.slice(0, 2) },
		','
	);
	const renamed = BOATS.slice(0, 2).map((row): JsonObject => {
		const same = { boat: row.name!, length: row.length! };
		edited.carry(row, same);
		return same;
	});
	expect(edited.write(['boat', 'length'], renamed, true)).toBe('boat,length\n"Pike",9\n"Heron",11\n');
	expect(edited.write(['length'], renamed, false)).toBe('length\n9\n11\n');
});
test('what cannot be told apart is written anew, with the line ends of the file', () => {
	const edited = editedText(
		'csv',
		'name\nPike\n',
		{ titles: ['name'], rows: [{ name: 'Pike' }, { name: 'Eel' }] },
		','
	);
	expect(edited.write(['name'], [{ name: 'Pike' }, { name: 'Eel' }], true)).toBe('name\nPike\nEel\n');
	const empty = editedText('csv', '', { titles: [], rows: [] });
	expect(empty.write(['name'], [{ name: 'Pike' }], false)).toBe('name\r\nPike\r\n');
});
