import { describe, expect, test } from 'vitest';
import type { Json } from '#core/model/json.ts';
import type { CollectionBrief } from '$lib/wire.ts';
import { choicesOf, countScenarios, entryOfKey, keyOfEntry } from './choices.ts';

const brief = (name: string, title: string, scenarios: object[]) => ({ name, title, scenarios }) as CollectionBrief;
const collections = [
	brief('berths', 'Berths', [
		{ id: 'free', title: 'A free one', tags: ['smoke', 'quick'], off: false },
		{ id: 'taken', title: 'A taken one', tags: ['smoke'], off: true }
	]),
	brief('locks', 'Locks', [{ id: 'pass', title: 'A passage', tags: [], off: false }]),
	brief('locks-2', 'Locks', [{ id: 'pass', title: 'A passage', tags: ['quick'], off: false }])
];

describe('what a suite may run', () => {
	const { texts, keyOf } = choicesOf(collections);
	test('tags, collections and scenarios have texts, and no two the same one', () => {
		expect([...texts]).toEqual([
			['tag:quick', 'all tagged quick'],
			['tag:smoke', 'all tagged smoke'],
			['berths', 'Berths'],
			['locks', 'Locks'],
			['locks-2', 'Locks (locks-2)'],
			['berths/free', 'Berths › A free one'],
			['berths/taken', 'Berths › A taken one'],
			['locks/pass', 'Locks › A passage'],
			['locks-2/pass', 'Locks › A passage (locks-2/pass)']
		]);
	});
	test.each([
		['by its text', 'Locks › A passage', 'locks/pass'],
		['by the text that tells it apart', 'Locks (locks-2)', 'locks-2'],
		['by its key', 'berths/free', 'berths/free'],
		['not by what nothing is called', 'Lock', undefined]
	])('one is found %s', (_, text, key) => expect(keyOf(text)).toBe(key));
});

test('a key and what stands in the file are two ways to say the same', () => {
	for (const entry of [{ tag: 'smoke' }, 'berths', 'berths/free']) expect(entryOfKey(keyOfEntry(entry))).toEqual(entry);
});

test.each<[string, Json, string]>([
	['nothing', null, 'null'],
	['a number', 5, '5'],
	['a tag that is none', { tag: null }, 'tag:null']
])('what is wrong in the list has a key, too: %s', (_, entry, key) => expect(keyOfEntry(entry)).toBe(key));

test.each([
	['a tag', [{ tag: 'quick' }], 2],
	['a collection without what is off', [{ target: 'berths' }], 1],
	['a scenario', [{ target: 'locks/pass' }], 1],
	['what is named twice counts once', [{ target: 'locks' }, { target: 'locks/pass' }], 1],
	['a tag does not name a collection', [{ tag: 'berths' }], 0]
])('%s', (_, entries, count) => expect(countScenarios(collections, entries)).toBe(count));
