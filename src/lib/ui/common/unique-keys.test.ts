import { expect, test } from 'vitest';
import { uniqueKeys } from './unique-keys.ts';

test.each<[string, (string | number)[], (string | number)[]]>([
	['keys that differ stay', ['a', 'b', 3], ['a', 'b', 3]],
	['each one that comes again is told apart', ['a', 'a', 'b', 'a'], ['a', 'a again 1', 'b', 'a again 2']],
	['no items, no keys', [], []]
])('%s', (_, given, keys) => expect(uniqueKeys(given, (key) => key)).toEqual(keys));
