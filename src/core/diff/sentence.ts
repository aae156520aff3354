import { show } from '../model/show.ts';
import { jsonPathOf } from '../selectors/index.ts';
import type { Difference } from './data.ts';

/** A difference in words: `$.items[0].nights was 2, is 3`. */
export function differenceSentence({ kind, path, from, before, after, key }: Difference, limit = 80): string {
	const at = jsonPathOf(path);
	const named = key ? ` (${key})` : '';
	if (kind === 'added') return `${at}${named} is new: ${show(after, limit)}`;
	if (kind === 'removed') return `${at}${named} is gone: ${show(before, limit)}`;
	if (kind === 'moved') return `${at}${named} stood at ${jsonPathOf(from ?? [])}`;
	return `${at} was ${show(before, limit)}, is ${show(after, limit)}`;
}
