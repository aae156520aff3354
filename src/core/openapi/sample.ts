import { isObject, same, type Json, type JsonObject } from '../model/json.ts';
import { fitsPattern, permits, referred } from './permits.ts';
import { Endless, fitted, numberIn, textIn, variant } from './sample-scalar.ts';
import { CHOICES, NAMED } from './schema-converter.ts';
import { asJson, merged, typeOf } from './schema-parts.ts';

/** `minimal`: what is required; `full`: whatever there is, as deep as it goes without coming round. */
export type Fill = 'minimal' | 'full';

/** How a sample of a schema is made. */
export interface SampleOptions {
	fill?: Fill;
	/** Examples and defaults of the schema are left aside: every value is made. */
	made?: boolean;
}

/** So many values are made for one sample, so deep, and so many items or properties for one of them. */
const MOST_VALUES = 20_000;
const DEEPEST = 24;
const MOST_PARTS = 200;
const NONE: ReadonlySet<string> = new Set();

/**
 * A value that a schema by itself allows (JSON Schema 2020-12, with the keywords of `lazySchema`): its own examples first,
 * then its default, its first choice, else a value made of type, format, pattern and limits.
 * @returns undefined where a schema asks for itself without end, or allows nothing
 */
export function sampleOf(schema: JsonObject, options: SampleOptions = {}): Json | undefined {
	const { $ref, $defs, ...more } = schema;
	// what many calls of a document send is made once: its schemas stand in one object, which does not change
	if (typeof $ref !== 'string' || !isObject($defs) || Object.keys(more).length > 0) return madeSample(schema, options);
	const key = `${$ref} ${options.fill ?? 'minimal'} ${options.made === true}`;
	const own = kept.get($defs) ?? new Map<string, Json | undefined>();
	kept.set($defs, own);
	if (!own.has(key)) own.set(key, madeSample(schema, options));
	return copied(own.get(key));
}
const kept = new WeakMap<object, Map<string, Json | undefined>>();
/** Whoever gets a sample may change it. */
const copied = <T extends Json | undefined>(value: T): T =>
	(Array.isArray(value)
		? value.map(copied)
		: isObject(value)
			? Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, copied(one)]))
			: value) as T;

/** A value of a schema as it is; what is asked for often is kept by {@link sampleOf}. */
function madeSample(schema: JsonObject, options: SampleOptions): Json | undefined {
	try {
		const value = new SampleMaker(schema, options).make(schema, 0);
		// what may be there is not worth more than what is allowed
		return options.fill === 'full' && !permits(schema, schema, value)
			? (sampleOf(schema, { made: options.made === true }) ?? value)
			: value;
	} catch (error) {
		if (error instanceof Endless) return undefined;
		throw error;
	}
}

/** Makes one value of a schema by itself; every method throws `Endless` for what has no end or allows nothing. */
class SampleMaker {
	readonly #root: JsonObject;
	readonly #full: boolean;
	readonly #made: boolean;
	#values = 0;

	constructor(root: JsonObject, { fill = 'minimal', made = false }: SampleOptions) {
		this.#root = root;
		this.#full = fill === 'full';
		this.#made = made;
	}

	/** @param led the references that lead to the alternatives of which this is one: it cannot be one of them again */
	make(given: Json, deep: number, led: ReadonlySet<string> = NONE): Json {
		if (++this.#values > MOST_VALUES || deep > DEEPEST) throw new Endless();
		const here = this.#flat(given, led);
		const own = this.#made ? undefined : declaredSamples(here).find((one) => permits(this.#root, here, one));
		if (own !== undefined) return own;
		const choices = Array.isArray(here[CHOICES]) ? here[CHOICES] : [];
		if (choices.length > 0) {
			const { [CHOICES]: _, oneOf: __, anyOf: ___, ...rest } = here;
			return this.#first(
				choices.filter((one): one is JsonObject => isObject(one)),
				({ property, value, schema: branch }) => {
					const whole = merged(this.#flat(branch!), rest);
					return this.#plain(
						merged(whole, { [NAMED]: whole[NAMED] ?? { property: property!, value: value! } } as JsonObject),
						deep
					);
				}
			);
		}
		for (const key of ['oneOf', 'anyOf'] as const)
			if (Array.isArray(here[key]) && here[key].length > 0) {
				const { [key]: branches, ...rest } = here;
				const leading = this.#referencesFrom(given, led);
				return this.#first(
					branches as Json[],
					(branch, more) => {
						const whole = merged(this.#flat(branch, leading), rest);
						if (more) return this.#plain(whole, deep, true);
						return this.make(whole, deep, this.#referencesFrom(branch, leading));
					},
					(value) => permits(this.#root, here, value)
				);
			}
		return this.#plain(here, deep);
	}

	/** The references that are followed before a schema says anything itself. @param led with these before */
	#referencesFrom(given: Json, led: ReadonlySet<string>): ReadonlySet<string> {
		const all = new Set(led);
		for (let next = given; isObject(next) && typeof next.$ref === 'string' && !all.has(next.$ref);) {
			all.add(next.$ref);
			next = referred(this.#root, next.$ref);
		}
		return all;
	}

	/** A schema with all that it refers to and is made of in one; of alternatives the first that serves is taken later. */
	#flat(given: Json, seen: ReadonlySet<string> = NONE): JsonObject {
		if (given === false) throw new Endless();
		if (!isObject(given)) return {};
		const { $ref, allOf, ...own } = given as JsonObject;
		let out: JsonObject = own;
		if (typeof $ref === 'string') {
			if (seen.has($ref)) throw new Endless();
			out = merged(this.#flat(referred(this.#root, $ref), new Set([...seen, $ref])), out);
		}
		for (const part of Array.isArray(allOf) ? allOf : [])
			// what depends on the value itself is judged when it is there
			if (!(isObject(part) && 'if' in part && part[CHOICES] === undefined)) out = merged(this.#flat(part, seen), out);
		return out;
	}

	/** The first of several that serves, and is allowed; with all that it may have, where the least fits several. */
	#first<T>(list: T[], of: (one: T, more: boolean) => Json, allowed: (value: Json) => boolean = () => true): Json {
		// null is an answer to everything, and tells nothing
		const order = [...list.filter((one) => !isNull(one)), ...list.filter(isNull)];
		let found: Json | undefined;
		for (const more of [false, true])
			for (const one of order)
				try {
					const value = of(one, more);
					if (allowed(value)) return value;
					found ??= value;
				} catch (error) {
					if (!(error instanceof Endless)) throw error;
				}
		if (found === undefined) throw new Endless();
		return found;
	}

	/** @param more with all that an object may have */
	#plain(here: JsonObject, deep: number, more = false): Json {
		if ('const' in here) return here.const!;
		if (Array.isArray(here.enum) && here.enum.length > 0) {
			const { enum: _, ...rest } = here;
			// nothing, and an empty text, tell the least
			const telling = here.enum.filter((one) => one !== null && one !== '');
			return [...telling, ...here.enum].find((one) => permits(this.#root, rest, one)) ?? here.enum[0]!;
		}
		switch (typeOf(here)) {
			case 'object':
				return this.#object(here, deep, more || this.#full);
			case 'array':
				return this.#array(here, deep);
			case 'integer':
			case 'number':
				return numberIn(here);
			case 'boolean':
				return true;
			case 'null':
				return null;
			default:
				return textIn(here);
		}
	}

	#object(here: JsonObject, deep: number, full: boolean): JsonObject {
		const properties = (isObject(here.properties) ? here.properties : {}) as JsonObject;
		const required = (Array.isArray(here.required) ? here.required : []).map(String);
		const named = here[NAMED] as { property: string; value: string } | undefined;
		const out: JsonObject = {};
		const most = typeof here.maxProperties === 'number' ? here.maxProperties : MOST_PARTS;
		const put = (name: string, schema: Json) => {
			if (named?.property === name) out[name] = this.#valueNamed(named.value, schema, deep);
			else out[name] = this.make(schema, deep + 1);
		};
		const loose = [here.additionalProperties, here.unevaluatedProperties].find((one) => one !== undefined) ?? true;
		const schemaFor = (name: string): Json => {
			if (Object.hasOwn(properties, name)) return properties[name]!;
			const patterns = isObject(here.patternProperties) ? Object.entries(here.patternProperties) : [];
			return patterns.find(([pattern]) => fitsPattern(pattern, name))?.[1] ?? (isObject(loose) ? loose : {});
		};
		// nothing that is asked for: what the schema knows says more than nothing
		const wanted = full || (required.length === 0 && deep === 0);
		for (const name of new Set([...Object.keys(properties), ...required])) {
			if (required.includes(name)) put(name, schemaFor(name));
			else if ((wanted || named?.property === name) && properties[name] !== false && Object.keys(out).length < most)
				try {
					if (deep < 6 || named?.property === name) put(name, properties[name]!);
					// what contradicts itself is left out, where it can be
					if (full && isLeaf(out[name]) && !permits(this.#root, properties[name]!, out[name]!)) delete out[name];
				} catch (error) {
					if (!(error instanceof Endless)) throw error;
				}
		}
		if (named && !(named.property in out)) out[named.property] = named.value;
		const dependent = isObject(here.dependentRequired) ? Object.entries(here.dependentRequired) : [];
		for (const [name, others] of dependent)
			if (name in out && Array.isArray(others))
				for (const other of others.map(String)) if (!(other in out)) put(other, schemaFor(other));
		const least = Math.min(typeof here.minProperties === 'number' ? here.minProperties : 0, MOST_PARTS);
		for (const name of Object.keys(properties))
			if (Object.keys(out).length < least && !(name in out) && properties[name] !== false) put(name, properties[name]!);
		const names = isObject(here.propertyNames) ? here.propertyNames : undefined;
		for (let n = 1; Object.keys(out).length < least && loose !== false && n < MOST_PARTS * 2; n++) {
			const name = names ? variant(this.make(names, deep + 1), n - 1) : `name${n}`;
			if (!(String(name) in out)) put(String(name), schemaFor(String(name)));
		}
		return out;
	}

	/** What a discriminator is to say, or the value that comes nearest where its property has others. */
	#valueNamed(name: string, given: Json, deep: number): Json {
		const here = this.#flat(given);
		if (permits(this.#root, here, name)) return name;
		const values = Array.isArray(here.enum) ? here.enum : [];
		const near = values.find((one) => typeof one === 'string' && name.toLowerCase().includes(one.toLowerCase()));
		return near ?? this.make(given, deep + 1);
	}

	#array(here: JsonObject, deep: number): Json[] {
		const least = typeof here.minItems === 'number' ? here.minItems : 0;
		const most = typeof here.maxItems === 'number' ? here.maxItems : MOST_PARTS;
		if (least > MOST_PARTS) throw new Endless();
		const fixed = Array.isArray(here.prefixItems) ? here.prefixItems : [];
		const out: Json[] = [];
		const add = (schema: Json) => {
			let value = this.make(schema, deep + 1);
			if (here.uniqueItems === true)
				for (let n = 1; out.some((one) => same(one, value)) && n < MOST_PARTS * 2; n++)
					value = this.#another(schema, value, n);
			out.push(value);
		};
		for (const schema of fixed.slice(0, most)) add(schema);
		if (isObject(here.contains)) {
			const times = typeof here.minContains === 'number' ? here.minContains : 1;
			for (let n = 0; n < times && out.length < most; n++) add(merged(this.#flat(here.contains), this.#itemsOf(here)));
		}
		// one item shows what items are like
		const wanted = Math.min(most, Math.max(least, here.items === undefined || here.items === false ? 0 : 1));
		while (out.length < wanted)
			try {
				add(here.items ?? {});
			} catch (error) {
				if (!(error instanceof Endless) || out.length < least) throw error;
				break;
			}
		return out;
	}

	#itemsOf(here: JsonObject): JsonObject {
		return isObject(here.items) ? this.#flat(here.items) : {};
	}

	/** Another value than the one that was made first. */
	#another(schema: Json, value: Json, n: number): Json {
		const here = this.#flat(schema);
		if (Array.isArray(here.enum)) return here.enum[n % here.enum.length]!;
		if (typeof value === 'boolean') return !value;
		if (isObject(value)) {
			const [name] = Object.keys(value).filter(
				(key) => typeof value[key] === 'string' || typeof value[key] === 'number'
			);
			if (name === undefined) throw new Endless();
			const properties = isObject(here.properties) ? here.properties : {};
			return { ...value, [name]: this.#another(properties[name] ?? {}, value[name]!, n) };
		}
		if (typeof value === 'number') {
			const step = typeof here.multipleOf === 'number' ? here.multipleOf : 1;
			return value + step * n;
		}
		return typeof value === 'string' ? fitted(variant(value, n), here) : value;
	}
}

/** A value in which nothing stands that was looked at already. */
const isLeaf = (value: Json | undefined): boolean =>
	!isObject(value) && !(Array.isArray(value) && value.some((one) => typeof one === 'object' && one !== null));
const isNull = (one: unknown): boolean => isObject(one) && one.type === 'null';

/** What a schema says of its values itself. */
function declaredSamples(here: JsonObject): Json[] {
	const examples = Array.isArray(here.examples) ? here.examples : [];
	const compound = /^(array|object)$/.test(typeOf(here));
	return [here.const, here.example, examples[0], here.default].flatMap((one) =>
		one === undefined || one === null ? [] : [compound ? asJson(one) : one]
	);
}
