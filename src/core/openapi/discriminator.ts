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

const kept = new WeakMap<OpenapiDocument, Discriminators>();
/** Tells which schemas of a document a discriminator names; once for each document, which may have thousands. */
export function discriminatorsOf(document: OpenapiDocument): Discriminators {
	let made = kept.get(document);
	if (!made) kept.set(document, (made = new Discriminators(document)));
	return made;
}

type Named = [name: string, node: Node];
/** A branch, and the name that it bears. */
type Listed = [name: string | undefined, node: Node];

class Discriminators {
	readonly #document: OpenapiDocument;
	readonly #components: Named[];
	readonly #values: ReadonlySet<Json>;
	readonly #byName: ReadonlyMap<string, Node>;
	readonly #known = new Map<Json, Branches | undefined>();
	/** Components by what they are made of directly, once somebody asks. */
	#made: Map<Json, Named[]> | undefined;

	constructor(document: OpenapiDocument) {
		this.#document = document;
		this.#components = componentsIn(document.root);
		this.#values = new Set(this.#components.map(([, { value }]) => value));
		// of two with one name the first is meant
		this.#byName = new Map([...this.#components].reverse());
	}

	/** Whether a schema is a component: what it is made of by `allOf` is then a parent, judged without its other children. */
	isComponent(schema: Json): boolean {
		return this.#values.has(schema);
	}

	/** @throws HeronError definition.wrong for a mapping that leads nowhere */
	branchesOf(node: Node<JsonObject>): Branches | undefined {
		if (node.value.discriminator === undefined) return undefined;
		if (!this.#known.has(node.value)) this.#known.set(node.value, this.#branchesIn(node));
		return this.#known.get(node.value);
	}

	#branchesIn(node: Node<JsonObject>): Branches | undefined {
		const { discriminator } = node.value;
		const property = isObject(discriminator) ? discriminator.propertyName : discriminator;
		if (typeof property !== 'string') return undefined;
		const mapping = this.#mappingOf(node);
		const by = (['oneOf', 'anyOf'] as const).find((key) => Array.isArray(node.value[key])) ?? 'allOf';
		const listed = this.#listedBy(node, by);
		const all = new Map<Json, { values: string[]; node: Node }>();
		const add = (value: string, one: Node) => {
			const found = all.get(one.value);
			if (found) found.values.push(value);
			else all.set(one.value, { values: [value], node: one });
		};
		for (const [value, one] of mapping) add(value, one);
		const taken = new Set(mapping.map(([value]) => value));
		const own = by === 'allOf' ? undefined : this.#valuesOfTheirOwn(listed, property);
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
			required: by === 'allOf' || named.some(({ node: one }) => this.#asksFor(one, property))
		};
	}

	#mappingOf({ value: { discriminator }, file }: Node<JsonObject>): [value: string, node: Node][] {
		if (!isObject(discriminator) || !isObject(discriminator.mapping)) return [];
		return Object.entries(discriminator.mapping as JsonObject).map(([value, meant]) => [
			value,
			this.#mapped(String(meant), file)
		]);
	}

	/** The schema that a mapping means: a name of a component, or a reference. */
	#mapped(meant: string, file: string): Node {
		const named = this.#byName.get(meant);
		if (named) return this.#document.follow(named);
		try {
			return this.#document.follow(this.#document.at(file, meant));
		} catch (cause) {
			throw wrong(file, `a discriminator maps to ${meant}, and nothing is there`, cause);
		}
	}

	#listedBy(node: Node<JsonObject>, by: Branches['by']): Listed[] {
		if (by === 'allOf') return this.#childrenOf(node.value).map(([name, one]) => [name, this.#document.follow(one)]);
		return items(inside(node, by)).map((one) => {
			const reference = refOf(one);
			return reference === undefined ? [undefined, one] : [nameIn(reference), this.#document.follow(one)];
		});
	}

	/** What the parts of allOf are, references followed. */
	#partsOf(node: Node): Node[] {
		if (!isObject(node.value)) return [];
		return items(inside(node as Node<JsonObject>, 'allOf')).map((one) => this.#document.follow(one));
	}

	#madeOf(parent: Json): Named[] {
		if (!this.#made) {
			this.#made = new Map();
			for (const one of this.#components)
				for (const { value } of this.#partsOf(one[1])) {
					const others = this.#made.get(value);
					if (others) others.push(one);
					else this.#made.set(value, [one]);
				}
		}
		return this.#made.get(parent) ?? [];
	}

	/** Components that are made of another one, directly or by others. */
	#childrenOf(parent: Json): Named[] {
		const below = new Set<Json>();
		const waiting = [parent];
		for (let next = waiting.pop(); next !== undefined; next = waiting.pop())
			for (const [, { value }] of this.#madeOf(next))
				if (!below.has(value)) {
					below.add(value);
					waiting.push(value);
				}
		const candidates = below.size === 0 ? [] : this.#components.filter(([, { value }]) => below.has(value));
		const family = new Set([parent]);
		const found: Named[] = [];
		for (let before = -1; before < found.length;) {
			before = found.length;
			for (const [name, node] of candidates)
				if (!family.has(node.value) && this.#partsOf(node).some(({ value }) => family.has(value))) {
					family.add(node.value);
					found.push([name, node]);
				}
		}
		return found;
	}

	#asksFor(node: Node, property: string, seen = new Set<Json>()): boolean {
		if (!isObject(node.value) || seen.has(node.value)) return false;
		seen.add(node.value);
		const { required } = node.value as JsonObject;
		return (
			(Array.isArray(required) && required.includes(property)) ||
			this.#partsOf(node).some((part) => this.#asksFor(part, property, seen))
		);
	}

	/** The texts that a schema allows a property, where it lists them. */
	#textsOf(node: Node, property: string, seen = new Set<Json>()): string[] {
		if (!isObject(node.value) || seen.has(node.value)) return [];
		seen.add(node.value);
		const properties = inside(node as Node<JsonObject>, 'properties');
		const given = isObject(properties.value) ? inside(properties as Node<JsonObject>, property) : undefined;
		const { value } = given?.value === undefined ? { value: undefined } : this.#document.follow(given as Node);
		const texts = listedBy(value).filter((one): one is string => typeof one === 'string');
		return texts.length > 0 ? texts : this.#partsOf(node).flatMap((part) => this.#textsOf(part, property, seen));
	}

	/**
	 * The values of branches whose names are none: where each lists its own, and none its name, those are meant by all
	 * who send them. Undefined where a name is one, or two branches have the same.
	 */
	#valuesOfTheirOwn(listed: readonly Listed[], property: string): Map<string, string[]> | undefined {
		const found = new Map<string, string[]>();
		for (const [name, node] of listed)
			if (name !== undefined) {
				const texts = [...new Set(this.#textsOf(node, property))];
				if (texts.length === 0 || texts.includes(name)) return undefined;
				found.set(name, texts);
			}
		const all = [...found.values()].flat();
		return new Set(all).size === all.length ? found : undefined;
	}
}

/** The values that a schema allows by `const` or `enum`. */
function listedBy(schema: Json | undefined): Json[] {
	if (!isObject(schema)) return [];
	if ('const' in schema) return [schema.const!];
	return Array.isArray(schema.enum) ? schema.enum : [];
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
