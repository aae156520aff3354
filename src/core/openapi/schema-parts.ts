import { isObject, parseJson, same, type Json, type JsonObject } from '../model/json.ts';

/** The type that a schema asks for, or that its keywords speak of. */
export function typeOf(here: JsonObject): string {
	const [type] = [here.type ?? []].flat().filter((one) => one !== 'null');
	if (typeof type === 'string') return type;
	if (here.type !== undefined) return 'null';
	const has = (...keys: string[]) => keys.some((key) => here[key] !== undefined);
	if (has('properties', 'required', 'additionalProperties', 'minProperties', 'patternProperties')) return 'object';
	if (has('items', 'prefixItems', 'minItems', 'uniqueItems', 'contains')) return 'array';
	if (has('minimum', 'maximum', 'exclusiveMinimum', 'exclusiveMaximum', 'multipleOf')) return 'number';
	return 'string';
}

/** What is said of a value by two schemas, in one. */
export function merged(a: JsonObject, b: JsonObject): JsonObject {
	const out: JsonObject = { ...a };
	for (const [key, value] of Object.entries(b)) {
		const before = out[key];
		if (before === undefined) out[key] = value;
		else if (key === 'properties' && isObject(before) && isObject(value)) {
			const all: JsonObject = { ...(before as JsonObject) };
			for (const [name, schema] of Object.entries(value as JsonObject)) {
				const other = all[name];
				all[name] =
					other === undefined || other === true || same(other, schema)
						? schema
						: other === false || schema === false
							? false
							: ({ allOf: [other, schema] } as JsonObject);
			}
			out[key] = all;
		} else if (key === 'required' && Array.isArray(before) && Array.isArray(value))
			out[key] = [...new Set([...before, ...value])];
		else if (key === 'enum' && Array.isArray(before) && Array.isArray(value))
			out[key] = before.filter((one) => value.some((other) => same(one, other)));
		else if (key === 'type') {
			const [one, other] = [[before].flat(), [value].flat()];
			const both = one.filter((type) => other.includes(type) || (type === 'integer' && other.includes('number')));
			out[key] = both.length > 0 ? both : value;
		} else if (/^(minimum|exclusiveMinimum|minLength|minItems|minProperties)$/.test(key))
			out[key] = Number(before) > Number(value) ? before : value;
		else if (/^(maximum|exclusiveMaximum|maxLength|maxItems|maxProperties)$/.test(key))
			out[key] = Number(before) < Number(value) ? before : value;
		else if (key === 'items' && isObject(before) && isObject(value)) out[key] = { allOf: [before, value] };
		else if (key === 'additionalProperties' && before === false) out[key] = false;
		else out[key] = value;
	}
	return out;
}

/** An example of a list or an object, which may be written as its text. */
export function asJson(example: Json): Json {
	if (typeof example !== 'string' || !/^\s*[[{]/.test(example)) return example;
	try {
		return parseJson(example);
	} catch {
		return example;
	}
}
