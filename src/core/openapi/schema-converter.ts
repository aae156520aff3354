import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { chosen, discriminatorsOf, type Branches } from './discriminator.ts';
import { isIdleEnum } from './permits.ts';
import { wrong, type Node, type OpenapiDocument } from './document.ts';
import { ANNOTATIONS, isOn, isPattern, misused, NAMED_SCHEMAS, ONE_SCHEMA, SCHEMA_LIST, TYPES } from './keywords.ts';

/** What says nothing of a value, or is said in another way. */
const LEFT_OUT = new Set([
	...ANNOTATIONS,
	'discriminator',
	'nullable',
	'readOnly',
	'writeOnly',
	'$schema',
	'$id',
	'id',
	'$anchor',
	// references lead elsewhere; and what 2020-12 does not know
	'$defs',
	'definitions',
	'dependencies'
]);
/** Lists whose schemas speak of the same object. */
const SAME_OBJECT = new Set(['anyOf', 'oneOf']);
/** What helps whoever fills a value in. */
const TEXTUAL = new Set(['title', 'description', 'default', 'example', 'examples', 'deprecated', 'xml']);
const NONE: ReadonlySet<string> = new Set();
/** A schema of more parts than this is written to exhaust whoever reads it. */
const MOST = 500_000;

/** A keyword of schemas for samples: the branches that a discriminator tells apart, `{ property, value, values, schema }` each. */
export const CHOICES = 'x-choices';
/** A keyword of schemas for samples: what the discriminator of a parent has to say here, `{ property, value }`. */
export const NAMED = 'x-named';

/** The direction in which values go that are not looked at. */
export type OtherWay = 'writeOnly' | 'readOnly';

/** A schema that another one refers to, under the name by which it does. */
export interface Referred {
	name: string;
	make(): Json;
}

/** How a schema is converted because of where it stands. */
interface Around {
	file: string;
	/** Names that go the other way only by another part of the same object. */
	without: ReadonlySet<string>;
	/** As the parent of a schema that is judged already: without the branches of its discriminator, and so are those that it refers to. */
	bare: boolean;
}

/** Converts schemas of a document to JSON Schema 2020-12; those that they refer to are told wherever that is. */
export class SchemaConverter {
	readonly #document: OpenapiDocument;
	readonly #otherWay: OtherWay;
	readonly #forSamples: boolean;
	readonly #tell: (one: Referred) => void;
	readonly #names = new Map<string, string>();
	readonly #discriminators: ReturnType<typeof discriminatorsOf>;
	readonly #leftOut: ReadonlySet<string>;
	/** Up to 3.0 what stands beside $ref is ignored, and null is a keyword of its own. */
	readonly #old: boolean;
	#parts = 0;

	/** @param forSamples with all that helps whoever makes a value */
	constructor(document: OpenapiDocument, otherWay: OtherWay, forSamples: boolean, tell: (one: Referred) => void) {
		this.#document = document;
		this.#otherWay = otherWay;
		this.#forSamples = forSamples;
		this.#tell = tell;
		this.#discriminators = discriminatorsOf(document);
		this.#old = document.version !== '3.1';
		this.#leftOut = forSamples ? new Set([...LEFT_OUT].filter((key) => !TEXTUAL.has(key))) : LEFT_OUT;
	}

	/** @throws HeronError definition.wrong for a schema of too many parts, and for what leads nowhere */
	convert({ value, file }: Node): Json {
		this.#parts = 0;
		return this.#schema(value, { file, without: NONE, bare: false });
	}

	#refer(node: Node, without: ReadonlySet<string>, bare = false): string {
		const key = `${node.file}#${node.pointer}#${bare}#${[...without].sort().join(' ')}`;
		let name = this.#names.get(key);
		if (!name) this.#names.set(key, (name = `${this.#names.size + 1}-${node.pointer.split('/').pop() || 'root'}`));
		this.#tell({ name, make: () => this.#schema(node.value, { file: node.file, without, bare }) });
		return `#/$defs/${encodeURIComponent(name.replace(/~/g, '~0').replace(/\//g, '~1'))}`;
	}

	/** Whether a property goes the other way only. */
	#otherWayOnly(schema: Json, file: string): boolean {
		const { value } = this.#document.follow({ value: schema, file, pointer: '' });
		return isObject(value) && isOn(value as JsonObject, this.#otherWay);
	}

	/** Properties of a schema and of all that it is made of (allOf) that go the other way only. */
	#namesOtherWay(given: Json, file: string, seen = new Set<Json>()): string[] {
		const { value, file: from } = this.#document.follow({ value: given, file, pointer: '' });
		if (!isObject(value) || seen.has(value)) return [];
		seen.add(value);
		const schema = value as JsonObject;
		return [
			...(isObject(schema.properties) ? Object.entries(schema.properties as JsonObject) : []).flatMap(([name, one]) =>
				this.#otherWayOnly(one, from) ? [name] : []
			),
			...(Array.isArray(schema.allOf) ? schema.allOf : []).flatMap((one) => this.#namesOtherWay(one, from, seen))
		];
	}

	#schema(given: Json, around: Around): Json {
		if (++this.#parts > MOST) throw wrong(this.#document.file, `a schema has more than ${MOST} parts`);
		if (!isObject(given)) return typeof given === 'boolean' ? given : {};
		const { file, bare } = around;
		const schema = given as JsonObject;
		const own = Array.isArray(schema.allOf) ? this.#namesOtherWay(schema, file) : [];
		const without = own.length > 0 ? new Set([...around.without, ...own]) : around.without;
		const $ref =
			typeof schema.$ref === 'string' ? this.#refer(this.#document.at(file, schema.$ref), without, bare) : undefined;
		if ($ref && this.#old) return { $ref };
		const branches = this.#discriminators.branchesOf({ value: schema, file, pointer: '' });
		const out: JsonObject = $ref ? { $ref } : {};
		for (const [key, value] of Object.entries(schema)) {
			if (key === '$ref' || key === 'allOf' || key === branches?.by) continue;
			if (this.#leftOut.has(key) || key.startsWith('x-')) continue;
			const wrong = misused(key, value);
			const usable = wrong ? wrong.value : value;
			if (usable !== undefined) out[key] = this.#keyword(key, usable, file, without);
		}
		this.#addParents(out, schema, { file, without, bare });
		if (branches && !bare) this.#addBranches(out, branches, schema, file, without);
		if (Array.isArray(out.required)) {
			const properties = isObject(out.properties) ? out.properties : {};
			const names = new Set(out.required.filter((name) => typeof name === 'string'));
			out.required = [...names].filter((name) => properties[name] !== false && !without.has(name));
		}
		return modern(out, this.#old && isOn(schema, 'nullable'));
	}

	/** What a keyword says, with the schemas in it converted. */
	#keyword(key: string, value: Json, file: string, without: ReadonlySet<string>): Json {
		const elsewhere: Around = { file, without: NONE, bare: false };
		if (ONE_SCHEMA.has(key) || (key === 'items' && !Array.isArray(value))) return this.#schema(value, elsewhere);
		if ((SCHEMA_LIST.has(key) || key === 'items') && Array.isArray(value)) {
			const there = SAME_OBJECT.has(key) ? { ...elsewhere, without } : elsewhere;
			return value.map((one) => this.#schema(one, there));
		}
		if (!NAMED_SCHEMAS.has(key) || !isObject(value)) return value;
		return Object.fromEntries(
			Object.entries(value as JsonObject).map(([name, one]) => [
				name,
				key === 'properties' && this.#otherWayOnly(one, file) ? false : this.#schema(one, elsewhere)
			])
		);
	}

	#addParents(out: JsonObject, schema: JsonObject, { file, without, bare }: Around): void {
		const parents = Array.isArray(schema.allOf) ? schema.allOf : [];
		if (parents.length === 0) return;
		const child = bare || this.#discriminators.isComponent(schema);
		out.allOf = parents.map((one) => this.#schema(one, { file, without, bare: child }));
		const named = this.#forSamples && child ? this.#nameAmong(schema, parents, file) : undefined;
		if (named) out[NAMED] = named;
	}

	#addBranches(
		out: JsonObject,
		branches: Branches,
		schema: JsonObject,
		file: string,
		without: ReadonlySet<string>
	): void {
		if (this.#forSamples)
			out[CHOICES] = branches.named
				.filter(({ node }) => node.value !== schema)
				.map(({ values, node }) => ({
					property: branches.property,
					value: values[0] ?? '',
					values,
					schema: { $ref: this.#refer(node, without) }
				}));
		const parts = chosen(
			branches,
			// a schema may be one of its own branches: that it is already
			(node) => node.value === schema || { $ref: this.#refer(node, without) },
			({ value }) => this.#schema(value, { file, without, bare: false })
		);
		if (parts.length > 0) out.allOf = [...((out.allOf as Json[] | undefined) ?? []), ...parts];
	}

	/** What the discriminator of a parent calls a schema. */
	#nameAmong(schema: JsonObject, parents: Json[], file: string): JsonObject | undefined {
		for (const one of parents) {
			const parent = this.#document.follow({ value: one, file, pointer: '' });
			if (!isObject(parent.value)) continue;
			const branches = this.#discriminators.branchesOf(parent as Node<JsonObject>);
			const [value] = branches?.named.find(({ node }) => node.value === schema)?.values ?? [];
			if (branches && value !== undefined) return { property: branches.property, value };
		}
		return undefined;
	}
}

const isSchemaList = (value: Json): boolean => Array.isArray(value) && value.length > 0;

/** Changes what OpenAPI 3.0 (section 4.7.24) and 2.0 say in another way, and leaves out what cannot be meant. */
function modern(out: JsonObject, nullable: boolean): JsonObject {
	// what no schema may say is told by the document's warnings
	if (out.required !== undefined && !Array.isArray(out.required)) delete out.required;
	for (const key of NAMED_SCHEMAS) if (out[key] !== undefined && !isObject(out[key])) delete out[key];
	for (const key of SCHEMA_LIST) if (out[key] !== undefined && !isSchemaList(out[key])) delete out[key];
	if (typeof out.pattern === 'string' && !isPattern(out.pattern)) delete out.pattern;
	if (out.type !== undefined) {
		const types = new Set([out.type].flat().filter((one) => typeof one === 'string' && TYPES.has(one)));
		if (types.size === 0) delete out.type;
		else if (Array.isArray(out.type)) out.type = [...types];
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
		if (out.items.length > 0) out.prefixItems = out.items;
		delete out.items;
	}
	return out;
}
