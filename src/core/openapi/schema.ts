import { unescapeAddress } from '../values/index.ts';
import { HeronError } from '../errors.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { chosen, discriminatorsOf, type Branches } from './discriminator.ts';
import { isIdleEnum } from './permits.ts';
import { wrong, type Node, type OpenapiDocument } from './document.ts';
import { ANNOTATIONS, isPattern, NAMED_SCHEMAS, ONE_SCHEMA, SCHEMA_LIST, TYPES } from './keywords.ts';

/** What says nothing of a value, or is said in another way. */
const LEFT_OUT = new Set([
	...ANNOTATIONS,
	'discriminator',
	'nullable',
	'readOnly',
	'writeOnly',
	'$schema',
	'$id',
	'$anchor'
]);
/** Lists whose schemas speak of the same object. */
const SAME_OBJECT = new Set(['anyOf', 'oneOf']);
/** What helps whoever fills a value in. */
const TEXTUAL = new Set(['title', 'description', 'default', 'example', 'examples', 'deprecated', 'xml']);
const NONE: ReadonlySet<string> = new Set();
/** A schema of more parts than this is written to exhaust whoever reads it. */
const MOST = 500_000;

/**
 * A schema of a document by itself, as JSON Schema 2020-12, for what comes back: what is only for calls may not be there.
 * Schemas that it refers to stand under $defs.
 * @throws HeronError definition.wrong for what leads nowhere
 */
export const replySchema = (document: OpenapiDocument, start: Node): JsonObject =>
	schemaAlone(document, start, 'writeOnly');

/** The same for what is sent: what is only for replies may not be there. */
export const callSchema = (document: OpenapiDocument, start: Node): JsonObject =>
	schemaAlone(document, start, 'readOnly');

/** A keyword of schemas for samples: the branches that a discriminator tells apart, `{ property, value, values, schema }` each. */
export const CHOICES = 'x-choices';
/** A keyword of schemas for samples: what the discriminator of a parent has to say here, `{ property, value }`. */
export const NAMED = 'x-named';

/** The direction in which values go that are not looked at. */
type OtherWay = 'writeOnly' | 'readOnly';

function schemaAlone(document: OpenapiDocument, start: Node, otherWay: OtherWay): JsonObject {
	const $defs: JsonObject = {};
	const waiting: Referred[] = [];
	const convert = converter(document, otherWay, false, (one) => waiting.push(one));
	const top = convert(start);
	for (let next = waiting.shift(); next; next = waiting.shift()) $defs[next.name] = next.make();
	if (!isObject(top)) return top === false ? { not: {} } : {};
	const own = isObject(top.$defs) ? top.$defs : {};
	return (Object.keys($defs).length > 0 ? { ...top, $defs: { ...own, ...$defs } } : top) as JsonObject;
}

const shared = new WeakMap<
	OpenapiDocument,
	Partial<Record<OtherWay, { $defs: JsonObject; convert: (start: Node) => Json }>>
>();

/**
 * A schema by itself as the others have it, whose `$defs` are those of all schemas of the document and are made when they
 * are looked at: of a thousand schemas that all know each other a thousand calls would make a million. For who follows
 * references, and not for who goes through all there is. What leads nowhere further down allows everything. Examples, defaults
 * and words about values stay, and `CHOICES` and `NAMED` say what discriminators mean, so that a value can be made of it.
 * @throws HeronError definition.wrong for what leads nowhere itself
 */
export function lazySchema(document: OpenapiDocument, start: Node, otherWay: OtherWay): JsonObject {
	const own = shared.get(document) ?? {};
	shared.set(document, own);
	let kept = own[otherWay];
	if (!kept) {
		const $defs: JsonObject = {};
		const convert = converter(document, otherWay, true, ({ name, make }) => {
			const keep = (value: Json) => Object.defineProperty($defs, name, { value, enumerable: true });
			Object.defineProperty($defs, name, {
				configurable: true,
				enumerable: true,
				get(): Json {
					try {
						const made = make();
						keep(made);
						return made;
					} catch (error) {
						if (!(error instanceof HeronError)) throw error;
						keep({});
						return {};
					}
				}
			});
		});
		own[otherWay] = kept = { $defs, convert };
	}
	const top = kept.convert(start);
	if (!isObject(top)) return top === false ? { not: {} } : {};
	return { ...top, $defs: kept.$defs } as JsonObject;
}

/** So many parts of a schema go where it is shown; what lies behind is anything. */
const MOST_BUNDLED = 100_000;

/** A lazy schema with what it refers to and nothing else of its document, as it can be sent elsewhere. */
export function bundled({ $defs: all = {}, ...schema }: JsonObject): JsonObject {
	const $defs: JsonObject = {};
	const waiting: string[] = [];
	let parts = 0;
	const copy = (value: Json): Json => {
		if (++parts > MOST_BUNDLED) return {};
		if (Array.isArray(value)) return value.map(copy);
		if (!isObject(value)) return value;
		const { $ref } = value as JsonObject;
		if (typeof $ref === 'string' && $ref.startsWith('#/$defs/')) {
			const name = unescapeAddress($ref.slice(8)).replace(/~1/g, '/').replace(/~0/g, '~');
			if (!Object.hasOwn($defs, name)) {
				$defs[name] = {};
				waiting.push(name);
			}
		}
		return Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, copy(one)]));
	};
	const top = copy(schema) as JsonObject;
	for (let next = waiting.shift(); next !== undefined; next = waiting.shift())
		$defs[next] = copy((all as JsonObject)[next] ?? {});
	return { ...top, $defs };
}

/** A schema that another one refers to, under the name by which it does. */
interface Referred {
	name: string;
	make(): Json;
}

/**
 * Converts schemas of a document; those that they refer to are told, each once.
 * @param forSamples with all that helps whoever makes a value
 */
function converter(
	document: OpenapiDocument,
	otherWay: OtherWay,
	forSamples: boolean,
	tell: (one: Referred) => void
): (start: Node) => Json {
	const names = new Map<string, string>();
	const discriminators = discriminatorsOf(document);
	let parts = 0;
	// up to 3.0 what stands beside $ref is ignored, and null is a keyword of its own
	const old = document.version !== '3.1';
	const leftOut = forSamples ? new Set([...LEFT_OUT].filter((key) => !TEXTUAL.has(key))) : LEFT_OUT;

	/** @param bare as the parent of a schema that is judged already: its discriminator names no branch */
	const refer = (node: Node, without: ReadonlySet<string>, bare = false): string => {
		const key = `${node.file}#${node.pointer}#${bare}#${[...without].sort().join(' ')}`;
		let name = names.get(key);
		if (!name) {
			names.set(key, (name = `${names.size + 1}-${node.pointer.split('/').pop() || 'root'}`));
			tell({ name, make: () => convert(node.value, node.file, without, bare) });
		}
		return `#/$defs/${encodeURIComponent(name.replace(/~/g, '~0').replace(/\//g, '~1'))}`;
	};
	/** Whether a property goes the other way only. */
	const otherWayOnly = (schema: Json, file: string): boolean => {
		const { value } = document.follow({ value: schema, file, pointer: '' });
		return isObject(value) && value[otherWay] === true;
	};
	/** Properties of a schema and of all that it is made of (allOf) that go the other way only. */
	const namesOtherWay = (given: Json, file: string, seen = new Set<Json>()): string[] => {
		const { value, file: from } = document.follow({ value: given, file, pointer: '' });
		if (!isObject(value) || seen.has(value)) return [];
		seen.add(value);
		const schema = value as JsonObject;
		return [
			...(isObject(schema.properties) ? Object.entries(schema.properties as JsonObject) : []).flatMap(([name, one]) =>
				otherWayOnly(one, from) ? [name] : []
			),
			...(Array.isArray(schema.allOf) ? schema.allOf : []).flatMap((one) => namesOtherWay(one, from, seen))
		];
	};
	/**
	 * @param above names that go the other way only by another part of the same object
	 * @param bare without the branches of its discriminator, and so are those that it refers to
	 */
	const convert = (given: Json, file: string, above: ReadonlySet<string> = NONE, bare = false): Json => {
		if (++parts > MOST) throw wrong(document.file, `a schema has more than ${MOST} parts`);
		if (!isObject(given)) return typeof given === 'boolean' ? given : {};
		const schema = given as JsonObject;
		const own = Array.isArray(schema.allOf) ? namesOtherWay(schema, file) : [];
		const without = own.length > 0 ? new Set([...above, ...own]) : above;
		const $ref = typeof schema.$ref === 'string' ? refer(document.at(file, schema.$ref), without, bare) : undefined;
		if ($ref && old) return { $ref };
		const branches = discriminators.branchesOf({ value: schema, file, pointer: '' });
		const out: JsonObject = $ref ? { $ref } : {};
		for (const [key, value] of Object.entries(schema)) {
			if (key === '$ref' || leftOut.has(key) || key.startsWith('x-')) continue;
			if (key === 'allOf' || key === branches?.by) continue;
			if (ONE_SCHEMA.has(key) || (key === 'items' && !Array.isArray(value))) out[key] = convert(value, file);
			else if ((SCHEMA_LIST.has(key) || key === 'items') && Array.isArray(value))
				out[key] = value.map((one) => convert(one, file, SAME_OBJECT.has(key) ? without : NONE));
			else if (NAMED_SCHEMAS.has(key) && isObject(value))
				out[key] = Object.fromEntries(
					Object.entries(value as JsonObject).map(([name, one]) => [
						name,
						key === 'properties' && otherWayOnly(one, file) ? false : convert(one, file)
					])
				);
			else out[key] = value;
		}
		const parents = Array.isArray(schema.allOf) ? schema.allOf : [];
		if (parents.length > 0) {
			const child = bare || discriminators.isComponent(schema);
			out.allOf = parents.map((one) => convert(one, file, without, child));
			const named = forSamples && child ? nameAmong(schema, parents, file) : undefined;
			if (named) out[NAMED] = named;
		}
		if (branches && !bare) {
			if (forSamples)
				out[CHOICES] = branches.named.flatMap(({ values, node }) =>
					node.value === schema
						? []
						: [
								{
									property: branches.property,
									value: values[0] ?? '',
									values,
									schema: { $ref: refer(node, without) }
								}
							]
				);
			const parts = branchSchemas(branches, schema, file, without);
			if (parts.length > 0) out.allOf = [...((out.allOf as Json[] | undefined) ?? []), ...parts];
		}
		if (Array.isArray(out.required)) {
			const properties = isObject(out.properties) ? out.properties : {};
			out.required = out.required.filter((name) => properties[String(name)] !== false && !without.has(String(name)));
		}
		return modern(out, old && schema.nullable === true);
	};
	const branchSchemas = (branches: Branches, own: JsonObject, file: string, without: ReadonlySet<string>): Json[] =>
		chosen(
			branches,
			// a schema may be one of its own branches: that it is already
			(node) => node.value === own || { $ref: refer(node, without) },
			({ value }) => convert(value, file, without)
		);
	/** What the discriminator of a parent calls a schema. */
	const nameAmong = (schema: JsonObject, parents: Json[], file: string): JsonObject | undefined => {
		for (const one of parents) {
			const parent = document.follow({ value: one, file, pointer: '' });
			if (!isObject(parent.value)) continue;
			const branches = discriminators.branchesOf(parent as Node<JsonObject>);
			const [value] = branches?.named.find(({ node }) => node.value === schema)?.values ?? [];
			if (branches && value !== undefined) return { property: branches.property, value };
		}
		return undefined;
	};
	return ({ value, file }) => {
		parts = 0;
		return convert(value, file);
	};
}

/** Changes what OpenAPI 3.0 (section 4.7.24) and 2.0 say in another way, and leaves out what cannot be meant. */
function modern(out: JsonObject, nullable: boolean): JsonObject {
	// what no schema may say is told by the document's warnings
	if (out.required !== undefined && !Array.isArray(out.required)) delete out.required;
	if (typeof out.pattern === 'string' && !isPattern(out.pattern)) delete out.pattern;
	if (out.type !== undefined) {
		const types = [out.type].flat().filter((one) => TYPES.has(String(one)));
		if (types.length === 0) delete out.type;
		else if (Array.isArray(out.type)) out.type = types;
	}
	if (isIdleEnum(out)) delete out.enum;
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
