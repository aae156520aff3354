import { lookUp } from '../model/lookup.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { inside, members, type Node } from './document.ts';
import type { OpenapiOperation } from './operations.ts';
import { referred } from './permits.ts';
import { lazySchema } from './schema.ts';

const PLAIN: Record<string, string> = { string: 'string', integer: 'number', number: 'number', boolean: 'boolean' };
/** So many parts of a schema are looked at. */
const LOOKED_AT = 20_000;

const known = new WeakMap<OpenapiOperation, Map<string, Set<string>>>();

/** The types that each name has in what an operation answers when all is well. @throws HeronError definition.wrong */
export function typesOf(operation: OpenapiOperation): ReadonlyMap<string, ReadonlySet<string>> {
	let types = known.get(operation);
	if (!types) known.set(operation, (types = readTypes(operation)));
	return types;
}

function readTypes(operation: OpenapiOperation): Map<string, Set<string>> {
	const types = new Map<string, Set<string>>();
	const { document, node } = operation;
	for (const [key, given] of members(inside(node, 'responses'))) {
		if (!/^(2|default)/i.test(key)) continue;
		const answer = document.follow(given);
		if (!isObject(answer.value)) continue;
		const media =
			document.version === '2.0'
				? [['', answer] as const]
				: members(inside(answer as Node<JsonObject>, 'content')).filter(([type]) => /json/i.test(type));
		for (const [, one] of media) {
			const schema = isObject(one.value) ? inside(one as Node<JsonObject>, 'schema') : undefined;
			if (schema?.value !== undefined) namesIn(lazySchema(document, schema as Node, 'writeOnly'), types);
		}
	}
	return types;
}

function namesIn(schema: JsonObject, types: Map<string, Set<string>>): void {
	const queue: Json[] = [schema];
	const followed = new Set<string>();
	for (let at = 0; at < queue.length && at < LOOKED_AT; at++) {
		const value = queue[at];
		if (Array.isArray(value)) for (const one of value) queue.push(one);
		if (!isObject(value)) continue;
		// what is referred to is gone through once, and nothing else of all there is
		if (typeof value.$ref === 'string' && !followed.has(value.$ref)) {
			followed.add(value.$ref);
			queue.push(referred(schema, value.$ref));
		}
		for (const key of Object.keys(value)) {
			if (key === '$defs') continue;
			const part = (value as JsonObject)[key]!;
			if (key === 'properties' && isObject(part))
				for (const [name, property] of Object.entries(part as JsonObject)) {
					const own = types.get(name) ?? new Set();
					for (const type of kindsOf(property)) types.set(name, own.add(type));
				}
			if (typeof part === 'object') queue.push(part);
		}
	}
}

/** The types of a property; `unknown` where only looking further would tell. */
function kindsOf(property: Json): string[] {
	if (!isObject(property)) return ['unknown'];
	const { type, enum: choices } = property as JsonObject;
	if (Array.isArray(choices)) return [...new Set(choices.filter((one) => one !== null).map((one) => typeof one))];
	const declared = [type ?? 'unknown'].flat().filter((one) => one !== 'null');
	return declared.map((one) => lookUp(PLAIN, String(one)) ?? String(one));
}
