import { writeJson, type Json } from '../model/json.ts';
import type { Path } from './tree.ts';

const FOUND_MOST = 5000;

/**
 * Places whose key or plain value holds a text, small and capital letters alike, in the order of the document.
 * Never recurses.
 */
export function searchData(root: Json, wanted: string, most = FOUND_MOST): { paths: Path[]; more: boolean } {
	const paths: Path[] = [];
	const text = wanted.toLowerCase();
	if (text === '') return { paths, more: false };
	// a path is only put together where something was found
	interface At {
		key: string | number;
		above: At | undefined;
		value: Json;
	}
	const pathOf = (at: At): Path => {
		const path: Path = [];
		for (let one: At | undefined = at; one?.above; one = one.above) path.push(one.key);
		return path.reverse();
	};
	const stack: At[] = [{ key: '', above: undefined, value: root }];
	while (stack.length > 0) {
		const at = stack.pop()!;
		const { key, above, value } = at;
		const plain = typeof value !== 'object' || value === null;
		const inKey = above !== undefined && typeof key === 'string' && key.toLowerCase().includes(text);
		if (inKey || (plain && (typeof value === 'string' ? value : writeJson(value)).toLowerCase().includes(text))) {
			if (paths.length === most) return { paths, more: true };
			paths.push(pathOf(at));
		}
		if (plain) continue;
		if (Array.isArray(value))
			for (let i = value.length - 1; i >= 0; i--) stack.push({ key: i, above: at, value: value[i]! });
		else {
			const keys = Object.keys(value);
			for (let i = keys.length - 1; i >= 0; i--) stack.push({ key: keys[i]!, above: at, value: value[keys[i]!]! });
		}
	}
	return { paths, more: false };
}
