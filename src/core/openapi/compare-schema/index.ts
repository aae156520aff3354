import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { compareBranches } from './branches.ts';
import { asList, Findings, type Direction, type SchemaChange } from './findings.ts';
import { compareProperties } from './properties.ts';
import { DEEPEST, flat, resolved } from './resolve.ts';
import { typeRule, valueRules } from './rules.ts';

export { LEVELS, type Direction, type Level, type SchemaChange } from './findings.ts';

/** So many pairs of schemas are compared at most. */
const MOST = 20_000;

const isOpen = (schema: JsonObject | boolean): boolean =>
	schema === true || (isObject(schema) && Object.keys(schema).every((key) => key === '$defs'));
const refers = (schema: Json): boolean => isObject(schema) && typeof schema.$ref === 'string';
/** Whether it is made of others, and may lead back to itself. */
const leadsOn = (schema: Json): boolean => refers(schema) || (isObject(schema) && Array.isArray(schema.allOf));
const refersAlone = (schema: Json): schema is { $ref: string } => refers(schema) && Object.keys(schema!).length === 1;

/** Two schemas within others, of which one at least is made of others. */
interface Pair {
	before: Json;
	after: Json;
	place: string;
	/** Levels further down. */
	depth: number;
}
type Item = SchemaChange | Pair;

/** What pairs of references have by themselves, under a place of one letter: many operations lead to the same ones. */
type Kept = Map<string, Item[]>;
const kept = new WeakMap<object, WeakMap<object, Record<Direction, Kept>>>();
function keptOf(before: Json | undefined, after: Json | undefined, direction: Direction): Kept {
	if (!isObject(before) || !isObject(after)) return new Map();
	const of = kept.get(before) ?? new WeakMap<object, Record<Direction, Kept>>();
	kept.set(before, of);
	const both = of.get(after) ?? { sent: new Map(), received: new Map() };
	of.set(after, both);
	return both[direction];
}
const ANYWHERE = '@';

/**
 * What is different between two schemas, as JSON Schema by itself with its $defs.
 * @param direction whether callers send or receive what they describe
 */
export function compareSchemas(before: JsonObject, after: JsonObject, direction: Direction): SchemaChange[] {
	const comparison = new Comparison(before.$defs, after.$defs, direction);
	comparison.look({ before, after, place: '', depth: 0 });
	return comparison.changes;
}

class Comparison {
	readonly changes: SchemaChange[] = [];
	readonly #was: Json | undefined;
	readonly #is: Json | undefined;
	readonly #direction: Direction;
	readonly #kept: Kept;
	readonly #seen = new Set<string>();
	#looks = 0;

	constructor(was: Json | undefined, is: Json | undefined, direction: Direction) {
		this.#was = was;
		this.#is = is;
		this.#direction = direction;
		this.#kept = keptOf(was, is, direction);
	}

	look({ before, after, place, depth }: Pair): void {
		if (depth > DEEPEST || ++this.#looks > MOST) return;
		const [was, is] = [resolved(before, this.#was), resolved(after, this.#is)];
		if (was.key && is.key) {
			const pair = `${was.key}|${is.key}`;
			if (this.#seen.has(pair)) return;
			this.#seen.add(pair);
		}
		const between = (at: string) => this.#between(was.schema, is.schema, at);
		if (!place || !refersAlone(before) || !refersAlone(after)) {
			for (const item of between(place)) this.#take(item, item.place, depth);
			return;
		}
		const key = `${before.$ref}|${after.$ref}`;
		const items = this.#kept.get(key) ?? between(ANYWHERE);
		this.#kept.set(key, items);
		for (const item of items) this.#take(item, place + item.place.slice(ANYWHERE.length), depth);
	}

	#take(item: Item, place: string, depth: number): void {
		if ('before' in item) this.look({ ...item, place, depth: depth + item.depth });
		else this.changes.push({ ...item, place });
	}

	/** What two schemas have by themselves, and the pairs in them that are made of others, in their order. */
	#between(before: JsonObject | boolean, after: JsonObject | boolean, place: string): Item[] {
		const items: Item[] = [];
		const findings = new Findings(this.#direction, items);
		const look = (was: JsonObject | boolean, is: JsonObject | boolean, at: string, depth: number): void => {
			if (isObject(was) && isObject(is)) return compare(flat(was, this.#was), flat(is, this.#is), at, depth);
			if (isOpen(was) === isOpen(is)) return;
			if (isOpen(was)) findings.narrower('narrower', at, 'anything was allowed, and is not any more');
			else findings.wider('wider', at, 'anything is allowed now');
		};
		const compare = (a: JsonObject, b: JsonObject, at: string, depth: number): void => {
			if (typeRule(a, b, at, findings)) return;
			for (const rule of valueRules) rule(a, b, at, findings);
			const deeper = (x: Json, y: Json, there: string): void => {
				if (depth >= DEEPEST) return;
				if (leadsOn(x) || leadsOn(y)) items.push({ before: x, after: y, place: there, depth: depth + 1 });
				else look(resolved(x, this.#was).schema, resolved(y, this.#is).schema, there, depth + 1);
			};
			compareProperties(a, b, at, findings, deeper);
			if (a.items !== undefined && b.items !== undefined) deeper(a.items, b.items, `${at}[*]`);
			else if (b.items !== undefined && !Array.isArray(b.items))
				findings.narrower('items', `${at}[*]`, 'items have a schema now');
			else if (a.items !== undefined) findings.wider('items', `${at}[*]`, 'items may be anything');
			for (const key of ['oneOf', 'anyOf'] as const)
				compareBranches(asList(a[key]), asList(b[key]), key, at, findings, deeper);
		};
		look(before, after, place, 0);
		return items;
	}
}
