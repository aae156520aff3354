import { isObject, type Json } from '../model/json.ts';
import { compareData } from './data.ts';
import { differenceSentence } from './sentence.ts';

/** A place in a document in the words of its steps: `first › call › checks[0].status`. */
function placeOf(value: Json, path: readonly (string | number)[]): string {
	const names: string[] = [];
	let here: Json | undefined = value;
	let rest = '';
	for (const key of path) {
		here = typeof here === 'object' && here !== null ? (here as Record<string | number, Json>)[key] : undefined;
		const id: Json | undefined = isObject(here) ? here.id : undefined;
		if (typeof key === 'number' && typeof id === 'string') {
			names.push(id);
			rest = '';
		} else rest += typeof key === 'number' ? `[${key + 1}]` : `${rest ? '.' : ''}${key}`;
	}
	// the lists of scenarios and steps are told by what is in them
	if (/^(scenarios|steps)$/.test(rest) && names.length > 0) rest = '';
	return [...names, ...(rest ? [rest] : [])].join(' › ') || 'all of it';
}

const MOST = 50;
const SHOWN = 60;

/** What is different between two values of a document, in words. */
export function documentDifferences(before: Json, after: Json): string[] {
	const differences = compareData(before, after, { most: MOST });
	// the id stands in the place already
	return differences.map(({ key: _, ...one }) =>
		differenceSentence(one, SHOWN, (path) => placeOf(one.kind === 'removed' ? before : after, path))
	);
}
