import { describe, expect, test } from 'vitest';
import type { Json } from '#core/model/json.ts';
import { freeName, getIn, moved, setIn } from './edit.ts';

const value: Json = { title: 'a', steps: [{ id: 'x', query: { a: 1 } }, { id: 'y' }] };

describe('an edit of plain data', () => {
	test.each<[string, (string | number)[], Json | undefined, Json]>([
		['changes a value', ['title'], 'b', { ...value, title: 'b' }],
		[
			'changes one deep inside',
			['steps', 0, 'query', 'a'],
			2,
			{ title: 'a', steps: [{ id: 'x', query: { a: 2 } }, { id: 'y' }] }
		],
		['takes a key away', ['steps', 0, 'query'], undefined, { title: 'a', steps: [{ id: 'x' }, { id: 'y' }] }],
		['takes an item away', ['steps', 0], undefined, { title: 'a', steps: [{ id: 'y' }] }],
		[
			'makes what is on the way',
			['steps', 1, 'body', 'json'],
			[],
			{
				title: 'a',
				steps: [
					{ id: 'x', query: { a: 1 } },
					{ id: 'y', body: { json: [] } }
				]
			}
		],
		['replaces a plain value by a record on the way', ['title', 'en'], 'b', { ...value, title: { en: 'b' } }],
		['replaces all', [], 3, 3]
	])('%s', (_, path, next, wanted) => {
		const before = structuredClone(value);
		expect(setIn(value, path, next)).toEqual(wanted);
		expect(value).toEqual(before);
	});
	test('shares what it does not touch', () => {
		const next = setIn(value, ['steps', 1, 'id'], 'z') as { steps: Json[] };
		expect(next.steps[0]).toBe((value as { steps: Json[] }).steps[0]);
	});
	test.each<[(string | number)[], unknown]>([
		[['steps', 0, 'id'], 'x'],
		[['steps', 9, 'id'], undefined],
		[['title', 'x', 'y'], undefined],
		[[], value]
	])('reads %j', (path, wanted) => expect(getIn(value, path)).toEqual(wanted));
	test.each([
		[0, 2, ['b', 'c', 'a']],
		[2, 0, ['c', 'a', 'b']],
		[1, 1, ['a', 'b', 'c']]
	])('moves from %d to %d', (from, to, wanted) => expect(moved(['a', 'b', 'c'], from, to)).toEqual(wanted));
	test.each([
		['book', [], 'book'],
		['book', ['book'], 'book2'],
		['book2', ['book', 'book2'], 'book3'],
		['7', ['7'], '72']
	])('%s beside %j is called %s', (wanted, taken, name) => expect(freeName(wanted, taken)).toBe(name));
});
