import { describe, expect, test, vi } from 'vitest';
import { DocumentState } from '../common/document.svelte.ts';
import { TableState } from '../datasets/table.svelte.ts';
import { Matrix } from './matrix.svelte.ts';

vi.useFakeTimers();
const block = (rows: number, columns: number): string =>
	Array.from({ length: rows }, (_, row) => Array.from({ length: columns }, (_, at) => `${row}.${at}`).join('\t')).join(
		'\n'
	);

function matrixOf(names: number, environments: number): Matrix {
	const variables = Object.fromEntries(Array.from({ length: names }, (_, index) => [`v${index}`, 'before']));
	const document = (path: string, value: object) =>
		new DocumentState('p', path, { revision: 1, value: value as never, problems: [] });
	const columns = [
		{ name: '', document: document('heron.yaml', { heron: 1, variables }) },
		...Array.from({ length: environments }, (_, index) => ({
			name: `e${index}`,
			document: document(`environments/e${index}.yaml`, { heron: 1, variables: {} })
		}))
	];
	return new Matrix(columns, document('local.yaml', { heron: 1 }));
}

describe('fifty thousand cells', () => {
	test('are pasted into the matrix in one step, and taken back in one', () => {
		const matrix = matrixOf(2500, 20);
		const { written, left } = matrix.paste('v0', matrix.columns[1]!, block(2500, 20));
		expect([written, left]).toEqual([50_000, 0]);
		expect(matrix.own('v2499', matrix.columns[20]!)).toBe(2499.19);
		matrix.undo();
		expect(matrix.own('v0', matrix.columns[1]!)).toBeUndefined();
		matrix.redo();
		expect(matrix.own('v0', matrix.columns[1]!)).toBe(0);
	});
	test('what has no row or column to go to is counted', () => {
		const matrix = matrixOf(10, 2);
		expect(matrix.paste('v0', matrix.columns[1]!, block(20, 3))).toEqual({ written: 20, left: 40 });
	});
	test('are pasted into a table that grows by them', () => {
		const titles = Array.from({ length: 10 }, (_, index) => `c${index}`);
		const table = new TableState('p', 'x.csv', 1, { titles, rows: [{}] });
		expect(table.paste(0, 'c0', block(5000, 10))).toEqual({ written: 50_000, left: 0 });
		expect(table.rows).toHaveLength(5000);
		table.undo();
		expect(table.rows).toEqual([{}]);
	});
});

describe('values of this machine', () => {
	test('stand in their own file, and leave nothing behind when they go', () => {
		const matrix = matrixOf(2, 2);
		const [, first] = matrix.columns;
		matrix.setHere('v1', first!, 'mine');
		expect(matrix.local.value).toEqual({ heron: 1, environments: { e0: { v1: 'mine' } } });
		expect(matrix.here('v1', first!)).toBe('mine');
		expect(matrix.here('v0', first!)).toBeUndefined();
		matrix.undo();
		expect(matrix.local.value).toEqual({ heron: 1 });
		matrix.redo();
		matrix.setHere('v1', first!, undefined);
		expect(matrix.local.value).toEqual({ heron: 1 });
		matrix.setHere('v0', matrix.columns[0]!, 1);
		expect(matrix.here('v0', first!)).toBe(1);
		matrix.remove('v0');
		expect(matrix.local.value).toEqual({ heron: 1 });
	});
});
