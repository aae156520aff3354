import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { literally, merged, NAMED, sampleOf, type Fill } from '../openapi/index.ts';
import { isComputed, itemSchema, partsOf, resolve, typesOf, valuesOf, type Branch, type Root } from './schema.ts';

/** How much of a form is filled in to begin with. */
export type FillKind = Fill | 'random';

/** A value to begin with: the least that is asked for, all there is, or some of it by chance. */
export function startOf(root: Root, schema: Json, kind: FillKind = 'minimal', random: () => number = () => 0): Json {
	const whole: JsonObject = { ...(isObject(schema) ? (schema as JsonObject) : {}), $defs: root.$defs ?? {} };
	const made = sampleOf(whole, { fill: kind === 'minimal' ? 'minimal' : 'full' }) ?? empty(root, schema);
	return literally(kind === 'random' ? someOf(root, schema, made, random) : made);
}

function empty(root: Root, schema: Json): Json {
	const [type] = typesOf(resolve(root, schema, undefined).schema);
	return type === 'object' ? {} : type === 'array' ? [] : type === 'null' ? null : '';
}

/** A value with some of what may be left out left out, and other ones of the values that there may be. */
function someOf(root: Root, given: Json, value: Json, random: () => number, deep = 0): Json {
	const { schema, nullable } = resolve(root, given, value);
	if (deep > 20) return value;
	if (nullable && random() < 0.1) return null;
	const values = valuesOf(schema);
	if (values && values.length > 1) return values[Math.floor(random() * values.length)]!;
	if (typeof value === 'boolean') return random() < 0.5;
	if (Array.isArray(value))
		return value.map((one, index) => someOf(root, itemSchema(schema, index), one as Json, random, deep + 1));
	if (!isObject(value)) return value;
	const named = schema[NAMED] as { property: string } | undefined;
	return Object.fromEntries(
		partsOf(root, schema, value as JsonObject)
			.filter(({ name, there, required }) => there && (required || named?.property === name || random() < 0.6))
			.map((part): [string, Json] => [
				part.name,
				someOf(root, part.schema, (value as JsonObject)[part.name]!, random, deep + 1)
			])
	);
}

/** A value in another form: what both forms know is kept. */
export function inBranch(root: Root, { schema, says }: Branch, before: Json | undefined): Json {
	const wanted = says
		? merged(schema, { [NAMED]: schema[NAMED] ?? { property: says.property, value: says.value } } as JsonObject)
		: schema;
	const start = startOf(root, wanted);
	if (!isObject(start)) return start;
	const known = new Set(partsOf(root, schema, {}).map(({ name }) => name));
	const kept = isObject(before)
		? Object.entries(before as JsonObject).filter(([name]) => known.has(name) && name !== says?.property)
		: [];
	const out: JsonObject = { ...(start as JsonObject) };
	for (const [name, one] of kept)
		if (isComputed(one) || !Object.hasOwn(out, name) || !isObject(out[name])) out[name] = one;
	if (says) out[says.property] = says.value;
	return out;
}
