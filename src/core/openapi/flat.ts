import { isObject, type JsonObject } from '../model/json.ts';
import { referred } from './permits.ts';
import { merged } from './schema-parts.ts';

/** A schema with what it refers to and is made of (`$ref`, `allOf`) in one; what comes round is left out. */
export function flatSchema(root: JsonObject, given: JsonObject, seen: ReadonlySet<string> = new Set()): JsonObject {
	const { $ref, allOf, ...own } = given;
	let out: JsonObject = own;
	if (typeof $ref === 'string' && !seen.has($ref)) {
		const target = referred(root, $ref);
		if (isObject(target)) out = merged(flatSchema(root, target as JsonObject, new Set([...seen, $ref])), out);
	}
	for (const part of Array.isArray(allOf) ? allOf : [])
		if (isObject(part)) out = merged(flatSchema(root, part as JsonObject, seen), out);
	return out;
}
