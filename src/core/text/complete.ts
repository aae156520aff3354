import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { spotAt } from './spot.ts';

/** Something that may be written at a place. */
interface Offer {
	label: string;
	/** What kind of value it is. */
	detail: string;
	/** What it is for. */
	doc: string;
	/** What is written, the label included. */
	text: string;
}
/** What can be written at a place of a text. */
export interface Offers {
	/** Where the word begins that an offer takes the place of. */
	from: number;
	offers: Offer[];
}

const DEEPEST = 24;

/** All that a schema may be: its branches and what it refers to. */
function branches(schema: Json | undefined, root: JsonObject, depth = 0): JsonObject[] {
	if (!isObject(schema) || depth > DEEPEST) return [];
	const { $ref, anyOf, oneOf, allOf } = schema;
	const target =
		typeof $ref === 'string' && $ref.startsWith('#/')
			? $ref
					.slice(2)
					.split('/')
					.reduce<Json | undefined>((at, key) => (isObject(at) ? at[key] : undefined), root)
			: undefined;
	return [schema, target, ...[anyOf, oneOf, allOf].flatMap((list) => (Array.isArray(list) ? list : []))].flatMap(
		(one, index) => (index === 0 ? [schema] : branches(one, root, depth + 1))
	);
}

/** The schemas of what is at a path. */
export function schemasAt(root: JsonObject, path: readonly (string | number)[]): JsonObject[] {
	return path.reduce<JsonObject[]>(
		(at, step) =>
			at.flatMap((schema) => {
				const { properties, additionalProperties, items } = schema;
				const below =
					typeof step === 'number'
						? items
						: isObject(properties) && Object.hasOwn(properties, step)
							? properties[step]
							: additionalProperties;
				return branches(below, root);
			}),
		branches(root, root)
	);
}

const wordsOf = (schema: JsonObject): Json[] => [
	...(Array.isArray(schema.enum) ? schema.enum : []),
	...('const' in schema ? [schema.const!] : []),
	...(schema.type === 'boolean' ? [true, false] : [])
];

function typeOf(all: readonly JsonObject[]): string {
	const types = new Set(
		all.flatMap((one) => (Array.isArray(one.type) ? one.type : one.type === undefined ? [] : [one.type]))
	);
	const words = all.flatMap((one) => (Array.isArray(one.enum) ? one.enum : []));
	return words.length > 0 ? words.slice(0, 4).join(' | ') : [...types].join(' | ');
}

/** The text of a key, with the beginning of its value. */
function keyText(key: string, all: readonly JsonObject[], flow: boolean, column: number): string {
	const types = all.flatMap((one) => one.type ?? []);
	const name = /^[\w$][\w.$/-]*$/.test(key) ? key : writeJson(key);
	if (flow || types.length !== 1) return `${name}: `;
	const margin = ' '.repeat(column + 2);
	if (types[0] === 'object') return `${name}:\n${margin}`;
	return types[0] === 'array' ? `${name}:\n${margin}- ` : `${name}: `;
}

const unique = <T extends { label: string }>(list: readonly T[]): T[] => [
	...new Map(list.map((one) => [one.label, one])).values()
];

/**
 * What may be written at a place of a YAML file, by the JSON Schema (2020-12) of the file.
 * @param offset in UTF-16 code units
 * @param namesFor names that the value of a key may be, such as those of connections
 */
export function offersAt(
	schema: JsonObject,
	text: string,
	offset: number,
	namesFor: (path: readonly (string | number)[]) => readonly string[] = () => []
): Offers | undefined {
	const spot = spotAt(text, offset);
	if (!spot) return undefined;
	const { path, key, word, from, flow, column } = spot;
	const values = (at: readonly (string | number)[]): Offer[] => [
		...namesFor(at).map((name) => ({ label: name, detail: '', doc: '', text: name })),
		...schemasAt(schema, at).flatMap((one) =>
			wordsOf(one).map((value) => ({
				label: String(value),
				detail: '',
				doc: typeof one.description === 'string' ? one.description : '',
				text: typeof value === 'string' && !/^[A-Za-z_][\w-]*$/.test(value) ? writeJson(value) : String(value)
			}))
		)
	];
	if (key !== undefined) return { from, offers: unique(values([...path, key])) };
	if (!/^[\w$.-]*$/.test(word)) return undefined;
	const at = schemasAt(schema, path);
	const taken = new Set(spot.keys);
	const keys = at.flatMap(({ properties }): Offer[] =>
		isObject(properties)
			? Object.entries(properties)
					.filter(([name]) => !taken.has(name))
					.map(([name, below]) => {
						const all = branches(below, schema);
						const doc = all.map((one) => one.description).find((one) => typeof one === 'string');
						return { label: name, detail: typeOf(all), doc: doc ?? '', text: keyText(name, all, flow, column) };
					})
			: []
	);
	return { from, offers: unique([...keys, ...values(path)]) };
}
