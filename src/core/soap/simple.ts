import { compile } from 'xspattern';
import { BUILTINS, type Builtin } from './builtins.ts';
import type { SimpleType } from './schema/index.ts';
import { compareValues, sameValue } from './value-space.ts';

type Matches = (text: string) => boolean;
const patterns = new Map<string, Matches | undefined>();
const PATTERNS_KEPT = 2000;
/** A pattern that is written out this long takes too much to be judged here. */
const MOST_STATES = 50_000;

/** How long a pattern is when its repetitions are written out, at most. */
function writtenOut(source: string): number {
	let times = 1;
	for (const [, from = '', to = ''] of source.matchAll(/\{(\d+)(?:,(\d*))?\}/g))
		times *= Math.max(1, Number(from), Number(to || 0));
	return source.length * times;
}

/** A pattern (XSD 1.0 part 2 appendix F), which matches whole texts; undefined when it is none, or too long to be judged. */
export function patternOf(source: string): Matches | undefined {
	if (!patterns.has(source)) {
		if (patterns.size >= PATTERNS_KEPT) patterns.clear();
		let made: Matches | undefined;
		try {
			made = writtenOut(source) > MOST_STATES ? undefined : compile(source);
		} catch {
			// said where the schema is read by its validator
		}
		patterns.set(source, made);
	}
	return patterns.get(source);
}

const spaced = (text: string, space: 'kept' | 'replaced' | undefined): string =>
	space === 'kept' ? text : space === 'replaced' ? text.replace(/[\t\n\r]/g, ' ') : text.replace(/\s+/g, ' ').trim();

/** Days of months, in a year that may be a leap year. */
const LONGEST = [31, 29, 31, 30, 31, 30, 31, 31, 30, 31, 30, 31];

/** What is wrong with a text for a simple type (XSD 1.0 part 2), in words; undefined when nothing is. */
export function simpleProblem(type: SimpleType, text: string): string | undefined {
	const builtin = BUILTINS[type.builtin] ?? BUILTINS.string!;
	const value = spaced(text, type.variety === 'atomic' ? builtin.space : undefined);
	const { facets } = type;
	const same = (one: string) =>
		one === value || (type.variety === 'atomic' && sameValue(type.builtin, builtin.primitive, one.trim(), value));
	if (facets.enumeration && !facets.enumeration.some(same)) {
		const shown = facets.enumeration.slice(0, 8).join(', ');
		return `one of ${shown}${facets.enumeration.length > 8 ? ' …' : ''} is wanted`;
	}
	if (type.variety === 'union') {
		const problems = (type.members ?? []).map((member) => simpleProblem(member, value));
		return problems.length === 0 || problems.includes(undefined) ? undefined : `${problems.join(', or ')}`;
	}
	const inner = type.variety === 'list' ? itemProblem(type, value) : formProblem(type, builtin, value);
	return (
		inner ??
		sizeProblem(type, builtin, value) ??
		patternProblem(facets, value) ??
		boundProblem(type, value) ??
		(builtin.primitive === 'number' && !/e/i.test(value) ? digitsProblem(facets, value) : undefined)
	);
}

type Facets = SimpleType['facets'];

const itemsOf = (value: string): string[] => (value === '' ? [] : value.split(' '));

function itemProblem({ item }: SimpleType, value: string): string | undefined {
	if (!item) return undefined;
	for (const one of itemsOf(value)) {
		const wrong = simpleProblem(item, one);
		if (wrong) return `${one}: ${wrong}`;
	}
	return undefined;
}

/** What is wrong with a text for a built-in type by itself (XSD 1.0 part 2, section 3). */
function formProblem(type: SimpleType, builtin: Builtin, value: string): string | undefined {
	if (!builtin.form.test(value)) return `${builtin.wanted} is wanted`;
	if (builtin.primitive === 'date' && /^\d{4}-\d\d-\d\d/.test(value)) {
		const day = value.slice(0, 10);
		const read = new Date(`${day}T00:00:00Z`);
		if (Number.isNaN(read.getTime()) || read.toISOString().slice(0, 10) !== day) return `there is no day ${day}`;
	}
	const [, month, day] = type.builtin === 'gMonthDay' ? (/^--(\d\d)-(\d\d)/.exec(value) ?? []) : [];
	return month && Number(day) > LONGEST[Number(month) - 1]! ? `there is no day ${value}` : undefined;
}

/** What a length is counted in (XSD 1.0 part 2, section 4.3.1): items, octets or letters. */
function sizeOf(type: SimpleType, value: string): number {
	if (type.variety === 'list') return itemsOf(value).length;
	if (type.builtin === 'hexBinary') return value.length / 2;
	if (type.builtin === 'base64Binary') return Math.floor((value.replace(/[\s=]/g, '').length * 3) / 4);
	return [...value].length;
}

function sizeProblem(type: SimpleType, builtin: Builtin, value: string): string | undefined {
	const { length, minLength, maxLength } = type.facets;
	if (length === undefined && minLength === undefined && maxLength === undefined) return undefined;
	const what = type.variety === 'list' ? 'values' : builtin.primitive === 'bytes' ? 'bytes' : 'letters';
	const size = sizeOf(type, value);
	if (length !== undefined && size !== length) return `exactly ${length} ${what} are wanted, these are ${size}`;
	if (minLength !== undefined && size < minLength) return `at least ${minLength} ${what} are wanted`;
	if (maxLength !== undefined && size > maxLength) return `at most ${maxLength} ${what} are allowed, these are ${size}`;
	return undefined;
}

function patternProblem({ patterns = [] }: Facets, value: string): string | undefined {
	for (const choices of patterns) {
		const compiled = choices.map(patternOf);
		if (!compiled.includes(undefined) && !compiled.some((one) => one!(value)))
			return `the pattern ${choices.join(' or ')} is wanted`;
	}
	return undefined;
}

function boundProblem({ builtin, facets }: SimpleType, value: string): string | undefined {
	const limit = (
		name: 'minInclusive' | 'maxInclusive' | 'minExclusive' | 'maxExclusive',
		holds: (order: number) => boolean,
		words: string
	) => {
		const bound = facets[name];
		const order = bound === undefined ? 0 : compareValues(builtin, value, bound);
		return bound === undefined || (order !== undefined && holds(order)) ? undefined : `${words} ${bound} is wanted`;
	};
	return (
		limit('minInclusive', (o) => o >= 0, 'at least') ??
		limit('maxInclusive', (o) => o <= 0, 'at most') ??
		limit('minExclusive', (o) => o > 0, 'more than') ??
		limit('maxExclusive', (o) => o < 0, 'less than')
	);
}

function digitsProblem({ totalDigits, fractionDigits }: Facets, value: string): string | undefined {
	const [whole = '', fraction = ''] = value.replace(/^[+-]/, '').split('.');
	const decimals = fraction.replace(/0+$/, '').length;
	if (totalDigits !== undefined && whole.replace(/^0+/, '').length + decimals > totalDigits)
		return `at most ${totalDigits} digits are allowed`;
	if (fractionDigits === undefined || decimals <= fractionDigits) return undefined;
	return fractionDigits === 0 ? 'a whole number is wanted' : `at most ${fractionDigits} decimals are allowed`;
}
