import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { CHOICES, isOf, merged, NAMED, permits, referred } from '../openapi/index.ts';
import { hasExpression, unescapeAddress } from '../values/index.ts';

/** A schema by itself, with what it refers to under `$defs` (JSON Schema 2020-12, with the keywords of `lazySchema`). */
export type Root = JsonObject;

/** One of several forms that a value may have. */
export interface Branch {
	label: string;
	/** The branch with all that stands beside the alternatives. */
	schema: JsonObject;
	/** What the property of a discriminator says where this is meant: any of the values, the first by choice. */
	says?: { property: string; value: string; values: string[] };
}

/** A place where one of several forms is taken. */
interface Fork {
	branches: Branch[];
	/** The one that the value has; -1 where nothing tells. */
	chosen: number;
}

/** A schema as a form shows it: without references, with the forms that the value has taken. */
export interface Resolved {
	schema: JsonObject;
	/** From the outer to the inner. */
	forks: Fork[];
	/** null may stand in its place. */
	nullable: boolean;
}

const MOST_FORKS = 4;

/** A schema with all that it refers to and is made of in one; what comes round is left out. */
function flat(root: Root, given: Json, seen: ReadonlySet<string> = new Set()): JsonObject {
	if (given === false) return { not: {} };
	if (!isObject(given)) return {};
	const { $ref, allOf, ...own } = given as JsonObject;
	let out: JsonObject = own;
	if (typeof $ref === 'string' && !seen.has($ref))
		out = merged(flat(root, referred(root, $ref), new Set([...seen, $ref])), out);
	for (const part of Array.isArray(allOf) ? allOf : [])
		// what depends on the value itself is shown by its alternatives
		if (!(isObject(part) && 'if' in part && part[CHOICES] === undefined)) out = merged(flat(root, part, seen), out);
	return out;
}

const isNull = (one: JsonObject): boolean => one.type === 'null' || ('const' in one && one.const === null);

/** What is known of a value: its schema without references, by the form that the value has. */
export function resolve(root: Root, given: Json, value: Json | undefined): Resolved {
	let schema = flat(root, given);
	const forks: Fork[] = [];
	let nullable = false;
	for (let n = 0; n < MOST_FORKS; n++) {
		const found = branchesOf(root, schema);
		if (!found) break;
		nullable ||= found.nullable;
		const [only] = found.branches;
		if (found.branches.length === 1 && only) {
			schema = only.schema;
			continue;
		}
		const chosen = chosenAmong(root, found.branches, value);
		forks.push({ branches: found.branches, chosen });
		if (chosen < 0) {
			schema = found.rest;
			break;
		}
		schema = found.branches[chosen]!.schema;
	}
	const types = typesOf(schema);
	return { schema, forks, nullable: nullable || types.includes('null') };
}

function branchesOf(
	root: Root,
	schema: JsonObject
): { branches: Branch[]; rest: JsonObject; nullable: boolean } | undefined {
	const choices = Array.isArray(schema[CHOICES]) ? (schema[CHOICES] as Json[]).filter(isObject) : [];
	if (choices.length > 0) {
		const { [CHOICES]: _, oneOf: __, anyOf: ___, ...rest } = schema;
		return {
			rest,
			nullable: false,
			branches: (choices as JsonObject[]).map(({ property, value, values, schema: branch }) => ({
				label: String(value),
				schema: without(merged(rest, flat(root, branch!))),
				says: {
					property: String(property),
					value: String(value),
					values: Array.isArray(values) ? values.map(String) : [String(value)]
				}
			}))
		};
	}
	const key = (['oneOf', 'anyOf'] as const).find((one) => Array.isArray(schema[one]) && schema[one].length > 0);
	if (!key) return undefined;
	const { [key]: given, ...rest } = schema;
	const all = (given as Json[]).map((one) => ({ one, branch: flat(root, one) }));
	const real = all.filter(({ branch }) => !isNull(branch));
	const names = real.map(({ one, branch }, at) => labelOf(one, branch, at));
	return {
		rest,
		nullable: real.length < all.length,
		branches: real.map(({ branch }, at) => ({
			label: names.indexOf(names[at]!) === at ? names[at]! : `${names[at]!} ${at + 1}`,
			schema: merged(rest, branch)
		}))
	};
}
/** Of a branch that a discriminator names its own alternatives are that choice once more. */
const without = ({ [CHOICES]: _, ...rest }: JsonObject): JsonObject => rest;

function labelOf(given: Json, branch: JsonObject, at: number): string {
	if (typeof branch.title === 'string' && branch.title) return branch.title;
	const reference = isObject(given) && typeof given.$ref === 'string' ? given.$ref : '';
	const name = unescapeAddress(reference.split('/').pop() ?? '').replace(/^\d+-/, '');
	if (name) return name;
	if ('const' in branch) return writeJson(branch.const);
	const required = Array.isArray(branch.required) ? branch.required.map(String) : [];
	if (required.length > 0) return `with ${required.slice(0, 3).join(', ')}`;
	const types = typesOf(branch);
	return types.length > 0 ? types.join(' or ') : `form ${at + 1}`;
}

/** The form that a value has: as its discriminator says, else the first that allows it, else that which knows most of it. */
function chosenAmong(root: Root, branches: Branch[], value: Json | undefined): number {
	if (value === undefined) return -1;
	const says = branches[0]?.says;
	if (says) {
		const said = isObject(value) ? (value as JsonObject)[says.property] : undefined;
		return branches.findIndex((one) => typeof said === 'string' && one.says?.values.includes(said));
	}
	const fits = branches.findIndex((one) => permits(root, one.schema, value));
	if (fits >= 0) return fits;
	let best = { at: -1, score: 0 };
	for (const [at, { schema }] of branches.entries()) {
		const types = typesOf(schema);
		let score = types.length === 0 || types.some((type) => isOf(type, value)) ? 1 : 0;
		if (score > 0 && isObject(value) && isObject(schema.properties))
			for (const [name, one] of Object.entries(value)) {
				const own = (schema.properties as JsonObject)[name];
				score += own === undefined ? -1 : permits(root, own, one as Json) ? 3 : 2;
			}
		if (score > best.score) best = { at, score };
	}
	return best.at;
}

/** The types that a schema allows, or that its keywords speak of; none where it may be anything. */
export function typesOf(schema: JsonObject): string[] {
	if (schema.type !== undefined) return [schema.type].flat().map(String);
	const has = (...keys: string[]) => keys.some((key) => schema[key] !== undefined);
	if (has('properties', 'required', 'additionalProperties', 'minProperties', 'patternProperties')) return ['object'];
	if (has('items', 'prefixItems', 'minItems', 'maxItems', 'uniqueItems', 'contains')) return ['array'];
	if (has('minimum', 'maximum', 'exclusiveMinimum', 'exclusiveMaximum', 'multipleOf')) return ['number'];
	return [];
}

/** Values that are all there may be; undefined where there are others. */
export function valuesOf(schema: JsonObject): Json[] | undefined {
	if ('const' in schema) return [schema.const!];
	return Array.isArray(schema.enum) ? schema.enum : undefined;
}

/** A property of an object as a form shows it. */
export interface Part {
	name: string;
	schema: Json;
	required: boolean;
	there: boolean;
	/** The schema does not allow a property of this name. */
	unknown: boolean;
}

/** The properties of an object: those that its schema knows, and those that it has beside them. */
export function partsOf(root: Root, schema: JsonObject, value: JsonObject): Part[] {
	const properties = isObject(schema.properties) ? (schema.properties as JsonObject) : {};
	const required = new Set((Array.isArray(schema.required) ? schema.required : []).map(String));
	const known = Object.entries(properties).filter(([name, one]) => one !== false || Object.hasOwn(value, name));
	const named = schema[NAMED] as { property: string; value: string } | undefined;
	const parts = known.map(([name, one]): Part => ({
		name,
		schema: named?.property === name ? { const: named.value } : one,
		required: required.has(name),
		there: Object.hasOwn(value, name),
		unknown: one === false
	}));
	const others = new Set([...required, ...Object.keys(value)]);
	for (const name of others)
		if (!Object.hasOwn(properties, name)) {
			const loose = looseSchema(schema, name);
			parts.push({
				...{ name, schema: loose === false ? {} : loose, required: required.has(name) },
				...{ there: Object.hasOwn(value, name), unknown: loose === false }
			});
		}
	return parts;
}

/** What a property of a name that the schema does not list has to be; false where there may be none. */
export function looseSchema(schema: JsonObject, name: string): Json {
	const patterns = isObject(schema.patternProperties) ? Object.entries(schema.patternProperties as JsonObject) : [];
	const fits = patterns.find(([pattern]) => permits({}, { pattern }, name));
	if (fits) return fits[1];
	return [schema.additionalProperties, schema.unevaluatedProperties].find((one) => one !== undefined) ?? {};
}

/** What an item of a list has to be. */
export function itemSchema(schema: JsonObject, index: number): Json {
	const fixed = Array.isArray(schema.prefixItems) ? schema.prefixItems : [];
	return fixed[index] ?? schema.items ?? {};
}

/** Whether a value is an expression as a whole, or has one in it: what it will be is not known yet. */
export const isComputed = (value: Json | undefined): boolean => typeof value === 'string' && hasExpression(value);
