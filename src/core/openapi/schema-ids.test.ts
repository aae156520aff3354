import { describe, expect, it } from 'vitest';
import { filesReferred } from './index.ts';

describe('what a text refers to', () => {
	it.each<[string, string, string[]]>([
		['a file', `$ref: parts.yaml#/Boat`, ['parts.yaml']],
		['a file beside identifiers', `$id: https://schemas.test/boat\n$ref: parts.yaml#/Boat`, ['parts.yaml']],
		['a schema of its own, whole', `$id: https://schemas.test/boat\n$ref: https://schemas.test/boat#/$defs/x`, []],
		['a schema of its own, from beside it', `"$id": "https://schemas.test/boat", "$ref": "boat"`, []],
		['a schema of its own, both without an address', `$id: boat\n$ref: 'boat'`, []],
		['another schema of the same host', `$id: https://schemas.test/boat\n$ref: lock.json`, ['lock.json']]
	])('%s', (_, text, files) => {
		expect(filesReferred(text)).toEqual(files);
	});
});
