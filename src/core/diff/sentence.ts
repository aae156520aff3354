import { show } from '../model/show.ts';
import { jsonPathOf } from '../selectors/index.ts';
import type { Difference } from './data.ts';

/**
 * A difference in words: `$.items[0].nights was 2, is 3`.
 * @param pathOf how a place is written
 */
export function differenceSentence(
	{ kind, path, from, before, after, key }: Difference,
	limit = 80,
	pathOf: (path: readonly (string | number)[]) => string = jsonPathOf
): string {
	const at = pathOf(path);
	const named = key ? ` (${key})` : '';
	if (kind === 'added') return `${at}${named} is new: ${show(after, limit)}`;
	if (kind === 'removed') return `${at}${named} is gone: ${show(before, limit)}`;
	if (kind === 'moved') return `${at}${named} stood at ${pathOf(from ?? [])}`;
	return `${at} was ${show(before, limit)}, is ${show(after, limit)}`;
}
