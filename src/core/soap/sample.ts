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

	/** Values of elements that stand several times: not lists that are one value. */
	const lists = new WeakSet<object>();
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
				const { turn = 0 } = chance;
				chance.turn = turn * MOST_TURNS + n;
				const value = element(one, above);
				chance.turn = turn;
				if (!Object.hasOwn(out, key)) {
					const several = maxOf(type.content, one).max > 1 && times > 1;
					out[key] = several ? [value] : value;
					if (several) lists.add(out[key] as Json[]);
				} else if (lists.has(out[key] as object)) (out[key] as Json[]).push(value);
				else lists.add((out[key] = [out[key]!, value]));
			}
			return;
		}
		if (particle.kind === 'any') {
			const other = particle.namespaces === '##any' || particle.namespaces === '##other';
			if (times > 0 && !particle.strict && other) out[ANY_KEY] = '<any xmlns="urn:example"/>';
			const { known } = particle;
			const type = known && types[known.type];
			if (times > 0 && known && type?.kind === 'simple')
				out[ANY_KEY] =
					`<${known.local} xmlns="${escapeXml(known.namespace)}">${escapeXml(known.fixed ?? known.default ?? sampleSimple(type, chance))}</${known.local}>`;
			return;
		}
		if (particle.kind === 'choice') {
			if (times === 0) return;
			const ends = particle.items.filter((item) =>
				Number.isFinite(particleDepth({ ...item, min: Math.max(1, item.min) }, above))
			);
			const from = ends.length > 0 ? ends : particle.items;
			const chosen = from[chance.kind === 'random' ? below(chance, from.length) : 0];
			// the same each time: then it does not matter in which order they stand
			const { turn = 0 } = chance;
			for (let n = 0; chosen && n < Math.max(1, min) && (n === 0 || !over('a choice that repeats')); n++) {
				chance.turn = turn * MOST_TURNS + n;
				fill(chosen, type, out, above);
			}
			chance.turn = turn;
			return;
		}
		if (times === 0) return;
		if (min > 1 && type.content && repeatingGroup(type.content) === particle) {
			const passes: JsonObject[] = [];
			for (let n = 0; n < min && !over('a group that repeats'); n++) {
				const pass: JsonObject = {};
				for (const item of particle.items) fill(item, type, pass, above);
				passes.push(pass);
			}
			out[EACH_KEY] = passes;
			return;
		}
		// one pass of a group that repeats: several would have to be kept apart
		for (const item of particle.items) fill(item, type, out, above);
	}
	return { element };
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
