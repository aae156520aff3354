import jsonata from 'jsonata';
import { counted } from '../../messages.ts';
import { exactNumber, writeJson } from '../../model/json.ts';

// The language's time limit looks at each step of an expression. A function of its own that computes for long is one step:
// those whose work grows faster than what they are given have a limit of size here.

/** Characters of a text that is filled up. */
const LONGEST_PAD = 1_000_000;
/** Characters of a picture by which numbers and times are written. */
const LONGEST_PICTURE = 1000;

const natives = {
	number: jsonata('$number(given)'),
	pad: jsonata('$pad(given, width, with)'),
	formatNumber: jsonata('$formatNumber(given, picture, options)'),
	formatInteger: jsonata('$formatInteger(given, picture)'),
	parseInteger: jsonata('$parseInteger(given, picture)'),
	fromMillis: jsonata('$fromMillis(given, picture, zone)'),
	toMillis: jsonata('$toMillis(given, picture)')
};
type Native = keyof typeof natives;

const call = (name: Native, input: Record<string, unknown>): unknown =>
	natives[name].evaluate(Object.fromEntries(Object.entries(input).filter(([, value]) => value !== undefined)));

const short = (picture: unknown): void => {
	if (typeof picture === 'string' && picture.length > LONGEST_PICTURE)
		throw new Error(`a picture may have ${counted(LONGEST_PICTURE, 'character')}`);
};

/** Each value once, in the order in which they came first; the language's own takes a time that grows with the square. */
function distinct(given: unknown): unknown {
	if (!Array.isArray(given) || given.length <= 1) return given;
	const seen = new Set<string>();
	const out = given.filter((value: unknown) => {
		const key = `${typeof value} ${writeJson(value, undefined)}`;
		if (seen.has(key)) return false;
		seen.add(key);
		return true;
	});
	// a sequence of one is that one
	if ((given as { sequence?: boolean }).sequence) Object.defineProperty(out, 'sequence', { value: true });
	return out;
}

/** The functions by name, with the signatures that the language gives them. */
export const boundedFunctions: { name: string; signature: string; run: (...args: never[]) => unknown }[] = [
	{
		name: 'pad',
		signature: '<s-ns?:s>',
		run(given: string, width: number, filling?: string) {
			if (Math.abs(width) > LONGEST_PAD) throw new Error(`a text may be filled up to ${LONGEST_PAD} characters`);
			return call('pad', { given, width, with: filling });
		}
	},
	{
		name: 'formatNumber',
		signature: '<n-so?:s>',
		run(given: number, picture: string, options?: object) {
			short(picture);
			return call('formatNumber', { given, picture, options });
		}
	},
	{
		name: 'formatInteger',
		signature: '<n-s:s>',
		run(given: number, picture: string) {
			short(picture);
			return call('formatInteger', { given, picture });
		}
	},
	{
		name: 'parseInteger',
		signature: '<s-s:n>',
		run(given: string, picture: string) {
			short(picture);
			return call('parseInteger', { given, picture });
		}
	},
	{
		name: 'fromMillis',
		signature: '<n-s?s?:s>',
		run(given: number, picture?: string, zone?: string) {
			short(picture);
			return call('fromMillis', { given, picture, zone });
		}
	},
	{
		name: 'toMillis',
		signature: '<s-s?:n>',
		run(given: string, picture?: string) {
			short(picture);
			return call('toMillis', { given, picture });
		}
	},
	{
		name: 'number',
		signature: '<x?:x>',
		run(given: unknown) {
			if (typeof given === 'bigint') return given;
			const whole = typeof given === 'string' && /^-?\d{16,}$/.test(given.trim());
			return whole ? exactNumber(given.trim()) : call('number', { given });
		}
	},
	{ name: 'distinct', signature: '<x:x>', run: distinct }
];
