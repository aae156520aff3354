import { didYouMean } from '../../messages.ts';
import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { ANY_KEY, EACH_KEY, TEXT_KEY } from '../envelope.ts';
import {
	elementsWithin,
	valueKey,
	type ComplexModel,
	type ElementModel,
	type ParticleModel,
	type TypeModel
} from '../model.ts';
import { fitsEmpty, hasAny, maxOf, repeatingGroup } from '../particles.ts';
import { splitName } from '../tree.ts';
import { writeStranger } from './stranger.ts';
import { textOf, type ValuePath, type Writing } from './writing.ts';

/** Values that wait for their element, by key. */
type Waiting = Map<string, { values: Json[]; taken: number; list: boolean }>;

const hasLeft = (entry: { values: Json[]; taken: number } | undefined): boolean =>
	entry !== undefined && entry.taken < entry.values.length;

const isOnlyOne = (particle: { max: number }, type: TypeModel | undefined): boolean =>
	particle.max <= 1 &&
	((type?.kind === 'complex' && type.arrayOf !== undefined) || (type?.kind === 'simple' && type.variety === 'list'));

/** Writes the elements within one: in the order of the schema, whatever the order of the values. */
export function writeContent(
	writing: Writing,
	type: ComplexModel,
	given: JsonObject,
	indent: string,
	path: ValuePath
): void {
	const content = new Content(writing, type, indent);
	const each = given[EACH_KEY];
	const waiting = content.waitingOf(given, path);
	if (Array.isArray(each)) {
		const repeating = type.content && repeatingGroup(type.content);
		each.forEach((entry, index) => {
			const at = [...path, EACH_KEY, index];
			if (!isObject(entry)) return writing.report(at, 'an object with the elements of one pass is wanted', true);
			const own = content.waitingOf(entry as JsonObject, at);
			content.write(repeating ? { ...repeating, min: 1, max: 1 } : type.content!, own, at);
			content.leftovers(own, at);
		});
		return;
	}
	if (type.content) content.write(type.content, waiting, path);
	content.leftovers(waiting, path);
	content.strangers();
}

/** The content of one element while it is written. */
class Content {
	readonly #writing: Writing;
	readonly #type: ComplexModel;
	readonly #indent: string;
	readonly #known: ElementModel[];
	readonly #keys: Map<string, ElementModel>;
	readonly #strangers: [name: string, value: Json][] = [];

	constructor(writing: Writing, type: ComplexModel, indent: string) {
		this.#writing = writing;
		this.#type = type;
		this.#indent = indent;
		this.#known = elementsWithin(type.content);
		this.#keys = new Map(this.#known.map((one) => [valueKey(one, type), one]));
	}

	waitingOf(from: JsonObject, at: ValuePath): Waiting {
		const waiting: Waiting = new Map();
		const holdsAny = hasAny(this.#type.content);
		for (const [key, value] of Object.entries(from)) {
			if (key.startsWith('@') || key === TEXT_KEY || key === EACH_KEY) continue;
			const one = this.#keys.get(key);
			if (!one && !(key === ANY_KEY && holdsAny)) {
				const near = didYouMean(key, [...this.#keys.keys()]);
				this.#writing.report([...at, key], `there is no element ${splitName(key).local} here${near}`, true);
				this.#strangers.push([key, value as Json]);
				continue;
			}
			const single =
				one && Array.isArray(value) && isOnlyOne(maxOf(this.#type.content, one), this.#writing.types[one.type]);
			const list = Array.isArray(value) && !single;
			waiting.set(key, { values: list ? value : [value as Json], taken: 0, list });
		}
		return waiting;
	}

	#left(particle: ParticleModel, waiting: Waiting): boolean {
		if (particle.kind === 'any') return hasLeft(waiting.get(ANY_KEY));
		return (
			elementsWithin(particle).some((one) => hasLeft(waiting.get(valueKey(one, this.#type)))) ||
			(hasAny(particle) && hasLeft(waiting.get(ANY_KEY)))
		);
	}

	/** Whether all that it must hold is there. */
	#complete(particle: ParticleModel, waiting: Waiting): boolean {
		if (particle.min === 0 || particle.kind === 'any') return true;
		if (particle.kind === 'element') return this.#left(particle, waiting);
		const whole = (item: ParticleModel) => this.#complete(item, waiting);
		return particle.kind === 'choice' ? particle.items.some(whole) : particle.items.every(whole);
	}

	write(particle: ParticleModel, waiting: Waiting, at: ValuePath): void {
		if (particle.kind === 'any') return this.#any(particle, waiting);
		if (particle.kind === 'element') return this.#elements(particle, waiting, at);
		for (let pass = 0; pass < particle.max; pass++) {
			if ((pass >= particle.min || pass > 0) && !this.#left(particle, waiting)) break;
			if (particle.kind !== 'choice') {
				for (const item of particle.items) this.write(item, waiting, at);
				continue;
			}
			const possible = particle.items.filter((item) => this.#left(item, waiting));
			const chosen = possible.find((item) => this.#complete(item, waiting)) ?? possible[0];
			if (!chosen) {
				const names = elementsWithin(particle).map(({ local }) => local);
				if (!particle.items.some((item) => fitsEmpty(item)))
					this.#writing.report(at, `one of ${names.join(', ')} is wanted`);
				break;
			}
			this.write(chosen, waiting, at);
		}
	}

	#any({ max }: ParticleModel, waiting: Waiting): void {
		const entry = waiting.get(ANY_KEY);
		for (let n = 0; n < max && hasLeft(entry); n++)
			for (const line of textOf(entry!.values[entry!.taken++]!).split('\n'))
				this.#writing.lines.push(this.#indent + line.replace(/^\s+$/, ''));
	}

	#elements(particle: ParticleModel & { kind: 'element' }, waiting: Waiting, at: ValuePath): void {
		let count = 0;
		for (const one of particle.elements) {
			const key = valueKey(one, this.#type);
			const entry = waiting.get(key);
			while (count < particle.max && hasLeft(entry)) {
				const index = entry!.taken++;
				const place = entry!.list ? [...at, key, index] : [...at, key];
				this.#writing.element(one, entry!.values[index]!, this.#indent, place);
				count++;
			}
		}
		if (count >= particle.min) return;
		const [first] = particle.elements;
		const named = particle.elements.map(({ local }) => local).join(' or ');
		const wanted = count === 0 ? `${named} is missing` : `${named} is wanted at least ${particle.min} times`;
		this.#writing.report([...at, valueKey(first!, this.#type)], wanted);
	}

	/** What found no place: told, and written where that is asked for. */
	leftovers(waiting: Waiting, path: ValuePath): void {
		for (const [key, { values, taken }] of waiting) {
			if (taken >= values.length) continue;
			const { local } = splitName(key);
			const one = this.#keys.get(key);
			if (this.#writing.options.unknown && one)
				for (const value of values.slice(taken)) this.#writing.element(one, value, this.#indent, [...path, key]);
			const often = taken === 1 ? 'once' : `${taken} times`;
			this.#writing.report(
				[...path, key],
				taken === 0 ? `${local} does not go with the others here` : `${local} may stand ${often} here`,
				true
			);
		}
	}

	/** Elements that the definition does not know, behind those that it knows. */
	strangers(): void {
		if (!this.#writing.options.unknown) return;
		const home = this.#known[0]?.namespace ?? '';
		for (const [key, value] of this.#strangers) writeStranger(this.#writing, key, value, home, this.#indent);
	}
}
