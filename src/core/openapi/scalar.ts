import { exactNumber, isObject, parseJson, type Json, type JsonObject } from '../model/json.ts';
import { flatSchema } from './flat.ts';

/** What a text may stand for: the types, items and properties of a schema, references, parts and alternatives in one. */
export interface TextShape {
	types: string[];
	items?: Json;
	properties: JsonObject;
	/** What properties of other names are. */
	additional?: Json;
}

/**
 * @param root the schema by itself that holds it, for its references
 * @param seen what was looked at: alternatives may come round, and each says what it says once
 */
export function shapeOf(root: JsonObject, schema: Json | undefined, seen = new Set<Json>()): TextShape {
	if (!isObject(schema) || seen.has(schema)) return { types: [], properties: {} };
	seen.add(schema);
	const here = flatSchema(root, schema as JsonObject);
	const branches = [here.anyOf, here.oneOf]
		.flatMap((list) => (Array.isArray(list) ? list : []))
		.map((branch) => shapeOf(root, branch, seen));
	const values = 'const' in here ? [here.const!] : Array.isArray(here.enum) ? here.enum : [];
	const own = [here.type ?? values.map((one) => (typeof one === 'bigint' ? 'integer' : typeof one))].flat().map(String);
	const types = own.length > 0 ? own : [...new Set(branches.flatMap((branch) => branch.types))];
	const items = [here, ...branches].find((one) => one.items !== undefined)?.items;
	const additional = [here.additionalProperties, ...branches.map((one) => one.additional)].find(
		(one) => one !== undefined
	);
	const properties = [...branches, here].map((one) => (isObject(one.properties) ? (one.properties as JsonObject) : {}));
	return {
		types,
		...(items === undefined ? {} : { items }),
		...(additional === undefined ? {} : { additional }),
		properties: Object.assign({}, ...properties) as JsonObject
	};
}

/**
 * A text as the number or truth value that a schema speaks of, where it is one.
 * @param root the schema by itself that holds it, for its references
 */
export function scalarOf(text: string, schema: Json | undefined, root: JsonObject = {}): Json {
	const { types } = shapeOf(root, schema);
	if (types.some((type) => type === 'integer' || type === 'number') && /^-?\d+(\.\d+)?(e[+-]?\d+)?$/i.test(text))
		return exactNumber(text);
	// within a list or an object it can only be told as JSON
	if (types.some((type) => type === 'array' || type === 'object') && /^[[{]/.test(text))
		try {
			return parseJson(text);
		} catch {
			return text;
		}
	if (types.includes('boolean') && /^(true|false)$/.test(text)) return text === 'true';
	return text;
}
