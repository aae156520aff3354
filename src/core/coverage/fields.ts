import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { CHOICES, flatSchema, merged, permits } from '../openapi/index.ts';
import type { Call } from './call.ts';
import type { BodyPath, Point, Taken } from './point.ts';
import { tellingValues } from './values.ts';

const DEEPEST = 3;
const MOST_FIELDS = 200;

interface Place {
	/** As it is shown: `$.lines[*].pence`. */
	path: string;
	/** Alternatives on the way, as they stand behind a name: ` as Card`. */
	as: string;
	keys: BodyPath;
	taken: Taken[];
	/** Only a value that fits an alternative is one of it: what is beyond belongs to none. */
	fitting: boolean;
	/** What stands there in a call. */
	read(call: Call): Json[];
	/** The discriminator that says which alternative this is: it is told by that. */
	naming: string;
	/** What is referred to on the way here: what comes round is not looked at again. */
	above: readonly string[];
}

/**
 * Fields of a JSON body: those that may be left out both ways, values that their schemas single out and those beyond, and
 * alternatives (`oneOf`, `anyOf`, by discriminator where there is one) with the fields that each has.
 */
export const fieldsOf = (root: JsonObject): Point[] => new BodyFields(root).points();

class BodyFields {
	readonly #root: JsonObject;
	readonly #points = new Map<string, Point>();

	constructor(root: JsonObject) {
		this.#root = root;
	}

	points(): Point[] {
		this.#look(this.#root, {
			...{ path: '$', as: '', keys: [], taken: [], above: [], fitting: false, naming: '' },
			read: ({ body }) => (body === undefined ? [] : [body])
		});
		return [...this.#points.values()];
	}

	#add(point: Point, { fitting }: Place): void {
		if (!this.#points.has(point.name) && !(fitting && point.kind === 'beyond')) this.#points.set(point.name, point);
	}

	#look(given: Json, place: Place): void {
		const { path, as, read } = place;
		if (place.above.length > DEEPEST || this.#points.size > MOST_FIELDS || !isObject(given)) return;
		const reference = typeof given.$ref === 'string' ? given.$ref : path + as;
		if (place.above.includes(reference)) return;
		const schema = flatSchema(this.#root, given as JsonObject);
		if (place.above.length > 0) this.#addValues(schema, place);
		const here = { ...place, above: [...place.above, reference] };
		const branches = branchesOf(this.#root, schema);
		if (branches.length > 0) {
			for (const branch of branches) this.#branch(branch, here);
			return this.#addNone(branches, here);
		}
		if (!isObject(schema.items)) return this.#properties(schema, here);
		this.#look(schema.items as Json, {
			...here,
			path: `${path}[*]`,
			keys: [...place.keys, 0],
			naming: '',
			read: (call) => read(call).flatMap((one) => (Array.isArray(one) ? one : []))
		});
	}

	#addValues(schema: JsonObject, place: Place): void {
		const { path, as, keys, taken, read } = place;
		for (const { kind, words, value, holds } of tellingValues(this.#root, schema))
			this.#add(
				{
					kind,
					name: `body ${path} ${words}${as}`,
					wanted: { place: 'body', path: keys, taken, value },
					touches: (call) => read(call).some(holds)
				},
				place
			);
	}

	#branch({ name, schema, fits, naming }: Branch, place: Place): void {
		const { path, keys, read } = place;
		const here = {
			...place,
			as: `${place.as} as ${name}`,
			taken: [...place.taken, { path: keys, schema }],
			fitting: place.fitting || naming === '',
			naming
		};
		const own = (call: Call) => read(call).filter(fits);
		this.#add(
			{
				kind: 'choice',
				name: `body ${path}${here.as}`,
				wanted: { place: 'body', path: keys, taken: here.taken },
				touches: (call) => own(call).length > 0
			},
			place
		);
		this.#look(schema, { ...here, read: own });
	}

	/** A value that is none of the alternatives, where there can be one. */
	#addNone(branches: Branch[], place: Place): void {
		const { path, as, keys, taken, read } = place;
		const naming = branches[0]!.naming;
		const none = (value: Json) => !branches.some(({ fits }) => fits(value));
		const value = [naming ? { [naming]: 'other' } : {}, 'text', 0, [], true].find(none);
		if (value === undefined) return;
		this.#add(
			{
				kind: 'beyond',
				name: `body ${path} of none of its alternatives${as}`,
				wanted: { place: 'body', path: keys, taken, value },
				touches: (call) => read(call).some(none)
			},
			place
		);
	}

	#properties(schema: JsonObject, place: Place): void {
		const { path, as, keys, taken, read } = place;
		const required = Array.isArray(schema.required) ? schema.required : [];
		const objects = (call: Call) => read(call).filter((value): value is JsonObject => isObject(value));
		for (const [name, one] of Object.entries(isObject(schema.properties) ? (schema.properties as JsonObject) : {})) {
			// what may not be sent at all
			if (one === false || name === place.naming) continue;
			const at = /^[A-Za-z_]\w*$/.test(name) ? `${path}.${name}` : `${path}['${name}']`;
			const own = [...keys, name];
			const below = (call: Call) =>
				objects(call).flatMap((value) => (Object.hasOwn(value, name) ? [value[name]!] : []));
			this.#add(
				{
					kind: 'field',
					name: `body ${at}${as}`,
					wanted: { place: 'body', path: own, taken },
					touches: (call) => below(call).length > 0
				},
				place
			);
			this.#add(
				{
					kind: required.includes(name) ? 'beyond' : 'field',
					name: `without body ${at}${as}${required.includes(name) ? ', which is required' : ''}`,
					wanted: { place: 'body', path: own, taken, out: true },
					touches: (call) => objects(call).some((value) => !Object.hasOwn(value, name))
				},
				place
			);
			this.#look(one as Json, { ...place, path: at, keys: own, read: below, naming: '' });
		}
	}
}

interface Branch {
	name: string;
	/** With all that holds beside the alternatives. */
	schema: JsonObject;
	fits(value: Json): boolean;
	/** The property by which a value says that it is one of it; empty where none does. */
	naming: string;
}

function branchesOf(root: JsonObject, schema: JsonObject): Branch[] {
	const { [CHOICES]: choices, oneOf, anyOf, ...rest } = schema;
	const whole = (branch: JsonObject): JsonObject => merged(flatSchema(root, branch), rest);
	if (Array.isArray(choices) && choices.length > 0)
		return (choices as JsonObject[]).map((one): Branch => {
			const { property, values } = one as { property: string; values: string[] };
			const [name = ''] = values;
			return {
				name,
				// so that whatever is made of it names itself
				schema: merged(whole(one.schema as JsonObject), {
					properties: { [property]: { const: name } },
					required: [property]
				}),
				naming: property,
				fits: (value) => isObject(value) && values.includes(String(value[property]))
			};
		});
	const list = [oneOf, anyOf].find((one): one is Json[] => Array.isArray(one) && one.length > 1) ?? [];
	const names = list.map((one, at) => branchName(one, at));
	return list.flatMap((one, at): Branch[] =>
		isObject(one)
			? [
					{
						name: names.indexOf(names[at]!) === at ? names[at]! : `${names[at]} ${at + 1}`,
						schema: whole(one as JsonObject),
						naming: '',
						fits: (value) => permits(root, one as JsonObject, value)
					}
				]
			: []
	);
}

/** An alternative is called by its title, its name in the document, or its type. */
function branchName(branch: Json, at: number): string {
	if (!isObject(branch)) return `alternative ${at + 1}`;
	const { title, $ref, type } = branch as JsonObject;
	if (typeof title === 'string' && title) return title;
	// lazy schemas are numbered before their name
	if (typeof $ref === 'string') return decodeURIComponent($ref.slice($ref.lastIndexOf('/') + 1)).replace(/^\d+-/, '');
	return typeof type === 'string' ? type : `alternative ${at + 1}`;
}
