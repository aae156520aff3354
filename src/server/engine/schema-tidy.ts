import { isObject, type Json, type JsonObject } from '#core/model/json.ts';
import { EXACT, exactly } from './schema-numbers.ts';

/** Keywords whose values are data, whatever stands in them. */
const DATA = new Set(['enum', 'const', 'default', 'examples', 'example', EXACT]);
/** Keywords whose values hold schemas by name. */
const NAMED = new Set(['properties', 'patternProperties', '$defs', 'definitions', 'dependentSchemas', 'dependencies']);

type Visit = (schema: JsonObject, root: JsonObject) => JsonObject;

/** A schema with all that lies in it, changed from the outside in. A part with an address of its own is a root. */
function map(value: Json, root: JsonObject, visit: Visit): Json {
	if (Array.isArray(value)) return value.map((one) => map(one, root, visit));
	if (!isObject(value)) return value;
	const schema = value as JsonObject;
	const own = typeof schema.$id === 'string' && !schema.$id.startsWith('#') ? schema : root;
	const inside = (key: string, one: Json): Json => {
		if (DATA.has(key)) return one;
		if (!NAMED.has(key) || !isObject(one)) return map(one, own, visit);
		return Object.fromEntries(Object.entries(one as JsonObject).map(([name, part]) => [name, map(part, own, visit)]));
	};
	return Object.fromEntries(Object.entries(visit(schema, own)).map(([key, one]) => [key, inside(key, one)]));
}

/** A schema with all that lies in it, each part changed. */
export const mapSchemas = (schema: JsonObject, change: (part: JsonObject) => JsonObject): JsonObject =>
	map(schema, schema, change) as JsonObject;

/** Every schema in a schema, from the outside in, as `map` visits them. */
function walk(value: Json, see: (schema: JsonObject) => void): void {
	if (Array.isArray(value)) for (const one of value) walk(one, see);
	if (!isObject(value)) return;
	const schema = value as JsonObject;
	see(schema);
	for (const [key, one] of Object.entries(schema)) {
		if (DATA.has(key)) continue;
		if (NAMED.has(key) && isObject(one)) for (const part of Object.values(one as JsonObject)) walk(part, see);
		else walk(one, see);
	}
}

/** Up to draft 7 whatever stands beside $ref is ignored; the compiler does as later drafts do. */
const refAlone: Visit = (schema) =>
	typeof schema.$ref === 'string'
		? { $ref: schema.$ref, ...(schema.definitions === undefined ? {} : { definitions: schema.definitions }) }
		: schema;

/** The compiler leaves out a property of this name; as a pattern it does not. */
const prototype: Visit = (schema) => {
	const { properties } = schema;
	if (!isObject(properties) || !Object.hasOwn(properties, '__proto__')) return schema;
	const named = Object.entries(properties as JsonObject);
	const own = named.find(([name]) => name === '__proto__')![1];
	const before = isObject(schema.patternProperties) ? (schema.patternProperties as JsonObject) : {};
	return {
		...schema,
		properties: Object.fromEntries(named.filter(([name]) => name !== '__proto__')),
		patternProperties: { ...before, '^__proto__$': own }
	};
};

/** The compiler never ends with a $ref beside an $id; one step further in it does. */
const apart: Visit = (schema) => {
	const { $ref, ...rest } = schema;
	if ($ref === undefined || rest.$id === undefined) return schema;
	return { ...rest, allOf: [...(Array.isArray(rest.allOf) ? rest.allOf : []), { $ref }] };
};

/** The compiler takes what a failing `if` has seen for seen: where that counts, it is written as a choice of two. */
const choice: Visit = ({ if: condition, then = {}, else: other = {}, ...rest }) =>
	condition === undefined
		? rest
		: {
				...rest,
				allOf: [
					...(Array.isArray(rest.allOf) ? rest.allOf : []),
					{ anyOf: [{ allOf: [condition, then] }, { allOf: [{ not: condition }, other] }] }
				]
			};

/** 2019-09 section 8.2.4.2: without $recursiveAnchor at the root it is a $ref like any other. */
const recursion: Visit = ({ $recursiveRef, ...rest }, root) =>
	$recursiveRef === undefined
		? rest
		: root.$recursiveAnchor === true
			? { ...rest, $recursiveRef }
			: { ...rest, $ref: '#' };

/** The keywords that stand anywhere in a schema. */
function keywordsIn(schema: JsonObject): Set<string> {
	const found = new Set<string>();
	walk(schema, (one) => {
		for (const key in one) found.add(key);
	});
	return found;
}

export interface Tidy {
	/** @throws Error in words for what would be judged wrongly */
	schema(schema: JsonObject): JsonObject;
	/** To be called when all that belongs together has been read. @throws Error in words */
	settle(): void;
}

/** Schemas as the compiler judges them rightly: what it does not know of a draft is said in words that it knows. */
export function createTidy(draft: string): Tidy {
	const anchors = new Map<string, number>();
	const dynamic = new Set<string>();

	/** 2020-12 section 8.2.3.2: a $dynamicRef is a $ref like any other unless several places bear the anchor that it names. */
	function dynamics(schema: JsonObject): Visit {
		const own = new Set<string>();
		walk(schema, ({ $dynamicAnchor: name }) => {
			if (typeof name !== 'string') return;
			anchors.set(name, (anchors.get(name) ?? 0) + 1);
			own.add(name);
		});
		// an anchor at the root is what the compiler knows
		const atRoot = schema.$dynamicAnchor;
		return ({ $dynamicRef, $dynamicAnchor, ...rest }) => {
			const out: JsonObject = rest;
			if (typeof $dynamicAnchor === 'string')
				out[$dynamicAnchor === atRoot ? '$dynamicAnchor' : '$anchor'] = $dynamicAnchor;
			if (typeof $dynamicRef === 'string') {
				const [before, name = ''] = $dynamicRef.split('#');
				const known = !before && own.has(name);
				const asItIs = known && name === atRoot;
				out[asItIs ? '$dynamicRef' : '$ref'] = $dynamicRef;
				if (!asItIs) dynamic.add(name);
			}
			return out;
		};
	}

	function visits(schema: JsonObject): Visit[] {
		if (/^\d$/.test(draft)) return [refAlone, exactly, prototype];
		const used = keywordsIn(schema);
		const counts = used.has('unevaluatedProperties') || used.has('unevaluatedItems') ? [choice] : [];
		if (draft === '2019-09') return [...counts, recursion, apart, exactly, prototype];
		// 2020-12 section 10.3.1.3: contains counts as seen
		if (used.has('unevaluatedItems') && used.has('contains'))
			throw new Error('unevaluatedItems together with contains cannot be judged here; prefixItems and items can');
		const anchored = used.has('$dynamicRef') || used.has('$dynamicAnchor') ? [dynamics(schema)] : [];
		return [...counts, ...anchored, apart, exactly, prototype];
	}

	return {
		schema(schema) {
			const all = visits(schema);
			return map(schema, schema, (one, root) => all.reduce((last, visit) => visit(last, root), one)) as JsonObject;
		},
		settle() {
			for (const name of dynamic)
				if ((anchors.get(name) ?? 0) > 1)
					throw new Error(
						`the way to a value decides which of ${anchors.get(name)} places $dynamicRef #${name} means: that cannot be judged here`
					);
		}
	};
}
