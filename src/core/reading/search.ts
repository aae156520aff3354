import { isObject, writeJson, type Json } from '../model/json.ts';
import type { Path } from './tree.ts';

export const FOUND_MOST = 5000;

/**
 * Places whose key or plain value holds a text, small and capital letters alike, in the order of the document.
 * Never recurses.
 */
export function searchData(root: Json, wanted: string, most = FOUND_MOST): { paths: Path[]; more: boolean } {
	const paths: Path[] = [];
	const text = wanted.toLowerCase();
	if (text === '') return { paths, more: false };
	const stack: { path: Path; value: Json }[] = [{ path: [], value: root }];
	while (stack.length > 0) {
		const { path, value } = stack.pop()!;
		const key = path.at(-1);
		const plain = typeof value !== 'object' || value === null;
		const inKey = typeof key === 'string' && key.toLowerCase().includes(text);
		const shown = typeof value === 'string' ? value : plain ? writeJson(value) : '';
		if (inKey || (plain && shown.toLowerCase().includes(text))) {
			if (paths.length === most) return { paths, more: true };
			paths.push(path);
		}
		if (plain) continue;
		const keys: (string | number)[] = Array.isArray(value)
			? [...value.keys()]
			: isObject(value)
				? Object.keys(value)
				: [];
		for (let i = keys.length - 1; i >= 0; i--) {
			const one = keys[i]!;
			stack.push({ path: [...path, one], value: (value as Record<string | number, Json>)[one]! });
		}
	}
	return { paths, more: false };
}
