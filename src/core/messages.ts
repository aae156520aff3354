import { wordings } from './wording/index.ts';

type Values = Record<string, string | number>;

/** The code of a message: stable, and part of what reports say. */
export type MessageCode = keyof typeof wordings;
/** All codes of messages. */
export const messageCodes = Object.keys(wordings) as MessageCode[];

/** The wording of a code with its values filled in; the code itself where a server of another version has one more. */
export function messageOf(code: MessageCode, values: Values = {}): string {
	const sentence: string = (wordings as Record<string, string>)[code] ?? code;
	return sentence.replace(/\{\{|\}\}|\{(\w+)\}/g, (all, name?: string) =>
		name === undefined ? all[0]! : String(values[name] ?? '')
	);
}

/** How many slips may lie between a name and the one that is meant: of four letters two may be lost, but not changed. */
const slipsAllowed = (name: string, meant: string): number =>
	name.length <= 3 || (name.length === 4 && meant.length < 6) ? 1 : 2;

/** The known name that is one or two slips away. */
export function nearestOf(name: string, known: readonly string[]): string | undefined {
	let best: { name: string; distance: number } | undefined;
	for (const candidate of known) {
		const distance = editDistance(name.toLowerCase(), candidate.toLowerCase());
		if (distance <= slipsAllowed(name, candidate) && (!best || distance < best.distance))
			best = { name: candidate, distance };
	}
	return best?.name;
}

/** `; did you mean "x"?` when a known name is one or two slips away, else the list when it is short. */
export function didYouMean(name: string, known: readonly string[]): string {
	const best = nearestOf(name, known);
	if (best !== undefined) return `: did you mean "${best}"?`;
	if (known.length > 0 && known.length <= 24) return `; known are ${[...known].sort().join(', ')}`;
	return '';
}

/** Optimal string alignment distance: inserted, lost, changed and swapped letters; 3 for further apart. */
export function editDistance(a: string, b: string): number {
	if (Math.abs(a.length - b.length) > 2) return 3;
	let before: number[] = [];
	let previous = Array.from({ length: b.length + 1 }, (_, i) => i);
	for (let i = 1; i <= a.length; i++) {
		const row = [i];
		for (let j = 1; j <= b.length; j++) {
			const cost = a[i - 1] === b[j - 1] ? 0 : 1;
			let d = Math.min(previous[j]! + 1, row[j - 1]! + 1, previous[j - 1]! + cost);
			if (i > 1 && j > 1 && a[i - 1] === b[j - 2] && a[i - 2] === b[j - 1]) d = Math.min(d, before[j - 2]! + 1);
			row.push(d);
		}
		before = previous;
		previous = row;
	}
	return previous[b.length]!;
}

/** `1 step`, `2 steps`. */
export const counted = (n: number, one: string, many = `${one}s`): string => `${n} ${n === 1 ? one : many}`;
