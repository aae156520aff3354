import { describe, expect, test } from 'vitest';
import { pageOf, rowsOf } from './rows.ts';

const files = ['collections/a.yaml', 'datasets/b.csv', 'definitions/tolls/tolls.xsd', 'heron.yaml'].map((path) => ({
	path,
	size: 1
}));
const told = (words: string) =>
	rowsOf(files, words).map((row) => ('file' in row ? row.text : `${row.folder}/ ${row.count}`));

describe('the list of files', () => {
	test('has those of the project first, then folders with all that is below them', () => {
		expect(told('')).toEqual([
			'/ 1',
			'heron.yaml',
			'collections/ 1',
			'a.yaml',
			'datasets/ 1',
			'b.csv',
			'definitions/ 1',
			'tolls/tolls.xsd'
		]);
	});
	test('is of those whose path says all words', () => {
		expect(told('tolls XSD')).toEqual(['definitions/ 1', 'tolls/tolls.xsd']);
		expect(told('nothing')).toEqual([]);
	});
	test.each([
		['collections/a.yaml', '/p/collections/a'],
		['stand-ins/a.yaml', '/p/stand-ins/a'],
		['connections/a.json', '/p/text/connections/a.json'],
		['suites/a.yaml', '/p/text/suites/a.yaml'],
		['datasets/of 2026.csv', '/p/datasets/of%202026.csv'],
		['files/a #1.txt', '/p/text/files/a%20%231.txt'],
		['heron.yaml', '/p/text/heron.yaml']
	])('%s has the page %s', (path, page) => {
		expect(pageOf('p', path)).toBe(page);
	});
});
