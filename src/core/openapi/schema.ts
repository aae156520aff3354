import { unescapeAddress } from '../values/index.ts';
import type { SchemaByItself } from '../checks/index.ts';
import { HeronError } from '../errors.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { Node, OpenapiDocument } from './document.ts';
import { SchemaConverter, type OtherWay, type Referred } from './schema-converter.ts';

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

/** A converted schema, and those that it refers to itself. */
interface Converted {
	value: Json;
	refers: Map<string, Referred>;
}
/** The schemas of a document that others refer to, for one way, each converted once. */
class Family {
	readonly #converter: SchemaConverter;
	readonly #made = new Map<string, Converted>();
	#told = new Map<string, Referred>();

	constructor(document: OpenapiDocument, otherWay: OtherWay) {
		this.#converter = new SchemaConverter(document, otherWay, false, (one) => void this.#told.set(one.name, one));
	}

	/** @throws HeronError definition.wrong for what leads nowhere */
	alone(start: Node): JsonObject {
		const top = this.#convert(() => this.#converter.convert(start));
		const $defs: JsonObject = {};
		const waiting = [...top.refers.values()];
		for (let next = waiting.pop(); next; next = waiting.pop()) {
			if (Object.hasOwn($defs, next.name)) continue;
			const made = this.#made.get(next.name) ?? this.#convert(next.make);
			this.#made.set(next.name, made);
			$defs[next.name] = made.value;
			waiting.push(...made.refers.values());
		}
		if (!isObject(top.value)) return top.value === false ? { not: {} } : {};
		return sharing((Object.keys($defs).length > 0 ? { ...top.value, $defs } : top.value) as JsonObject, this);
	}

	#convert(make: () => Json): Converted {
		this.#told = new Map();
		return { value: make(), refers: this.#told };
	}
}

const alone = new WeakMap<OpenapiDocument, Partial<Record<OtherWay, Family>>>();
function schemaAlone(document: OpenapiDocument, start: Node, otherWay: OtherWay): JsonObject {
	const known = alone.get(document) ?? {};
	alone.set(document, known);
	return (known[otherWay] ??= new Family(document, otherWay)).alone(start);
}

const families = new WeakMap<JsonObject, object>();
/** Marks a schema as one of several whose $defs have the same under the same names. @param family the same for all of them */
export function sharing(schema: JsonObject, family: object): JsonObject {
	families.set(schema, family);
	return schema;
}
/** A schema for whoever judges by it. @param name what it is called in an error */
export const byItself = (schema: JsonObject, name: string): SchemaByItself => ({
	...{ schema, name },
	sharing: families.get(schema)
});

const shared = new WeakMap<
	OpenapiDocument,
	Partial<Record<OtherWay, { $defs: JsonObject; converter: SchemaConverter }>>
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
		const converter = new SchemaConverter(document, otherWay, true, ({ name, make }) => {
			if (Object.hasOwn($defs, name)) return;
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
		own[otherWay] = kept = { $defs, converter };
	}
	const top = kept.converter.convert(start);
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
