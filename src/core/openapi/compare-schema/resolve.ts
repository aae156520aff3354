import { isObject, type Json, type JsonObject } from '../../model/json.ts';
import { unescapeAddress } from '../../values/index.ts';
import { asList } from './findings.ts';

/** Deeper than that no schema is followed that people wrote. */
export const DEEPEST = 40;

/** A schema with its `$ref` followed: true for what is not there, and the last reference. */
export const resolved = (given: Json, defs: Json | undefined): { schema: JsonObject | boolean; key: string } => {
	let here = given;
	let key = '';
	for (let hops = 0; isObject(here) && typeof here.$ref === 'string' && hops < DEEPEST; hops++) {
		key = here.$ref;
		const name = decodeName(key);
		const next: Json | undefined = isObject(defs) && Object.hasOwn(defs, name) ? (defs[name] as Json) : undefined;
		if (next === undefined) return { schema: true, key };
		const { $ref: _, ...beside } = here as JsonObject;
		void _;
		here = Object.keys(beside).length > 0 && isObject(next) ? { ...(next as JsonObject), ...beside } : next;
	}
	return { schema: isObject(here) ? (here as JsonObject) : here !== false, key };
};
/** A schema with what all of its allOf say; where two say the same keyword the last one counts. */
export const flat = (schema: JsonObject, defs: Json | undefined, depth = 0): JsonObject => {
	if (!Array.isArray(schema.allOf) || depth > DEEPEST) return schema;
	let out: JsonObject = {};
	for (const part of [...schema.allOf, { ...schema, allOf: null }]) {
		const { schema: one } = resolved(part, defs);
		if (!isObject(one)) continue;
		const { allOf, properties, required, ...rest } = flat(one as JsonObject, defs, depth + 1);
		void allOf;
		out = {
			...out,
			...rest,
			...(isObject(properties) || out.properties
				? { properties: { ...(out.properties as JsonObject), ...(properties as JsonObject) } }
				: {}),
			...(required || out.required ? { required: [...asList(out.required), ...asList(required)] } : {})
		};
	}
	return out;
};

/** The name that a reference ends with. */
export const decodeName = (reference: string): string => {
	const last = reference.split('/').pop() ?? '';
	try {
		return unescapeAddress(last).replace(/~1/g, '/').replace(/~0/g, '~');
	} catch {
		return last;
	}
};
