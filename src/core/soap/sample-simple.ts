import { lookUp } from '../model/lookup.ts';
import RandExp from 'randexp';
import { BUILTINS, type Builtin } from './builtins.ts';
import type { SimpleType } from './schema/index.ts';
import { patternOf, simpleProblem } from './simple.ts';

/**
 * `minimal` holds what must be there, `telling` the same and, of a type that demands nothing, what may be,
 * `full` all that may be, `random` some of it with other values each time.
 */
export type SampleKind = 'minimal' | 'telling' | 'full' | 'random';

/** What samples are made with. */
export interface Chance {
	kind: SampleKind;
	/** From 0 up to 1. */
	random(): number;
	/** How many ids there are already: each is there once. */
	ids?: number;
	/** Characters of all texts so far. */
	written?: number;
	/** Where a limit ended it first. */
	stopped?: string;
	/** Which one it is of an element that stands several times: values are told apart by it, as keys have to be. */
	turn?: number;
	used?: Set<string>;
}
/** A whole number from 0 up to below another one. */
export const below = ({ random }: Chance, n: number): number => Math.floor(random() * n);

/** And beyond this nothing is, though the schema demands it: elements, characters of all texts, and of one. */
export const SAMPLE_LIMITS = { elements: 6000, characters: 2_000_000, text: 100_000 };

const WORDS = ['heron', 'lock', 'weir', 'towpath', 'barge', 'mooring', 'winding', 'gauge', 'basin', 'sluice'];

/** A text that fits a simple type, as long as its limit allows. */
export function sampleSimple(type: SimpleType, chance: Chance = { kind: 'minimal', random: () => 0 }): string {
	const first = simpleText(type, chance);
	const other = chance.turn && chance.kind !== 'random' ? distinctText(type, first, chance.turn) : first;
	const made = simpleProblem(type, other) === undefined ? other : first;
	const text =
		simpleProblem(type, made) === undefined
			? made
			: (candidates(type).find((one) => simpleProblem(type, one) === undefined) ?? made);
	chance.written = (chance.written ?? 0) + text.length;
	if (text.length >= SAMPLE_LIMITS.text)
		chance.stopped ??= `a text was cut at ${SAMPLE_LIMITS.text} characters: its type demands more`;
	return text;
}

const STEPS: Record<string, string[]> = {
	date: ['0001-01-01', '1970-01-01', '2000-02-29', '2027-05-03', '9999-12-31'],
	time: ['00:00:00', '09:30:00', '23:59:59'],
	duration: ['PT0S', 'PT1S', 'PT1H', 'P1D', 'P1M', 'P1Y', 'P10Y', 'P100Y', '-P1D', '-P1Y'],
	number: ['0', '1', '-1', '0.5', '100', '-100', '1000000', '-1000000']
};

/** Values that may fit where what was made does not: limits, what is next to them, and usual ones. */
function candidates(type: SimpleType): string[] {
	const builtin = BUILTINS[type.builtin] ?? BUILTINS.string!;
	const { minInclusive, maxInclusive, minExclusive, maxExclusive, fractionDigits } = type.facets;
	const limits = [minInclusive, maxInclusive].filter((one) => one !== undefined);
	const next = [
		...(minExclusive === undefined ? [] : nextTo(type.builtin, builtin.primitive, minExclusive, 1, fractionDigits)),
		...(maxExclusive === undefined ? [] : nextTo(type.builtin, builtin.primitive, maxExclusive, -1, fractionDigits))
	];
	const zoned = (list: string[]) => list.flatMap((one) => [one, `${one}Z`]);
	const usual =
		type.builtin === 'dateTime'
			? STEPS.date!.flatMap((day) => zoned(STEPS.time!.map((time) => `${day}T${time}`)))
			: type.builtin === 'time'
				? zoned(STEPS.time!)
				: type.builtin === 'date'
					? zoned(STEPS.date!)
					: builtin.primitive === 'date'
						? zoned(STEPS.date!.map((day) => partOf(type.builtin, day)))
						: (lookUp(STEPS, builtin.primitive) ?? []);
	return [...limits, ...next, builtin.sample, ...usual];
}

/** A part of a day, as gYear and its like write it. */
function partOf(builtin: string, day: string): string {
	const [year, month, date] = day.split('-') as [string, string, string];
	return (
		{
			gYear: year,
			gYearMonth: `${year}-${month}`,
			gMonth: `--${month}`,
			gDay: `---${date}`,
			gMonthDay: `--${month}-${date}`
		}[builtin] ?? day
	);
}

/** Another value for each turn: numbers and days count on, texts get a number, and of a list each has its turn. */
function distinctText(type: SimpleType, text: string, turn: number): string {
	const { enumeration } = type.facets;
	if (enumeration?.length) return enumeration[turn % enumeration.length]!;
	const builtin = BUILTINS[type.builtin] ?? BUILTINS.string!;
	if (type.variety !== 'atomic' || type.builtin === 'ID') return text;
	if (builtin.primitive === 'number')
		return /^-?\d{1,15}$/.test(text) ? String(Number(text) + (text.startsWith('-') ? -turn : turn)) : text;
	if (type.builtin === 'date' || type.builtin === 'dateTime') {
		const later = new Date(Date.parse(`${text.slice(0, 10)}T00:00:00Z`) + turn * 86_400_000);
		return Number.isNaN(later.getTime()) ? text : later.toISOString().slice(0, 10) + text.slice(10);
	}
	if (builtin.primitive !== 'text' && builtin.primitive !== 'name') return text;
	const { length, maxLength } = type.facets;
	const most = length ?? maxLength ?? Infinity;
	const ending = `-${turn + 1}`;
	return text.length + ending.length <= most
		? text + ending
		: text.slice(0, Math.max(0, most - ending.length)) + ending;
}

/** What stands next to a limit that does not count itself. */
function nextTo(builtin: string, primitive: string, limit: string, by: 1 | -1, fractionDigits = 2): string[] {
	if (primitive === 'number' && /^[+-]?\d*\.?\d*$/.test(limit)) {
		const [whole = '0', fraction = ''] = limit.replace(/^\+/, '').split('.');
		const scale = Math.max(fraction.length, Math.min(fractionDigits, 6));
		const digits = BigInt(`${whole}${fraction.padEnd(scale, '0')}`) + BigInt(by);
		const text = digits
			.toString()
			.replace('-', '')
			.padStart(scale + 1, '0');
		const at = text.length - scale;
		return [`${digits < 0n ? '-' : ''}${text.slice(0, at)}${scale > 0 ? `.${text.slice(at)}` : ''}`];
	}
	const moment = /^(\d{4}-\d\d-\d\d)(T\d\d:\d\d:\d\d)?(?:\.\d+)?(Z|[+-]\d\d:\d\d)?$/.exec(limit);
	if (moment && (builtin === 'date' || builtin === 'dateTime')) {
		const [, day = '', time = '', zone = ''] = moment;
		const shifted = new Date(
			Date.parse(`${day}${time || 'T00:00:00'}Z`) + by * (time ? 1000 : 86_400_000)
		).toISOString();
		return [`${shifted.slice(0, time ? 19 : 10)}${zone}`];
	}
	if (builtin === 'duration') return by > 0 ? STEPS.duration! : [];
	const part = /^(-*)(\d+)(.*)$/.exec(limit);
	if (primitive === 'date' && part) {
		const [, dashes = '', number = '', rest = ''] = part;
		return [`${dashes}${String(Number(number) + by).padStart(number.length, '0')}${rest}`];
	}
	return [];
}

function simpleText(type: SimpleType, chance: Chance): string {
	const random = chance.kind === 'random';
	const pick = <T>(list: readonly T[]): T => list[random ? below(chance, list.length) : 0]!;
	const { facets } = type;
	if (facets.enumeration?.length) return pick(facets.enumeration);
	if (type.variety === 'union') return type.members?.length ? sampleSimple(pick(type.members), chance) : '';
	if (type.variety === 'list') {
		const n = facets.length ?? Math.max(facets.minLength ?? 1, 1);
		const items: string[] = [];
		for (let length = 0; items.length < n && length < SAMPLE_LIMITS.text; length += items.at(-1)!.length + 1)
			items.push(type.item ? simpleText(type.item, chance) : '');
		return items.join(' ').slice(0, SAMPLE_LIMITS.text);
	}
	const builtin = BUILTINS[type.builtin] ?? BUILTINS.string!;
	if (type.builtin === 'ID') return freshId(type, chance);
	return ofPattern(type, chance) ?? plainText(type, builtin, chance);
}

/** An id that is there once, also where it has to look like something. */
function freshId(type: SimpleType, chance: Chance): string {
	const used = (chance.used ??= new Set());
	for (let attempt = 0; attempt < 50; attempt++) {
		chance.ids = (chance.ids ?? 0) + 1;
		const tries = [`id-${chance.ids}`, ofPattern(type, { ...chance, kind: 'random', random: lcg(chance.ids) }) ?? ''];
		const found = tries.find((one) => one && !used.has(one) && simpleProblem(type, one) === undefined);
		if (found) return (used.add(found), found);
	}
	return `id-${chance.ids}`;
}

/** A text by the patterns of a type; undefined where it has none, or none that texts can be made of here. */
function ofPattern(type: SimpleType, chance: Chance): string | undefined {
	const random = chance.kind === 'random';
	const pick = <T>(list: readonly T[]): T => list[random ? below(chance, list.length) : 0]!;
	for (const choices of type.facets.patterns ?? [])
		for (let attempt = 0; attempt < 20; attempt++) {
			const made = matching(
				pick(choices),
				random || attempt > 0 ? (chance.kind === 'random' ? chance.random : lcg(attempt)) : () => 0
			);
			if (made !== undefined && simpleProblem(type, made) === undefined) return made;
		}
	return undefined;
}

function plainText(type: SimpleType, builtin: Builtin, chance: Chance): string {
	const random = chance.kind === 'random';
	const pick = <T>(list: readonly T[]): T => list[random ? below(chance, list.length) : 0]!;
	const { facets } = type;
	switch (builtin.primitive) {
		case 'number':
			return number(type, chance);
		case 'boolean':
			return pick(['true', 'false']);
		case 'bytes': {
			const SAMPLE_BYTES = 8;
			const most = facets.maxLength !== undefined && facets.maxLength < SAMPLE_BYTES ? facets.maxLength : undefined;
			const wanted = facets.length ?? facets.minLength ?? (random ? Math.min(3, facets.maxLength ?? 3) : most);
			if (wanted === undefined) return builtin.sample;
			const bytes = Math.min(wanted, Math.floor(SAMPLE_LIMITS.text / 2));
			if (type.builtin === 'hexBinary') return 'a5'.repeat(bytes);
			return `${'AAAA'.repeat(Math.floor(bytes / 3))}${bytes % 3 === 1 ? 'AA==' : bytes % 3 === 2 ? 'AAA=' : ''}`;
		}
		case 'date': {
			const bound = facets.minInclusive ?? facets.maxInclusive;
			if (bound !== undefined) return bound;
			const two = (n: number) => String(n).padStart(2, '0');
			const day = () => `2027-${two(1 + below(chance, 12))}-${two(1 + below(chance, 28))}`;
			const time = () => `${two(below(chance, 24))}:${two(below(chance, 60))}:00`;
			return random ? builtin.sample.replace('2027-05-03', day).replace('09:30:00', time) : builtin.sample;
		}
		case 'text':
		case 'name': {
			const least = facets.length ?? facets.minLength ?? 0;
			const most = facets.length ?? facets.maxLength ?? Infinity;
			let text = random && builtin.sample === 'text' ? `${pick(WORDS)}-${below(chance, 1000)}` : builtin.sample;
			text = text.padEnd(Math.min(least, SAMPLE_LIMITS.text), 'x');
			return text.slice(0, Math.min(most, SAMPLE_LIMITS.text));
		}
		default:
			return builtin.sample;
	}
}

/** Numbers that are the same each time. */
function lcg(seed: number): () => number {
	let state = seed * 2654435761;
	return () => {
		state = (Math.imul(state, 1664525) + 1013904223) >>> 0;
		return state / 4294967296;
	};
}

const LETTERS = Array.from({ length: 0x17f - 0x20 }, (_, index) => String.fromCharCode(0x20 + index));
const FEW = 40;
/** Character classes that the maker of texts does not know, as the first letters that are in them. */
function withoutSubtraction(pattern: string): string {
	return pattern.replace(/\[(?:[^[\]\\]|\\.)*-\[(?:[^[\]\\]|\\.)*\]\]|\\[pP]\{[^}]*\}/g, (found, at: number) => {
		const inside = /\[[^\]]*$/.test(pattern.slice(0, at));
		const matches = patternOf(found);
		const letters = matches ? LETTERS.filter(matches).slice(0, FEW) : [];
		const listed = letters.map((one) => one.replace(/[\\\]^-]/g, '\\$&')).join('');
		return letters.length === 0 ? found : inside ? listed : `[${listed}]`;
	});
}

/** A text that matches a pattern of XSD; undefined when it is beyond the maker of texts. */
function matching(pattern: string, random: () => number): string | undefined {
	const plain = withoutSubtraction(pattern)
		// no anchors: a pattern is of the whole text
		.replace(/\\.|\[\^|[\^$]/g, (found) => (found === '^' || found === '$' ? `\\${found}` : found))
		.replace(/\\i/g, '[A-Za-z_]')
		.replace(/\\c/g, '[A-Za-z0-9._-]')
		.replace(/\\p\{Lu\}/g, '[A-Z]')
		.replace(/\\p\{N\w?\}/g, '[0-9]')
		.replace(/\\p\{[^}]*\}/g, '[a-z]');
	try {
		const maker = new RandExp(plain);
		maker.max = 3;
		maker.randInt = (from, to) => from + Math.floor(random() * (to - from + 1));
		return maker.gen();
	} catch {
		return undefined;
	}
}

function number(type: SimpleType, chance: Chance): string {
	const { facets } = type;
	const whole = facets.fractionDigits === 0;
	const step = whole ? 1 : 10 ** -Math.min(facets.fractionDigits ?? 2, 6);
	const read = (text: string | undefined) => (text === undefined ? undefined : Number(text));
	const low =
		read(facets.minInclusive) ?? (facets.minExclusive === undefined ? undefined : Number(facets.minExclusive) + step);
	const high =
		read(facets.maxInclusive) ?? (facets.maxExclusive === undefined ? undefined : Number(facets.maxExclusive) - step);
	const digits = facets.totalDigits ?? 9;
	const most = Math.min(high ?? Infinity, 10 ** Math.max(1, digits - (whole ? 0 : (facets.fractionDigits ?? 0))) - 1);
	const decimals = whole ? 0 : Math.min(facets.fractionDigits ?? 2, 6);
	if (chance.kind !== 'random') {
		if ((low ?? -1) <= 0 && most >= 0)
			return most >= 1 && (low ?? 0) <= 1 && facets.minInclusive === undefined ? '1' : '0';
		const bound =
			low !== undefined && low > 0
				? (facets.minInclusive ?? low.toFixed(decimals))
				: (facets.maxInclusive ?? most.toFixed(decimals));
		return bound;
	}
	const from = Math.max(low ?? (most < 0 ? most - 1000 : 0), -1e6);
	const to = Math.min(most, Math.max(from, 1e6));
	const value = from + chance.random() * Math.max(0, to - from);
	return whole
		? String(Math.floor(value))
		: Number(value.toFixed(Math.max(0, Math.min(decimals, digits - 1)))).toString();
}
