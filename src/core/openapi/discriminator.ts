import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { inside, items, members, wrong, type Node, type OpenapiDocument } from './document.ts';

/** The schemas that a discriminator tells apart (OpenAPI 3.1 section 4.8.25, 2.0 schema object). */
export interface Branches {
	property: string;
	/** What each of the values stands for. */
	named: { values: string[]; node: Node }[];
	/** Where the branches are listed; by `allOf` they name their parent instead. */
	by: 'oneOf' | 'anyOf' | 'allOf';
	/** Listed branches that bear no name. */
	others: Node[];
	/** Whether the values that are named are all there are. */
	closed: boolean;
	/** Whether a branch asks for the property. */
	required: boolean;
}

const componentsIn = (root: Node<JsonObject>): [name: string, node: Node][] => {
	const parts = inside(root, 'components');
	return [
		...(isObject(parts.value) ? members(inside(parts as Node<JsonObject>, 'schemas')) : []),
		...members(inside(root, 'definitions'))
	];
};
const refOf = ({ value }: Node): string | undefined =>
	isObject(value) && typeof value.$ref === 'string' ? value.$ref : undefined;

const kept = new WeakMap<OpenapiDocument, ReturnType<typeof createDiscriminators>>();
/** Tells which schemas of a document a discriminator names; once for each document, which may have thousands. */
export function discriminatorsOf(document: OpenapiDocument): ReturnType<typeof createDiscriminators> {
	let made = kept.get(document);
	if (!made) kept.set(document, (made = createDiscriminators(document)));
	return made;
}

function createDiscriminators(document: OpenapiDocument) {
	const components = componentsIn(document.root);
	const values = new Set(components.map(([, { value }]) => value));
	// of two with one name the first is meant
	const byName = new Map([...components].reverse());
	const known = new Map<Json, Branches | undefined>();
	/** What the parts of allOf are, references followed. */
	const partsOf = (node: Node): Node[] =>
		isObject(node.value) ? items(inside(node as Node<JsonObject>, 'allOf')).map((one) => document.follow(one)) : [];

	let made: Map<Json, [name: string, node: Node][]> | undefined;
	/** Components by what they are made of directly. */
	function madeOf(parent: Json): [name: string, node: Node][] {
		if (!made) {
			made = new Map();
			for (const one of components)
				for (const { value } of partsOf(one[1])) {
					const others = made.get(value);
					if (others) others.push(one);
					else made.set(value, [one]);
				}
		}
		return made.get(parent) ?? [];
	}
	/** Components that are made of another one, directly or by others. */
	function childrenOf(parent: Json): [name: string, node: Node][] {
		const below = new Set<Json>();
		const waiting = [parent];
		for (let next = waiting.pop(); next !== undefined; next = waiting.pop())
			for (const [, { value }] of madeOf(next))
				if (!below.has(value)) {
					below.add(value);
					waiting.push(value);
				}
		const candidates = below.size === 0 ? [] : components.filter(([, { value }]) => below.has(value));
		const family = new Set([parent]);
		const found: [name: string, node: Node][] = [];
		for (let before = -1; before < found.length;) {
			before = found.length;
			for (const [name, node] of candidates)
				if (!family.has(node.value) && partsOf(node).some(({ value }) => family.has(value))) {
					family.add(node.value);
					found.push([name, node]);
				}
		}
		return found;
	}

	/** The schema that a mapping means: a name of a component, or a reference. */
	function mapped(meant: string, file: string): Node {
		const named = byName.get(meant);
		if (named) return document.follow(named);
		try {
			return document.follow(document.at(file, meant));
		} catch (cause) {
			throw wrong(file, `a discriminator maps to ${meant}, and nothing is there`, cause);
		}
	}

	function asksFor(node: Node, property: string, seen = new Set<Json>()): boolean {
		if (!isObject(node.value) || seen.has(node.value)) return false;
		seen.add(node.value);
		const { required } = node.value as JsonObject;
		return (
			(Array.isArray(required) && required.includes(property)) ||
			partsOf(node).some((part) => asksFor(part, property, seen))
		);
	}

	/** The texts that a schema allows a property, where it lists them. */
	function textsOf(node: Node, property: string, seen = new Set<Json>()): string[] {
		if (!isObject(node.value) || seen.has(node.value)) return [];
		seen.add(node.value);
		const properties = inside(node as Node<JsonObject>, 'properties');
		const given = isObject(properties.value) ? inside(properties as Node<JsonObject>, property) : undefined;
		const { value } = given?.value === undefined ? { value: undefined } : document.follow(given as Node);
		const listed = isObject(value)
			? 'const' in value
				? [value.const]
				: Array.isArray(value.enum)
					? value.enum
					: []
			: [];
		const texts = listed.filter((one): one is string => typeof one === 'string');
		return texts.length > 0 ? texts : partsOf(node).flatMap((part) => textsOf(part, property, seen));
	}

	/**
	 * The values of branches whose names are none: where each lists its own, and none its name, those are meant by all
	 * who send them. Undefined where a name is one, or two branches have the same.
	 */
	function valuesOfTheirOwn(
		listed: [name: string | undefined, node: Node][],
		property: string
	): Map<string, string[]> | undefined {
		const found = new Map<string, string[]>();
		for (const [name, node] of listed)
			if (name !== undefined) {
				const texts = [...new Set(textsOf(node, property))];
				if (texts.length === 0 || texts.includes(name)) return undefined;
				found.set(name, texts);
			}
		const all = [...found.values()].flat();
		return new Set(all).size === all.length ? found : undefined;
	}

	return {
		/** Whether a schema is a component: what it is made of by `allOf` is then a parent, judged without its other children. */
		isComponent: (schema: Json): boolean => values.has(schema),

		/** @throws HeronError definition.wrong for a mapping that leads nowhere */
		branchesOf(node: Node<JsonObject>): Branches | undefined {
			if (node.value.discriminator === undefined) return undefined;
			if (!known.has(node.value)) known.set(node.value, branchesIn(node));
			return known.get(node.value);
		}
	};

	function branchesIn(node: Node<JsonObject>): Branches | undefined {
		const { discriminator } = node.value;
		const property = isObject(discriminator) ? discriminator.propertyName : discriminator;
		if (typeof property !== 'string') return undefined;
		const mapping =
			isObject(discriminator) && isObject(discriminator.mapping)
				? Object.entries(discriminator.mapping as JsonObject).map(([value, meant]): [string, Node] => [
						value,
						mapped(String(meant), node.file)
					])
				: [];
		const by = (['oneOf', 'anyOf'] as const).find((key) => Array.isArray(node.value[key])) ?? 'allOf';
		const listed: [name: string | undefined, node: Node][] =
			by === 'allOf'
				? childrenOf(node.value).map(([name, one]) => [name, document.follow(one)])
				: items(inside(node, by)).map((one) => {
						const reference = refOf(one);
						if (reference === undefined) return [undefined, one];
						return [nameIn(reference), document.follow(one)];
					});
		const all = new Map<Json, { values: string[]; node: Node }>();
		const add = (value: string, one: Node) => {
			const found = all.get(one.value);
			if (found) found.values.push(value);
			else all.set(one.value, { values: [value], node: one });
		};
		for (const [value, one] of mapping) add(value, one);
		const taken = new Set(mapping.map(([value]) => value));
		const own = by === 'allOf' ? undefined : valuesOfTheirOwn(listed, property);
		for (const [name, one] of listed)
			if (name !== undefined && !taken.has(name)) for (const value of own?.get(name) ?? [name]) add(value, one);
		const named = [...all.values()];
		if (named.length === 0) return undefined;
		return {
			property,
			named,
			by,
			others: listed.flatMap(([name, one]) => (name === undefined ? [one] : [])),
			closed: by !== 'allOf' || mapping.length > 0,
			required: by === 'allOf' || named.some(({ node: one }) => asksFor(one, property))
		};
	}
}

/** The name that a reference ends in: of a component, or of a file. */
const nameIn = (reference: string): string => {
	const [file = '', pointer = ''] = reference.split('#');
	const last = (pointer || file.replace(/\.[a-z]+$/i, '')).split('/').pop() ?? '';
	return last.replace(/~1/g, '/').replace(/~0/g, '~');
};

/** What a discriminator says, as JSON Schema. @param ref a schema that refers to a node */
export function chosen(branches: Branches, ref: (node: Node) => Json, inline: (node: Node) => Json): Json[] {
	const { property, named, by, others, closed, required } = branches;
	const allowed = named.flatMap(({ values }) => values);
	const has = { type: 'object', required: [property] };
	const says = (values: string[]): JsonObject => ({ ...has, properties: { [property]: { enum: values } } });
	const out: Json[] = named.map(({ values, node }) => ({ if: says(values), then: ref(node) }));
	if (!closed) return out;
	const one: JsonObject = { properties: { [property]: { enum: allowed } } };
	const every = [...named.map(({ node }) => ref(node)), ...others.map(inline)];
	const otherwise: JsonObject =
		others.length > 0
			? { [by]: others.map(inline) }
			: required
				? { ...has, ...one }
				: { if: has, then: one, else: { [by]: every } };
	return [...out, { if: says(allowed), else: otherwise }];
}
