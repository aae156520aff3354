import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { plainName, singular } from '../model/name.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { flatSchema } from './flat.ts';
import { isOn } from './keywords.ts';
import { expressionOf, selectorOf, type Link } from './links.ts';
import { nameOf, type OpenapiOperation } from './operations.ts';
import { parametersOf } from './parameters.ts';
import { shapeOf } from './scalar.ts';
import { CHOICES } from './schema-converter.ts';
import { merged, typeOf } from './schema-parts.ts';
import { answersHeader, jsonSchemaIn, successOf, successSchema } from './success.ts';
import { routeOf } from './variants.ts';

/** A value that a step keeps of its answer for a later one. */
export interface Given {
	/** The name under which it is kept, and where it stands. */
	keep: { name: string; selector: string };
	/** The expression that gives it; `$steps.ID` stands for the step. */
	value: string;
	/** Why it is believed to be the one that is wanted. */
	why: string;
}

/** What a step keeps as it stands. */
export const kept = (name: string, selector: string, why: string): Given => ({
	keep: { name, selector },
	value: `$steps.ID.${name}`,
	why
});

/**
 * Where the answer of an operation says which thing another one is about.
 *
 * @param thing the path that ends in the parameter: `/bookings/{reference}`
 * @param links what the document says of the answer of `first`
 */
export function givenFor(
	first: OpenapiOperation,
	other: OpenapiOperation,
	parameter: string,
	thing: string,
	links: readonly Link[] = []
): Given | undefined {
	const name = keepName(parameter);
	for (const link of links) {
		const expression = link.to === other ? expressionOf(link, 'path', parameter) : undefined;
		const selector = selectorOf(expression);
		if (selector)
			return kept(
				name,
				selector,
				`the link ${link.name} of ${nameOf(first)} says so: ${parameter} is ${String(expression)}`
			);
	}
	const wanted = parametersOf(other).find((one) => one.in === 'path' && one.name === parameter);
	// what is one of a few words names no thing
	if (wanted && Array.isArray(flatSchema(wanted.schema, wanted.schema).enum)) return undefined;
	const types = wanted ? shapeOf(wanted.schema, wanted.schema).types : [];
	const segment = lastWord(thing);
	const place =
		plainPlace(first, parameter, segment, types) ?? placeIn(successSchema(first), parameter, segment, types);
	if (place)
		return kept(
			name,
			jsonPathOf(place),
			`${nameOf(first)} answers ${jsonPathOf(place)}, and {${parameter}} of ${thing} is called ${similar(parameter, place)}`
		);
	if (first.method === 'POST' && answersHeader(first, 'location'))
		return {
			keep: { name: 'location', selector: 'header:Location' },
			// some end in a slash
			value: '$split($steps.ID.location, "/")[$ != ""][-1]',
			why: `${nameOf(first)} answers a Location, and its last part is {${parameter}} of ${thing}`
		};
	return undefined;
}

const similar = (parameter: string, place: (string | number)[]): string =>
	plainName(String(place.at(-1))) === plainName(parameter) ? 'the same' : 'alike';

/** A name as a step may keep a value under. */
export const keepName = (parameter: string): string =>
	parameter.replace(/\W+/g, '_').replace(/^(\d)/, '_$1') || 'value';

/** `/bookings/{reference}` is about bookings. */
const lastWord = (template: string): string =>
	routeOf(template)
		.split('/')
		.filter((part) => part !== '' && !part.includes('{'))
		.at(-1) ?? '';

/** Names by which a value may stand in an answer, the likeliest first. */
function namesFor(parameter: string, segment: string): string[] {
	const name = plainName(parameter);
	const thing = singular(plainName(segment));
	// the last word of a name: bookingId, booking_id, and bookingid where it is about bookings
	const [, last] =
		/(?:^|[^A-Za-z0-9]|(?<=[a-z0-9])(?=[A-Z]))([A-Za-z0-9]+)$/.exec(parameter.replace(/ID$/, 'Id')) ?? [];
	const word = (last ?? '').toLowerCase();
	const ending = [word, name.startsWith(thing) ? name.slice(thing.length) : ''].find((one) =>
		/^(id|uuid|guid|ref|reference|key|code|number|no|name|slug|sha)$/.test(one)
	);
	return [
		...new Set([name, ...(ending ? [ending, thing + ending] : []), ...(ending && ending !== 'name' ? ['id'] : [])])
	];
}

/** So deep is a value looked for, and in so many schemas. */
const DEEPEST = 5;
const MOST_SCHEMAS = 5000;

/**
 * Where a value stands in an answer that a parameter may mean: the likeliest name, and of several places the one that is least
 * deep. Of a list the first item serves, of alternatives the first that is not null; a schema is looked at where it comes
 * first, as whatever it holds is deeper elsewhere.
 */
function placeIn(
	answer: JsonObject | undefined,
	parameter: string,
	segment: string,
	types: string[]
): (string | number)[] | undefined {
	if (!answer) return undefined;
	const names = namesFor(parameter, segment);
	const found = new Map<string, (string | number)[]>();
	const seen = new Set<string>();
	const waiting: { schema: Json; path: (string | number)[] }[] = [{ schema: answer, path: [] }];
	for (const { schema, path } of waiting) {
		if (!isObject(schema) || waiting.length > MOST_SCHEMAS) continue;
		const { $ref } = schema as JsonObject;
		if (typeof $ref === 'string') {
			if (seen.has($ref)) continue;
			seen.add($ref);
		}
		const here = alternative(answer, flatSchema(answer, schema as JsonObject));
		const type = typeOf(here);
		if (type !== 'object' && type !== 'array') {
			const name = plainName(String(path.at(-1) ?? ''));
			if (!names.includes(name) || found.has(name) || !suits(here, type, types)) continue;
			if (name === names[0]) return path;
			found.set(name, path);
		} else if (path.length >= DEEPEST) continue;
		else if (type === 'array') {
			const first = Array.isArray(here.prefixItems) ? here.prefixItems[0] : here.items;
			if (first !== undefined) waiting.push({ schema: first, path: [...path, 0] });
		} else
			for (const [name, schema] of Object.entries(isObject(here.properties) ? (here.properties as JsonObject) : {}))
				waiting.push({ schema, path: [...path, name] });
	}
	const name = names.find((one) => found.has(one));
	return name === undefined ? undefined : found.get(name);
}

/**
 * The likeliest name as a property of the answer itself, which is the best there can be: looked for in the document as it
 * stands, so that its schemas need not be read for it.
 */
function plainPlace(
	operation: OpenapiOperation,
	parameter: string,
	segment: string,
	types: string[]
): string[] | undefined {
	try {
		const answer = successOf(operation);
		const schema = answer && jsonSchemaIn(operation.document, answer);
		const { value } = schema ? operation.document.follow(schema) : { value: undefined };
		if (!isObject(value) || !isObject(value.properties) || value.oneOf || value.anyOf || value.allOf) return undefined;
		const [wanted] = namesFor(parameter, segment);
		const name = Object.keys(value.properties).find((one) => plainName(one) === wanted);
		const own = name === undefined ? undefined : value.properties[name];
		if (!isObject(own) || typeof own.type !== 'string' || isOn(own as JsonObject, 'writeOnly')) return undefined;
		return suits(own as JsonObject, own.type, types) ? [name!] : undefined;
	} catch {
		return undefined;
	}
}

/** A schema with the first of its alternatives that is more than null. */
function alternative(root: JsonObject, here: JsonObject): JsonObject {
	const choices = here[CHOICES];
	const lists = [
		Array.isArray(choices) ? choices.map((one) => (isObject(one) ? (one as JsonObject).schema : undefined)) : undefined,
		here.oneOf,
		here.anyOf
	];
	for (const list of lists) {
		if (!Array.isArray(list)) continue;
		const first = list.find((one) => isObject(one) && one.type !== 'null');
		if (first === undefined) continue;
		const { [CHOICES]: _, oneOf: __, anyOf: ___, ...rest } = here;
		return merged(flatSchema(root, first as JsonObject), rest);
	}
	return here;
}

/** Whether what a schema allows may stand in an address, as a parameter of these types. */
function suits(here: JsonObject, type: string, types: string[]): boolean {
	const [value] = 'const' in here ? [here.const] : Array.isArray(here.enum) ? here.enum : [];
	const own = value === undefined ? type : typeof value === 'bigint' ? 'number' : typeof value;
	const numeric = own === 'integer' || own === 'number';
	return types.includes('integer') || types.includes('number') ? numeric : numeric || own === 'string';
}
