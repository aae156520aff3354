import { parseDuration } from '../../model/units.ts';
import type { FaultKind } from './kind.ts';

/** `500 ms`, or `100 ms to 2 s`. */
function spread(text: string): [number, number] | undefined {
	const [from, to] = text.split(/\s+to\s+/).map((part) => parseDuration(part));
	if (from === undefined) return undefined;
	if (!/\sto\s/.test(text)) return [from, from];
	return to === undefined || to < from ? undefined : [from, to];
}

export const delay: FaultKind = {
	key: 'delay',
	label: 'slow',
	doc: 'It is answered later: after a time, after one between two, or after one of a list, such as those that were measured.',
	example: '500 ms to 2 s',
	schema: { anyOf: [{ type: 'string' }, { type: 'array', items: { type: 'string' }, minItems: 1 }] },
	problem(value) {
		const hint = 'a duration is wanted, such as 500 ms, 100 ms to 2 s, or a list of them';
		if (Array.isArray(value))
			return value.length > 0 && value.every((one) => parseDuration(one) !== undefined) ? undefined : hint;
		return typeof value === 'string' && spread(value) ? undefined : hint;
	},
	words: (value) => (Array.isArray(value) ? `one of ${value.length} times later` : `${String(value)} later`),
	apply(given, value, { random }) {
		if (Array.isArray(value)) {
			given.delay += parseDuration(value[Math.floor(random() * value.length)]) ?? 0;
			return;
		}
		const [from, to] = spread(String(value)) ?? [0, 0];
		given.delay += from + (to > from ? random() * (to - from) : 0);
	}
};
