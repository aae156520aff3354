import { isObject, type Json, type JsonObject } from '../model/json.ts';

const FORMATS: [string, RegExp][] = [
	['date-time', /^\d{4}-\d\d-\d\dT\d\d:\d\d:\d\d(\.\d+)?(Z|[+-]\d\d:\d\d)$/],
	['date', /^\d{4}-\d\d-\d\d$/],
	['uuid', /^[0-9a-f]{8}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{4}-[0-9a-f]{12}$/i],
	['uri', /^https?:\/\/\S+$/]
];

/** What was seen at one place, over all answers and items. */
interface Seen {
	times: number;
	types: Set<string>;
	/** The formats that all texts so far were of. */
	formats: Set<string> | undefined;
	properties: Map<string, Seen>;
	objects: number;
	items: Seen | undefined;
}

const fresh = (): Seen => ({
	times: 0,
	types: new Set(),
	formats: undefined,
	properties: new Map(),
	objects: 0,
	items: undefined
});

function look(seen: Seen, value: Json): void {
	seen.times++;
	if (value === null) seen.types.add('null');
	else if (Array.isArray(value)) {
		seen.types.add('array');
		seen.items ??= fresh();
		for (const item of value) look(seen.items, item);
	} else if (isObject(value)) {
		seen.types.add('object');
		seen.objects++;
		for (const [name, one] of Object.entries(value)) {
			const inner = seen.properties.get(name) ?? fresh();
			seen.properties.set(name, inner);
			look(inner, one as Json);
		}
	} else if (typeof value === 'string') {
		seen.types.add('string');
		const fits = new Set(FORMATS.filter(([, pattern]) => pattern.test(value)).map(([name]) => name));
		seen.formats = seen.formats ? new Set([...seen.formats].filter((name) => fits.has(name))) : fits;
	} else if (typeof value === 'boolean') seen.types.add('boolean');
	else seen.types.add(typeof value === 'bigint' || Number.isInteger(value) ? 'integer' : 'number');
}

function schemaOf({ types, formats, properties, objects, items }: Seen): JsonObject {
	const names = new Set(types);
	if (names.has('number')) names.delete('integer');
	const list = [...names];
	const schema: JsonObject = list.length === 1 ? { type: list[0]! } : list.length > 1 ? { type: list } : {};
	const [format] = formats ?? [];
	if (format) schema.format = format;
	if (types.has('object')) {
		schema.properties = Object.fromEntries([...properties].map(([name, inner]) => [name, schemaOf(inner)]));
		const required = [...properties].filter(([, inner]) => inner.times >= objects).map(([name]) => name);
		if (required.length > 0) schema.required = required;
	}
	if (items && items.times > 0) schema.items = schemaOf(items);
	return schema;
}

/** Values that are looked at one after the other, and the JSON Schema that all of them fit: types, formats, what is always there. */
export interface SchemaGathering {
	look(value: Json): void;
	schema(): JsonObject;
}
/** A schema that fits all values that it is shown. */
export function gatherSchema(): SchemaGathering {
	const seen = fresh();
	return { look: (value) => look(seen, value), schema: () => schemaOf(seen) };
}

/** A JSON Schema (2020-12) that all of the answers fit. */
export function inferSchema(answers: Json[]): JsonObject {
	const gathering = gatherSchema();
	for (const answer of answers) gathering.look(answer);
	return { $schema: 'https://json-schema.org/draft/2020-12/schema', ...gathering.schema() };
}
