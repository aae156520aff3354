import { isObject, type Json, type JsonObject } from '#core/model/json.ts';

/** Levels of a schema; the compiler goes down by calling itself. */
const DEEPEST_SCHEMA = 256;

/** Keywords whose schemas judge the same value. */
const SAME_VALUE = ['$ref', 'allOf', 'anyOf', 'oneOf', 'not', 'if', 'then', 'else'];

const pointer = (path: readonly string[]): string =>
	`#${path.map((part) => `/${part.replace(/~/g, '~0').replace(/\//g, '~1')}`).join('')}`;

/** The place of a part that is nested too deep, or undefined. Goes down without calling itself. */
function tooDeep(schema: Json): string | undefined {
	const waiting: { value: Json; path: string[] }[] = [{ value: schema, path: [] }];
	for (let next = waiting.pop(); next; next = waiting.pop()) {
		const { value, path } = next;
		if (typeof value !== 'object' || value === null) continue;
		if (path.length > DEEPEST_SCHEMA) return pointer(path.slice(0, 8));
		for (const [key, part] of Object.entries(value)) waiting.push({ value: part as Json, path: [...path, key] });
	}
	return undefined;
}

/** The part of a schema that a `#/…` names, or undefined. */
function at(schema: JsonObject, reference: string): Json | undefined {
	let here: Json | undefined = schema;
	for (const part of reference.split('/').slice(1)) {
		const key = decodeURIComponent(part).replace(/~1/g, '/').replace(/~0/g, '~');
		if (typeof here !== 'object' || here === null || !Object.hasOwn(here, key)) return undefined;
		here = (here as Record<string, Json>)[key];
	}
	return here;
}

/** A reference that leads back to itself before it has gone into the value, which is never at an end; or undefined. */
function loop(schema: JsonObject): string | undefined {
	const open = new Set<Json>();
	const done = new Set<Json>();
	let found: string | undefined;
	const visit = (value: Json | undefined, reference: string): void => {
		if (found !== undefined || !isObject(value) || done.has(value)) return;
		if (open.has(value)) return void (found = reference);
		open.add(value);
		for (const key of SAME_VALUE) {
			const part = (value as JsonObject)[key];
			if (key === '$ref') {
				if (typeof part === 'string' && /^#(\/|$)/.test(part)) visit(at(schema, part), part);
			} else if (Array.isArray(part)) for (const one of part) visit(one, reference);
			else visit(part, reference);
		}
		open.delete(value);
		done.add(value);
	};
	// every place that a reference can begin at
	const waiting: Json[] = [schema];
	for (let next = waiting.pop(); next !== undefined && found === undefined; next = waiting.pop()) {
		if (typeof next !== 'object' || next === null) continue;
		if (isObject(next) && typeof (next as JsonObject).$ref === 'string') visit(next, String((next as JsonObject).$ref));
		for (const part of Object.values(next)) waiting.push(part as Json);
	}
	return found;
}

/** Why the compiler cannot take a schema, in words with the place; undefined when it can. */
export function shapeFault(schema: JsonObject): string | undefined {
	const deep = tooDeep(schema);
	if (deep !== undefined) return `${deep}… is nested deeper than ${DEEPEST_SCHEMA} levels`;
	const reference = loop(schema);
	return reference === undefined ? undefined : `$ref: ${reference} leads back to itself, so that it never ends`;
}
