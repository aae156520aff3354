import { unescapeAddress } from '../values/index.ts';
import { writeJson, isObject, type Json } from '../model/json.ts';
import type { MadeColumn } from './generate.ts';

type Schema = Record<string, unknown>;
const DEPTH = 6;

// words in a property's name that say more than its type does
const HINTS: [RegExp, string][] = [
	[/e-?mail/i, 'email'],
	[/phone|mobile|fax/i, 'phone'],
	[/first_?name|given_?name/i, 'firstName'],
	[/last_?name|sur_?name|family_?name/i, 'lastName'],
	[/post_?code|zip/i, 'postcode'],
	[/street|address/i, 'street'],
	[/city|town/i, 'city'],
	[/country/i, 'country'],
	[/company|organi[sz]ation/i, 'company'],
	[/boat|vessel/i, 'boat'],
	[/colou?r/i, 'colour'],
	[/uuid|guid/i, 'uuid'],
	[/description|comment|note|text/i, 'sentence'],
	[/name|person|owner|skipper/i, 'person']
];
const FORMATS: Record<string, string> = {
	date: '$fake.date()',
	'date-time': '$fake.dateTime()',
	time: '$substring($fake.dateTime(), 11, 8) & "Z"',
	email: '$fake.email()',
	uuid: '$fake.uuid()',
	uri: '"https://reedmere.example/" & $fake.word()',
	hostname: '$fake.word() & ".example"',
	ipv4: '"192.0.2." & $fake.integer(1, 254)',
	ipv6: '"2001:db8::" & $fake.integer(1, 9999)'
};
const literal = (value: unknown): string => writeJson(value);
const numberOf = (value: unknown): number | undefined => (typeof value === 'number' ? value : undefined);

/**
 * Columns that make up data of a JSON Schema (2020-12 and earlier drafts, the parts that speak of values): a column for
 * each property of the object it describes, or of the objects in the list.
 * @returns the columns, and what could not be taken into account
 */
export function columnsOfSchema(schema: Json): { columns: MadeColumn[]; notes: string[] } {
	const maker = new ColumnMaker(schema);
	return { columns: maker.columns(), notes: [...maker.notes] };
}

/** A schema with what it refers to, and the references that led there. */
interface Followed {
	schema: Schema;
	above: string[];
}

class ColumnMaker {
	readonly notes = new Set<string>();
	readonly #root: Json;

	constructor(root: Json) {
		this.#root = root;
	}

	columns(): MadeColumn[] {
		let { schema: root, above } = this.#follow(this.#root, []);
		if (root.type === 'array' || root.items !== undefined) ({ schema: root, above } = this.#follow(root.items, above));
		const properties = isObject(root.properties) ? Object.entries(root.properties) : [];
		if (properties.length === 0) this.notes.add('it describes no object with properties: there is no column to make');
		return properties.map(([name, one]) => ({ name, value: this.#made(one, name, above, 1) }));
	}

	#follow(given: unknown, above: string[]): Followed {
		if (!isObject(given)) return { schema: {}, above };
		const merged = { ...(given as Schema) };
		for (const part of Array.isArray(merged.allOf) ? merged.allOf : []) {
			const { schema: one } = this.#follow(part, above);
			merged.properties = { ...(one.properties as object), ...(merged.properties as object) };
			for (const [key, value] of Object.entries(one)) if (key !== 'properties') merged[key] ??= value;
		}
		const [choice] = (merged.oneOf ?? merged.anyOf ?? []) as unknown[];
		if (choice !== undefined && merged.type === undefined && merged.properties === undefined) {
			this.notes.add('of alternatives the first one is made');
			return this.#follow(choice, above);
		}
		const { $ref } = merged;
		return typeof $ref === 'string' ? this.#referred($ref, above) : { schema: merged, above };
	}

	#referred($ref: string, above: string[]): Followed {
		if (above.includes($ref)) {
			this.notes.add(`${$ref} refers to itself: it ends there`);
			return { schema: { const: null }, above };
		}
		const target = $ref.startsWith('#') ? this.#pointed($ref.slice(1)) : undefined;
		if (target !== undefined) return this.#follow(target, [...above, $ref]);
		this.notes.add(`${$ref} cannot be followed`);
		return { schema: {}, above };
	}

	#pointed(pointer: string): unknown {
		return pointer
			.split('/')
			.slice(1)
			.map((part) => unescapeAddress(part).replace(/~1/g, '/').replace(/~0/g, '~'))
			.reduce<unknown>(
				(at, part) =>
					typeof at === 'object' && at !== null && Object.hasOwn(at, part) ? (at as Schema)[part] : undefined,
				this.#root
			);
	}

	/** An expression that makes a value of a schema. */
	#made(given: unknown, name: string, refs: string[], depth: number): string {
		const { schema: one, above } = this.#follow(given, refs);
		if (one.const !== undefined) return literal(one.const);
		if (Array.isArray(one.enum)) return `$fake.choice(${literal(one.enum)})`;
		const types = (Array.isArray(one.type) ? one.type : [one.type]) as unknown[];
		const type = types.find((each) => each !== 'null') ?? (isObject(one.properties) ? 'object' : types[0]);
		if (type === 'integer') return numberMade(one, true);
		if (type === 'number') return numberMade(one, false);
		if (type === 'boolean') return '$fake.boolean()';
		if (type === 'null') return 'null';
		if (type === 'array') {
			if (depth >= DEPTH) return '[]';
			const count = Math.max(numberOf(one.minItems) ?? 0, Math.min(2, numberOf(one.maxItems) ?? 2));
			const item = () => this.#made(one.items, name.replace(/s$/, ''), above, depth + 1);
			return count === 0 ? '[]' : `[[1..${count}].(${item()})]`;
		}
		if (type === 'object') {
			const properties = isObject(one.properties) && depth < DEPTH ? Object.entries(one.properties) : [];
			const pairs = properties.map(([key, value]) => `${literal(key)}: ${this.#made(value, key, above, depth + 1)}`);
			return `{${pairs.join(', ')}}`;
		}
		return textMade(one, name);
	}
}

function textMade(one: Schema, name: string): string {
	if (typeof one.pattern === 'string') return `$fake.matching(${literal(one.pattern.replace(/^\^|\$$/g, ''))})`;
	const format = String(one.format);
	if (Object.hasOwn(FORMATS, format)) return FORMATS[format]!;
	const [min, max] = [numberOf(one.minLength) ?? 0, numberOf(one.maxLength)];
	const kind = HINTS.find(([pattern]) => pattern.test(name))?.[1] ?? 'word';
	let made = `$fake.${kind}()`;
	if (min > 0) made = `$pad(${made}, ${min}, "x")`;
	return max === undefined ? made : `$substring(${made}, 0, ${max})`;
}

function numberMade(one: Schema, whole: boolean): string {
	const step = numberOf(one.multipleOf) ?? (whole ? 1 : 0.01);
	const above = numberOf(one.exclusiveMinimum);
	const below = numberOf(one.exclusiveMaximum);
	const low = numberOf(one.minimum) ?? (above === undefined ? 0 : above + step);
	const high = numberOf(one.maximum) ?? (below === undefined ? low + 100 * step * (whole ? 1 : 100) : below - step);
	if (!whole && one.multipleOf === undefined) return `$fake.decimal(${low}, ${high})`;
	const [from, to] = [Math.ceil(low / step), Math.floor(high / step)];
	return step === 1 ? `$fake.integer(${from}, ${to})` : `$fake.integer(${from}, ${to}) * ${step}`;
}
