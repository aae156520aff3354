import RandExp from 'randexp';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { BUILTINS } from './builtins.ts';
import { ANY_KEY, TEXT_KEY, TYPE_KEY, type SoapValues } from './envelope.ts';
import { maxOf } from './particles.ts';
import { valueKey, type ComplexModel, type ElementModel, type ParticleModel, type SoapModel } from './model.ts';
import type { SimpleType } from './schema.ts';
import { simpleProblem } from './simple.ts';
import { splitName } from './tree.ts';

/** `minimal` holds what must be there, `full` all that may be, `random` some of it with other values each time. */
export type SampleKind = 'minimal' | 'full' | 'random';

interface Chance {
	kind: SampleKind;
	/** From 0 up to 1. */
	random(): number;
	/** How many ids there are already: each is there once. */
	ids?: number;
	/** Characters of all texts so far. */
	written?: number;
	/** Where a limit ended it first. */
	stopped?: string;
}
const below = ({ random }: Chance, n: number): number => Math.floor(random() * n);

const DEEPEST = 24;
/** A full sample of a large schema ends somewhere: beyond this only what must be there is added. */
const MOST_ELEMENTS = 3000;
/** And beyond this nothing is, though the schema demands it: elements, characters of all texts, and of one. */
export const SAMPLE_LIMITS = { elements: 6000, characters: 2_000_000, text: 100_000 };

/**
 * Values of an operation that fit its schema; `stopped` says where a limit ended them, so that they do not.
 * What a schema demands may be millions of elements, or a text of gigabytes.
 */
export function sampleValues(
	model: SoapModel,
	kind: SampleKind,
	random: () => number = () => 0
): SoapValues & { stopped?: string } {
	const chance: Chance = { kind, random };
	const sampler = createSampler(model, chance);
	const { body, headers } = model.input;
	const values =
		body.length === 1
			? sampler.element(body[0]!, [])
			: Object.fromEntries(body.map((one) => [one.local, sampler.element(one, [])]));
	const own = Object.fromEntries(headers.map((one) => [one.local, sampler.element(one, [])]));
	const { stopped } = chance;
	return { values, ...(headers.length > 0 ? { headers: own } : {}), ...(stopped ? { stopped } : {}) };
}

/** A value for one element, as it is added to a form. */
export const sampleElement = (
	model: SoapModel,
	element: ElementModel,
	kind: SampleKind = 'minimal',
	random: () => number = () => 0
): Json => createSampler(model, { kind, random }).element(element, []);

function createSampler({ types }: SoapModel, chance: Chance) {
	let count = 0;
	/** How deep a type must nest; Infinity while that is not known. */
	const depths = new Map<string, number>();
	const depthOf = (key: string, seen: string[] = []): number => {
		const kept = depths.get(key);
		if (kept !== undefined) return kept;
		const type = types[key];
		if (!type || type.kind === 'simple' || type.arrayOf) return 0;
		if (seen.includes(key) || seen.length > DEEPEST) return Infinity;
		const at = [...seen, key];
		let depth: number;
		if (type.abstract) depth = Math.min(...(type.derived ?? []).map((one) => depthOf(one, at)));
		else depth = 1 + (type.content ? particleDepth(type.content, at) : 0);
		if (seen.length === 0 || Number.isFinite(depth)) depths.set(key, depth);
		return depth;
	};
	const particleDepth = (particle: ParticleModel, seen: string[]): number => {
		if (particle.min === 0 || particle.kind === 'any') return 0;
		if (particle.kind === 'element')
			return Math.min(...particle.elements.map((one) => (one.nillable ? 0 : depthOf(one.type, seen))));
		const inner = particle.items.map((item) => particleDepth(item, seen));
		return particle.kind === 'choice' ? Math.min(...inner) : Math.max(0, ...inner);
	};

	/** Whether nothing more may be added; the first place is kept. */
	const over = (local: string): boolean => {
		if (count < SAMPLE_LIMITS.elements && (chance.written ?? 0) < SAMPLE_LIMITS.characters) return false;
		chance.stopped ??= `the sample ends at ${local}: it would have more than ${SAMPLE_LIMITS.elements} elements, or ${SAMPLE_LIMITS.characters / 1e6} MB`;
		return true;
	};

	function element(one: ElementModel, above: string[]): Json {
		count++;
		if (one.fixed !== undefined) return one.fixed;
		const type = types[one.type];
		if (!type || type.kind === 'simple')
			return one.default !== undefined && chance.kind !== 'random'
				? one.default
				: type
					? sampleSimple(type, chance)
					: '';
		if (type.arrayOf)
			return chance.kind === 'minimal'
				? []
				: [element({ local: 'item', namespace: '', type: type.arrayOf }, [...above, one.type])];
		if (above.length > DEEPEST || (above.includes(one.type) && one.nillable && !Number.isFinite(depthOf(one.type))))
			return one.nillable ? null : {};
		if (type.abstract || (type.derived && chance.kind === 'random')) {
			const ends = (type.derived ?? []).filter((key) => Number.isFinite(depthOf(key)));
			const key = ends[chance.kind === 'random' ? below(chance, ends.length) : 0] ?? type.derived?.[0];
			const chosen = key === undefined ? undefined : types[key];
			if (chosen?.kind === 'complex' && key !== one.type)
				return { [TYPE_KEY]: splitName(key!).local, ...(complex(chosen, [...above, key!]) as JsonObject) };
		}
		return complex(type, [...above, one.type]);
	}

	function complex(type: ComplexModel, above: string[]): Json {
		const out: JsonObject = {};
		for (const use of type.attributes) {
			const wanted = use.required || chance.kind === 'full' || (chance.kind === 'random' && chance.random() < 0.5);
			if (wanted) out[`@${use.local}`] = use.fixed ?? use.default ?? sampleSimple(use.type, chance);
		}
		if (type.text) out[TEXT_KEY] = sampleSimple(type.text, chance);
		else if (type.content) fill(type.content, type, out, above);
		return out;
	}

	/** Whether a particle may end without coming back to what is above it. */
	const leadsBack = (particle: ParticleModel, above: string[]): boolean =>
		particle.kind === 'element'
			? particle.elements.every((one) => above.includes(one.type))
			: particle.kind !== 'any' && particle.items.length > 0 && particle.items.every((item) => leadsBack(item, above));

	function fill(particle: ParticleModel, type: ComplexModel, out: JsonObject, above: string[]): void {
		const { min, max } = particle;
		const full = count > MOST_ELEMENTS || above.length > DEEPEST;
		const optional =
			chance.kind === 'minimal' || full || leadsBack(particle, above)
				? min
				: chance.kind === 'full'
					? Math.max(1, min)
					: Math.min(max, min + below(chance, min === 0 ? 2 : 3));
		const times = Math.min(max, optional);
		if (particle.kind === 'element') {
			for (let n = 0; n < times && !over(particle.elements[0]?.local ?? 'an element'); n++) {
				const ends = particle.elements.filter((one) => Number.isFinite(depthOf(one.type)));
				const from = ends.length > 0 ? ends : particle.elements;
				const one = from[chance.kind === 'random' ? below(chance, from.length) : 0]!;
				const key = valueKey(one, type);
				const value = element(one, above);
				if (!Object.hasOwn(out, key)) out[key] = maxOf(type.content, one).max > 1 && times > 1 ? [value] : value;
				else if (Array.isArray(out[key]) && times > 1) (out[key] as Json[]).push(value);
				else out[key] = [out[key]!, value];
			}
			return;
		}
		if (particle.kind === 'any') {
			const other = particle.namespaces === '##any' || particle.namespaces === '##other';
			if (times > 0 && !particle.strict && other) out[ANY_KEY] = '<any xmlns="urn:example"/>';
			return;
		}
		if (particle.kind === 'choice') {
			if (times === 0) return;
			const ends = particle.items.filter((item) =>
				Number.isFinite(particleDepth({ ...item, min: Math.max(1, item.min) }, above))
			);
			const from = ends.length > 0 ? ends : particle.items;
			const chosen = from[chance.kind === 'random' ? below(chance, from.length) : 0];
			if (chosen) fill(chosen, type, out, above);
			return;
		}
		// one pass of a group that repeats: several would have to be kept apart
		if (times > 0) for (const item of particle.items) fill(item, type, out, above);
	}
	return { element };
}

const WORDS = ['heron', 'lock', 'weir', 'towpath', 'barge', 'mooring', 'winding', 'gauge', 'basin', 'sluice'];

/** A text that fits a simple type, as long as its limit allows. */
export function sampleSimple(type: SimpleType, chance: Chance = { kind: 'minimal', random: () => 0 }): string {
	const text = simpleText(type, chance);
	chance.written = (chance.written ?? 0) + text.length;
	if (text.length >= SAMPLE_LIMITS.text)
		chance.stopped ??= `a text was cut at ${SAMPLE_LIMITS.text} characters: its type demands more`;
	return text;
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
	if (type.builtin === 'ID') return `id-${(chance.ids = (chance.ids ?? 0) + 1)}`;
	for (const choices of facets.patterns ?? [])
		for (let attempt = 0; attempt < 20; attempt++) {
			const made = matching(
				pick(choices),
				random || attempt > 0 ? (chance.kind === 'random' ? chance.random : lcg(attempt)) : () => 0
			);
			const fitted = made === undefined ? undefined : made;
			if (fitted !== undefined && simpleProblem(type, fitted) === undefined) return fitted;
		}
	switch (builtin.primitive) {
		case 'number':
			return number(type, chance);
		case 'boolean':
			return pick(['true', 'false']);
		case 'bytes': {
			const wanted = facets.length ?? facets.minLength ?? (random ? 3 : undefined);
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

/** A text that matches a pattern of XSD; undefined when it is beyond the maker of texts. */
function matching(pattern: string, random: () => number): string | undefined {
	const plain = pattern
		.replace(/\\i/g, '[A-Za-z_]')
		.replace(/\\c/g, '[A-Za-z0-9._-]')
		.replace(/\\p\{Lu\}/g, '[A-Z]')
		.replace(/\\p\{N\w?\}/g, '[0-9]')
		.replace(/\\p\{[^}]*\}/g, '[a-z]')
		.replace(/-\[[^\]]*\]\]/g, ']');
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
	const from = Math.max(low ?? 0, -1e6);
	const to = Math.min(most, Math.max(from, 1e6));
	const value = from + chance.random() * Math.max(0, to - from);
	return whole
		? String(Math.floor(value))
		: Number(value.toFixed(Math.max(0, Math.min(decimals, digits - 1)))).toString();
}

/** Values as a person would write them: numbers and truth values without quotes, where they read back as the same text. */
export function readable(value: Json): Json {
	if (Array.isArray(value)) return value.map(readable);
	if (isObject(value))
		return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, readable(one as Json)]));
	if (value === 'true' || value === 'false') return value === 'true';
	const plain = typeof value === 'string' && /^-?(0|[1-9]\d{0,14})(\.\d*[1-9])?$/.test(value);
	return plain && String(Number(value)) === value ? Number(value) : value;
}
