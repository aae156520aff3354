import { compilePattern, type Pattern } from '../values/index.ts';
import { BUILTINS } from './builtins.ts';
import type { SimpleType } from './schema.ts';

const patterns = new Map<string, Pattern | undefined>();
/** A pattern of XSD 1.0 part 2 appendix F, which matches whole texts; undefined when it is beyond what is read here. */
function patternOf(source: string): Pattern | undefined {
	if (!patterns.has(source)) {
		const plain = source
			.replace(/\\i/g, '[\\p{L}_:]')
			.replace(/\\c/g, '[\\p{L}\\p{N}._:\\-]')
			.replace(/(^|[^\\])\^/g, (found, before: string) => (before === '[' ? found : `${before}\\^`))
			.replace(/(^|[^\\])\$/g, '$1\\$')
			.replace(/\\p\{Is\w+\}/g, '\\p{L}');
		try {
			patterns.set(source, compilePattern(`^(?:${plain})$`, 's'));
		} catch {
			patterns.set(source, undefined);
		}
	}
	return patterns.get(source);
}

/** Numbers, dates and durations as far as they can be put in order: -1, 0, 1; undefined when they cannot. */
function compare(a: string, b: string): number | undefined {
	if (/^[+-]?\d+$/.test(a) && /^[+-]?\d+$/.test(b)) {
		const difference = BigInt(a) - BigInt(b);
		return difference < 0n ? -1 : difference > 0n ? 1 : 0;
	}
	const time = (text: string) => (/^-?\d{4,}-\d\d-\d\d/.test(text) ? Date.parse(text) : Number.NaN);
	const [x, y] = Number.isNaN(time(a)) ? [Number(a), Number(b)] : [time(a), time(b)];
	if (Number.isNaN(x) || Number.isNaN(y)) return undefined;
	return Math.sign(x - y);
}

/** What is wrong with a text for a simple type (XSD 1.0 part 2), in words; undefined when nothing is. */
export function simpleProblem(type: SimpleType, text: string): string | undefined {
	const builtin = BUILTINS[type.builtin] ?? BUILTINS.string!;
	const value = builtin.keepsSpace && type.variety === 'atomic' ? text : text.replace(/\s+/g, ' ').trim();
	const { facets } = type;
	if (facets.enumeration && !facets.enumeration.includes(value)) {
		const shown = facets.enumeration.slice(0, 8).join(', ');
		return `one of ${shown}${facets.enumeration.length > 8 ? ' …' : ''} is wanted`;
	}
	if (type.variety === 'union') {
		const problems = (type.members ?? []).map((member) => simpleProblem(member, value));
		return problems.length === 0 || problems.includes(undefined) ? undefined : `${problems.join(', or ')}`;
	}
	let size = [...value].length;
	if (type.variety === 'list') {
		const items = value === '' ? [] : value.split(' ');
		size = items.length;
		for (const item of items) {
			const wrong = type.item && simpleProblem(type.item, item);
			if (wrong) return `${item}: ${wrong}`;
		}
	} else {
		if (!builtin.form.test(value)) return `${builtin.wanted} is wanted`;
		if (builtin.primitive === 'date' && /^\d{4}-\d\d-\d\d/.test(value)) {
			const day = value.slice(0, 10);
			const read = new Date(`${day}T00:00:00Z`);
			if (Number.isNaN(read.getTime()) || read.toISOString().slice(0, 10) !== day) return `there is no day ${day}`;
		}
		if (type.builtin === 'hexBinary') size = value.length / 2;
		if (type.builtin === 'base64Binary') {
			const plain = value.replace(/[\s=]/g, '');
			size = Math.floor((plain.length * 3) / 4);
		}
	}
	const what = type.variety === 'list' ? 'values' : builtin.primitive === 'bytes' ? 'bytes' : 'letters';
	const { length, minLength, maxLength } = facets;
	if (length !== undefined && size !== length) return `exactly ${length} ${what} are wanted, these are ${size}`;
	if (minLength !== undefined && size < minLength) return `at least ${minLength} ${what} are wanted`;
	if (maxLength !== undefined && size > maxLength) return `at most ${maxLength} ${what} are allowed, these are ${size}`;
	for (const choices of facets.patterns ?? []) {
		const compiled = choices.map(patternOf);
		if (!compiled.includes(undefined) && !compiled.some((one) => one!.test(value)))
			return `the pattern ${choices.join(' or ')} is wanted`;
	}
	const limit = (
		name: 'minInclusive' | 'maxInclusive' | 'minExclusive' | 'maxExclusive',
		holds: (order: number) => boolean,
		words: string
	) => {
		const bound = facets[name];
		const order = bound === undefined ? undefined : compare(value, bound);
		return order === undefined || holds(order) ? undefined : `${words} ${bound} is wanted`;
	};
	const bounded =
		limit('minInclusive', (o) => o >= 0, 'at least') ??
		limit('maxInclusive', (o) => o <= 0, 'at most') ??
		limit('minExclusive', (o) => o > 0, 'more than') ??
		limit('maxExclusive', (o) => o < 0, 'less than');
	if (bounded) return bounded;
	if (builtin.primitive === 'number' && !/e/i.test(value)) {
		const [whole = '', fraction = ''] = value.replace(/^[+-]/, '').split('.');
		const digits = whole.replace(/^0+/, '').length + fraction.replace(/0+$/, '').length;
		if (facets.totalDigits !== undefined && digits > facets.totalDigits)
			return `at most ${facets.totalDigits} digits are allowed`;
		if (facets.fractionDigits !== undefined && fraction.replace(/0+$/, '').length > facets.fractionDigits)
			return facets.fractionDigits === 0
				? 'a whole number is wanted'
				: `at most ${facets.fractionDigits} decimals are allowed`;
	}
	return undefined;
}
