import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { ANY_KEY, EACH_KEY, TEXT_KEY, TYPE_KEY, type SoapValues } from './envelope.ts';
import { maxOf, repeatingGroup } from './particles.ts';
import { valueKey, type ComplexModel, type ElementModel, type ParticleModel, type SoapModel } from './model.ts';
import { below, sampleSimple, SAMPLE_LIMITS, type Chance, type SampleKind } from './sample-simple.ts';
import { escapeXml } from '../values/index.ts';
import { splitName } from './tree.ts';

export { sampleSimple, type SampleKind } from './sample-simple.ts';

const DEEPEST = 24;
const MOST_TURNS = 100;
/** A full sample of a large schema ends somewhere: beyond this only what must be there is added. */
const MOST_ELEMENTS = 3000;
/** A telling sample adds so much of what may be left out, and so deep: it is to be read. */
const TELLING = { elements: 150, depth: 6 };

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
	const sampler = new Sampler(model, chance);
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
): Json => new Sampler(model, { kind, random }).element(element, []);

/** How deep types must nest. */
class Depths {
	readonly #types: SoapModel['types'];
	/** Infinity while that is not known. */
	readonly #known = new Map<string, number>();

	constructor(types: SoapModel['types']) {
		this.#types = types;
	}

	/** @param seen the types that lead here */
	ofType(key: string, seen: string[] = []): number {
		const kept = this.#known.get(key);
		if (kept !== undefined) return kept;
		const type = this.#types[key];
		if (!type || type.kind === 'simple' || type.arrayOf) return 0;
		if (seen.includes(key) || seen.length > DEEPEST) return Infinity;
		const at = [...seen, key];
		let depth: number;
		if (type.abstract) depth = Math.min(...(type.derived ?? []).map((one) => this.ofType(one, at)));
		else depth = 1 + (type.content ? this.ofParticle(type.content, at) : 0);
		if (seen.length === 0 || Number.isFinite(depth)) this.#known.set(key, depth);
		return depth;
	}

	ofParticle(particle: ParticleModel, seen: string[]): number {
		if (particle.min === 0 || particle.kind === 'any') return 0;
		if (particle.kind === 'element')
			return Math.min(...particle.elements.map((one) => (one.nillable ? 0 : this.ofType(one.type, seen))));
		const inner = particle.items.map((item) => this.ofParticle(item, seen));
		return particle.kind === 'choice' ? Math.min(...inner) : Math.max(0, ...inner);
	}

	ends(key: string): boolean {
		return Number.isFinite(this.ofType(key));
	}
}

/** Whether a particle comes back to what is above it, whatever is chosen. */
const leadsBack = (particle: ParticleModel, above: string[]): boolean =>
	particle.kind === 'element'
		? particle.elements.every((one) => above.includes(one.type))
		: particle.kind !== 'any' && particle.items.length > 0 && particle.items.every((item) => leadsBack(item, above));

/** Whether nothing of a particle has to be there. */
const demandsNothing = (particle: ParticleModel): boolean => {
	if (particle.min === 0) return true;
	if (particle.kind === 'element' || particle.kind === 'any') return false;
	return particle.kind === 'choice' ? particle.items.some(demandsNothing) : particle.items.every(demandsNothing);
};
/** Whether an element of a type may be empty. */
const mayBeEmpty = ({ attributes, text, content }: ComplexModel): boolean =>
	!text && !attributes.some(({ required }) => required) && (!content || demandsNothing(content));

type Particle<Kind extends ParticleModel['kind']> = Extract<ParticleModel, { kind: Kind }>;
type Group = Exclude<ParticleModel, { kind: 'element' | 'any' }>;

/** Where the values of a complex type go. */
interface Filling {
	type: ComplexModel;
	out: JsonObject;
	/** The types that lead here. */
	above: string[];
}

/** Makes values for elements of a model, up to what a sample may hold. */
class Sampler {
	readonly #types: SoapModel['types'];
	readonly #chance: Chance;
	readonly #depths: Depths;
	#count = 0;
	/** Values of elements that stand several times: not lists that are one value. */
	readonly #lists = new WeakSet<object>();

	constructor({ types }: SoapModel, chance: Chance) {
		this.#types = types;
		this.#chance = chance;
		this.#depths = new Depths(types);
	}

	element(one: ElementModel, above: string[]): Json {
		const { kind } = this.#chance;
		this.#count++;
		if (one.fixed !== undefined) return one.fixed;
		const type = this.#types[one.type];
		if (!type || type.kind === 'simple') {
			if (one.default !== undefined && kind !== 'random') return one.default;
			return type ? sampleSimple(type, this.#chance) : '';
		}
		if (type.arrayOf)
			return kind === 'minimal'
				? []
				: [this.element({ local: 'item', namespace: '', type: type.arrayOf }, [...above, one.type])];
		if (above.length > DEEPEST || (above.includes(one.type) && one.nillable && !this.#depths.ends(one.type)))
			return one.nillable ? null : {};
		if (type.abstract || (type.derived && kind === 'random')) {
			const ends = (type.derived ?? []).filter((key) => this.#depths.ends(key));
			const key = this.#oneOf(ends) ?? type.derived?.[0];
			const chosen = key === undefined ? undefined : this.#types[key];
			if (chosen?.kind === 'complex' && key !== one.type)
				return { [TYPE_KEY]: splitName(key!).local, ...(this.#complex(chosen, [...above, key!]) as JsonObject) };
		}
		return this.#complex(type, [...above, one.type]);
	}

	#complex(type: ComplexModel, above: string[]): Json {
		const chance = this.#chance;
		const out: JsonObject = {};
		const attributesAlone = chance.kind === 'telling' && !type.content && mayBeEmpty(type);
		const every = chance.kind === 'full' || attributesAlone;
		for (const use of type.attributes) {
			const wanted = use.required || every || (chance.kind === 'random' && chance.random() < 0.5);
			if (wanted) out[`@${use.local}`] = use.fixed ?? use.default ?? sampleSimple(use.type, chance);
		}
		if (type.text) out[TEXT_KEY] = sampleSimple(type.text, chance);
		else if (type.content) this.#fill(type.content, { type, out, above });
		return out;
	}

	#fill(particle: ParticleModel, into: Filling): void {
		const times = this.#times(particle, into);
		if (particle.kind === 'element') this.#elements(particle, times, into);
		else if (times === 0) return;
		else if (particle.kind === 'any') this.#any(particle, into.out);
		else if (particle.kind === 'choice') this.#choice(particle, into);
		else this.#group(particle, into);
	}

	/** How often a particle stands. */
	#times(particle: ParticleModel, { type, above }: Filling): number {
		const { min, max } = particle;
		const { kind } = this.#chance;
		const full = this.#count > MOST_ELEMENTS || above.length > DEEPEST;
		if (kind === 'minimal' || full || leadsBack(particle, above)) return Math.min(max, min);
		if (kind === 'full') return Math.min(max, Math.max(1, min));
		if (kind === 'telling') return Math.min(max, Math.max(this.#tells(particle, type, above) ? 1 : 0, min));
		return Math.min(max, min + below(this.#chance, min === 0 ? 2 : 3));
	}

	/** Whether a telling sample holds what may be left out. */
	#tells(particle: ParticleModel, type: ComplexModel, above: string[]): boolean {
		if (particle.kind === 'any' || this.#count > TELLING.elements || above.length > TELLING.depth) return false;
		return mayBeEmpty(type);
	}

	#elements(particle: Particle<'element'>, times: number, { type, out, above }: Filling): void {
		const chance = this.#chance;
		for (let n = 0; n < times && !this.#over(particle.elements[0]?.local ?? 'an element'); n++) {
			const ends = particle.elements.filter((one) => this.#depths.ends(one.type));
			const one = this.#oneOf(ends.length > 0 ? ends : particle.elements)!;
			const key = valueKey(one, type);
			const { turn = 0 } = chance;
			chance.turn = turn * MOST_TURNS + n;
			const value = this.element(one, above);
			chance.turn = turn;
			if (!Object.hasOwn(out, key)) {
				const several = maxOf(type.content, one).max > 1 && times > 1;
				out[key] = several ? [value] : value;
				if (several) this.#lists.add(out[key] as Json[]);
			} else if (this.#lists.has(out[key] as object)) (out[key] as Json[]).push(value);
			else this.#lists.add((out[key] = [out[key]!, value]));
		}
	}

	#any({ namespaces, strict, known }: Particle<'any'>, out: JsonObject): void {
		const other = namespaces === '##any' || namespaces === '##other';
		if (!strict && other) out[ANY_KEY] = '<any xmlns="urn:example"/>';
		const type = known && this.#types[known.type];
		if (!known || type?.kind !== 'simple') return;
		const text = escapeXml(known.fixed ?? known.default ?? sampleSimple(type, this.#chance));
		out[ANY_KEY] = `<${known.local} xmlns="${escapeXml(known.namespace)}">${text}</${known.local}>`;
	}

	#choice(particle: Group, into: Filling): void {
		const chance = this.#chance;
		const ends = particle.items.filter((item) =>
			Number.isFinite(this.#depths.ofParticle({ ...item, min: Math.max(1, item.min) }, into.above))
		);
		const chosen = this.#oneOf(ends.length > 0 ? ends : particle.items);
		// the same each time: then it does not matter in which order they stand
		const { turn = 0 } = chance;
		for (let n = 0; chosen && n < Math.max(1, particle.min) && (n === 0 || !this.#over('a choice that repeats')); n++) {
			chance.turn = turn * MOST_TURNS + n;
			this.#fill(chosen, into);
		}
		chance.turn = turn;
	}

	#group(particle: Group, into: Filling): void {
		const { type, out } = into;
		if (particle.min > 1 && type.content && repeatingGroup(type.content) === particle) {
			const passes: JsonObject[] = [];
			for (let n = 0; n < particle.min && !this.#over('a group that repeats'); n++) {
				const pass: JsonObject = {};
				for (const item of particle.items) this.#fill(item, { ...into, out: pass });
				passes.push(pass);
			}
			out[EACH_KEY] = passes;
			return;
		}
		// one pass of a group that repeats: several would have to be kept apart
		for (const item of particle.items) this.#fill(item, into);
	}

	/** The first one, or one by chance. */
	#oneOf<Item>(list: readonly Item[]): Item | undefined {
		return list[this.#chance.kind === 'random' ? below(this.#chance, list.length) : 0];
	}

	/** Whether nothing more may be added; the first place is kept. */
	#over(local: string): boolean {
		const chance = this.#chance;
		if (this.#count < SAMPLE_LIMITS.elements && (chance.written ?? 0) < SAMPLE_LIMITS.characters) return false;
		chance.stopped ??= `the sample ends at ${local}: it would have more than ${SAMPLE_LIMITS.elements} elements, or ${SAMPLE_LIMITS.characters / 1e6} MB`;
		return true;
	}
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
