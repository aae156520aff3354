import { compareData, type Difference } from '../diff/index.ts';
import { isObject, type Json } from '../model/json.ts';
import { jsonPathOf } from '../selectors/index.ts';

/** Something that is another one each time. */
export interface Volatile {
	/** The path under which it is ignored; items of a list stand for each other. */
	selector: string;
	reason: 'time' | 'id' | 'token' | 'counter' | 'order' | 'value';
	/** Whether the list's order is what changes. */
	order: boolean;
	/** Two values that were seen. */
	seen: [Json | undefined, Json | undefined];
}

/** Why a value changes from one answer to the next, judged by how both look. */
function reasonOf(before: unknown, after: unknown): Volatile['reason'] {
	const both = (fits: (value: unknown) => boolean) => fits(before) && fits(after);
	const matches = (pattern: RegExp) => both((value) => typeof value === 'string' && pattern.test(value));
	if (matches(/^\d{4}-\d\d-\d\d([T ]\d\d:\d\d|$)/) || matches(/GMT$/)) return 'time';
	// epoch seconds or milliseconds of this half of the century
	if (
		both(
			(value) =>
				typeof value === 'number' && /^1[4-9]\d{8}(\d{3})?$|^2[0-4]\d{8}(\d{3})?$/.test(String(Math.trunc(value)))
		)
	)
		return 'time';
	if (matches(/^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i)) return 'id';
	if (matches(/^[\w-]+\.[\w-]+\.[\w-]*$/) || matches(/^[\w+/=-]{24,}$/)) return 'token';
	if (matches(/^[A-Za-z]{0,6}[-_]?\d{3,}$/)) return 'id';
	if (both((value) => typeof value === 'number' && Number.isInteger(value)))
		return Number(after) - Number(before) > 0 && Number(after) - Number(before) < 1000 ? 'counter' : 'id';
	return 'value';
}

/** Items of lists stand for each other: `$.items[*].at`. */
export const generalSelector = (path: readonly (string | number)[]): string =>
	`$${path.map((key) => (typeof key === 'number' ? '[*]' : jsonPathOf([key]).slice(1))).join('')}`;

/**
 * What changed between answers that should be the same, as selectors that ignore it, each with its reason.
 * @param answers two or more, of the same call
 * @param general how a place is written
 */
export function findVolatile(
	answers: Json[],
	general: (path: readonly (string | number)[]) => string = generalSelector
): Volatile[] {
	const found = new Map<string, Volatile>();
	const add = (one: Volatile) => {
		const key = `${one.order} ${one.selector}`;
		if (!found.has(key)) found.set(key, one);
	};
	for (let at = 1; at < answers.length; at++) {
		for (const difference of compareData(answers[at - 1]!, answers[at]!)) add(volatileOf(difference, general));
	}
	// what lies below something that is ignored anyway needs no line of its own
	const all = [...found.values()];
	return all.filter(
		(one) =>
			one.order ||
			!all.some(
				(other) =>
					other !== one &&
					!other.order &&
					(one.selector.startsWith(`${other.selector}.`) || one.selector.startsWith(`${other.selector}/`))
			)
	);
}

function volatileOf(
	{ kind, path, before, after }: Difference,
	general: (path: readonly (string | number)[]) => string
): Volatile {
	if (kind === 'moved')
		return { selector: general(path.slice(0, -1)), reason: 'order', order: true, seen: [undefined, undefined] };
	// an item that came or went: the list as a whole changes
	const inList = typeof path.at(-1) === 'number' && kind !== 'changed';
	const selector = general(inList ? path.slice(0, -1) : path);
	const reason = kind === 'changed' && !isObject(before) ? reasonOf(before, after) : 'value';
	return { selector, reason, order: false, seen: [before, after] };
}
