import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { chosen, createDiscriminators, type Branches } from './discriminator.ts';
import { wrong, type Node, type OpenapiDocument } from './document.ts';
import { ANNOTATIONS, isPattern, NAMED_SCHEMAS, ONE_SCHEMA, SCHEMA_LIST, TYPES } from './keywords.ts';

/** What says nothing of a value, or is said in another way. */
const LEFT_OUT = new Set([...ANNOTATIONS, 'discriminator', 'nullable', 'readOnly', 'writeOnly', '$schema', '$id']);
/** Lists whose schemas speak of the same object. */
const SAME_OBJECT = new Set(['anyOf', 'oneOf']);
const NONE: ReadonlySet<string> = new Set();
/** A schema of more parts than this is written to exhaust whoever reads it. */
const MOST = 500_000;

/**
 * A schema of a document by itself, as JSON Schema 2020-12, for what comes back: what is only for calls may not be there.
 * Schemas that it refers to stand under $defs.
 * @throws HeronError definition.wrong for what leads nowhere
 */
export function replySchema(document: OpenapiDocument, start: Node): JsonObject {
	const $defs: JsonObject = {};
	const names = new Map<string, string>();
	const waiting: { name: string; node: Node; without: ReadonlySet<string>; bare: boolean }[] = [];
	const discriminators = createDiscriminators(document);
	let parts = 0;
	// up to 3.0 what stands beside $ref is ignored, and null is a keyword of its own
	const old = document.version !== '3.1';

	/** @param bare as the parent of a schema that is judged already: its discriminator names no branch */
	const refer = (node: Node, without: ReadonlySet<string>, bare = false): string => {
		const key = `${node.file}#${node.pointer}#${bare}#${[...without].sort().join(' ')}`;
		let name = names.get(key);
		if (!name) {
			names.set(key, (name = `${names.size + 1}-${node.pointer.split('/').pop() || 'root'}`));
			waiting.push({ name, node, without, bare });
		}
		return `#/$defs/${encodeURIComponent(name.replace(/~/g, '~0').replace(/\//g, '~1'))}`;
	};
	/** Whether a property is only for calls. */
	const onlyForCalls = (schema: Json, file: string): boolean => {
		const { value } = document.follow({ value: schema, file, pointer: '' });
		return isObject(value) && value.writeOnly === true;
	};
	/** Properties of a schema and of all that it is made of (allOf) that are only for calls. */
	const namesForCalls = (given: Json, file: string, seen = new Set<Json>()): string[] => {
		const { value, file: from } = document.follow({ value: given, file, pointer: '' });
		if (!isObject(value) || seen.has(value)) return [];
		seen.add(value);
		const schema = value as JsonObject;
		return [
			...(isObject(schema.properties) ? Object.entries(schema.properties as JsonObject) : []).flatMap(([name, one]) =>
				onlyForCalls(one, from) ? [name] : []
			),
			...(Array.isArray(schema.allOf) ? schema.allOf : []).flatMap((one) => namesForCalls(one, from, seen))
		];
	};
	/**
	 * @param above names that are only for calls by another part of the same object
	 * @param bare without the branches of its discriminator, and so are those that it refers to
	 */
	const convert = (given: Json, file: string, above: ReadonlySet<string> = NONE, bare = false): Json => {
		if (++parts > MOST) throw wrong(document.file, `a schema has more than ${MOST} parts`);
		if (!isObject(given)) return typeof given === 'boolean' ? given : {};
		const schema = given as JsonObject;
		const own = Array.isArray(schema.allOf) ? namesForCalls(schema, file) : [];
		const without = own.length > 0 ? new Set([...above, ...own]) : above;
		const $ref = typeof schema.$ref === 'string' ? refer(document.at(file, schema.$ref), without, bare) : undefined;
		if ($ref && old) return { $ref };
		const branches = discriminators.branchesOf({ value: schema, file, pointer: '' });
		const out: JsonObject = $ref ? { $ref } : {};
		for (const [key, value] of Object.entries(schema)) {
			if (key === '$ref' || LEFT_OUT.has(key) || key.startsWith('x-')) continue;
			if (key === 'allOf' || key === branches?.by) continue;
			if (ONE_SCHEMA.has(key) || (key === 'items' && !Array.isArray(value))) out[key] = convert(value, file);
			else if ((SCHEMA_LIST.has(key) || key === 'items') && Array.isArray(value))
				out[key] = value.map((one) => convert(one, file, SAME_OBJECT.has(key) ? without : NONE));
			else if (NAMED_SCHEMAS.has(key) && isObject(value))
				out[key] = Object.fromEntries(
					Object.entries(value as JsonObject).map(([name, one]) => [
						name,
						key === 'properties' && onlyForCalls(one, file) ? false : convert(one, file)
					])
				);
			else out[key] = value;
		}
		const parents = Array.isArray(schema.allOf) ? schema.allOf : [];
		if (parents.length > 0) {
			const child = bare || discriminators.isComponent(schema);
			out.allOf = parents.map((one) => convert(one, file, without, child));
		}
		if (branches && !bare) {
			const parts = branchSchemas(branches, file, without);
			if (parts.length > 0) out.allOf = [...((out.allOf as Json[] | undefined) ?? []), ...parts];
		}
		if (Array.isArray(out.required)) {
			const properties = isObject(out.properties) ? out.properties : {};
			out.required = out.required.filter((name) => properties[String(name)] !== false && !without.has(String(name)));
		}
		return modern(out, old && schema.nullable === true);
	};
	const branchSchemas = (branches: Branches, file: string, without: ReadonlySet<string>): Json[] =>
		chosen(
			branches,
			(node) => ({ $ref: refer(node, without) }),
			({ value }) => convert(value, file, without)
		);
	const top = convert(start.value, start.file);
	for (let next = waiting.shift(); next; next = waiting.shift())
		$defs[next.name] = convert(next.node.value, next.node.file, next.without, next.bare);
	if (!isObject(top)) return top === false ? { not: {} } : {};
	return {
		...top,
		...(names.size > 0 ? { $defs: { ...(isObject(top.$defs) ? top.$defs : {}), ...$defs } } : {})
	} as JsonObject;
}

/** What OpenAPI 3.0 (section 4.7.24) and 2.0 say in another way, and without what cannot be meant. */
function modern(schema: JsonObject, nullable: boolean): JsonObject {
	const out = { ...schema };
	// what no schema may say is told by the document's warnings
	if (out.required !== undefined && !Array.isArray(out.required)) delete out.required;
	if (typeof out.pattern === 'string' && !isPattern(out.pattern)) delete out.pattern;
	if (out.type !== undefined) {
		const types = [out.type].flat().filter((one) => TYPES.has(String(one)));
		if (types.length === 0) delete out.type;
		else if (Array.isArray(out.type)) out.type = types;
	}
	for (const [flag, limit] of [
		['exclusiveMinimum', 'minimum'],
		['exclusiveMaximum', 'maximum']
	] as const) {
		if (out[flag] === true) {
			out[flag] = out[limit] ?? false;
			delete out[limit];
		}
		if (typeof out[flag] === 'boolean') delete out[flag];
	}
	if (nullable && typeof out.type === 'string') out.type = [out.type, 'null'];
	if (Array.isArray(out.items)) {
		out.prefixItems = out.items;
		delete out.items;
	}
	return out;
}
