import { unescapeAddress } from '../values/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { plainName, singular } from '../model/name.ts';
import { jsonPathOf } from '../selectors/index.ts';
import { isJsonType } from '../model/reply.ts';
import { parametersOf } from './parameters.ts';
import { inside, members, type Node, type OpenapiDocument } from './document.ts';
import { keysOf } from './pointer.ts';
import { nameOf, type OpenapiOperation } from './operations.ts';
import { shapeOf } from './scalar.ts';
import { routeOf } from './variants.ts';
import { flatSchema } from './flat.ts';
import { merged, typeOf } from './schema-parts.ts';
import { lazySchema } from './schema.ts';
import { CHOICES } from './schema-converter.ts';

/** What a step of a chain does with the thing that it is about. */
export type Role = 'create' | 'find' | 'read' | 'replace' | 'change' | 'remove';

/** Operations on one thing, in an order that serves: what the first answers is what the others need. */
export interface Chain {
	steps: { role: Role; operation: OpenapiOperation }[];
	/** The parameter in the path that says which thing is meant. */
	parameter: string;
	/** The name under which the first step keeps it, where it stands there, and the expression that gives it. */
	keep: { name: string; selector: string };
	value: string;
	/** Why it is believed that they belong together. */
	why: string;
}

const ROLES: Record<string, Role> = { GET: 'read', PUT: 'replace', PATCH: 'change', DELETE: 'remove' };
const ORDER: Role[] = ['create', 'find', 'read', 'replace', 'change', 'remove'];

/** Chains of operations: what is created, or found in a list, is read, changed and removed. No operation is in two of them. */
export function chainsOf(operations: OpenapiOperation[]): Chain[] {
	const byPath = new Map<string, OpenapiOperation[]>();
	for (const one of operations) {
		const path = routeOf(one.template).replace(/\/+$/, '');
		byPath.set(path, [...(byPath.get(path) ?? []), one]);
	}
	const taken = new Set<OpenapiOperation>();
	const chains: Chain[] = [];
	const linked = new Map(operations.flatMap((one) => linksOf(one, operations)));
	for (const [path, all] of byPath) {
		const [, above = '', parameter] = /^(.*)\/\{([^{}/]+)\}$/.exec(path) ?? [];
		if (parameter === undefined) continue;
		const others = all.flatMap((operation) => {
			const role = ROLES[operation.method];
			return role && !taken.has(operation) ? [{ role, operation }] : [];
		});
		if (others.length === 0) continue;
		const beside = (byPath.get(above) ?? []).filter((one) => !taken.has(one));
		const create = beside.find(({ method }) => method === 'POST');
		const list = beside.find(({ method }) => method === 'GET');
		for (const [role, first] of [
			['create', create],
			['find', list]
		] as const) {
			// what is only found is not removed: it is somebody's
			const rest = role === 'create' ? others : others.filter((one) => one.role === 'read');
			if (!first || rest.length === 0) continue;
			const found = given(first, rest[0]!.operation, parameter, linked);
			if (!found) continue;
			const steps = [{ role: role as Role, operation: first }, ...rest].sort(
				(a, b) => ORDER.indexOf(a.role) - ORDER.indexOf(b.role)
			);
			for (const { operation } of steps) taken.add(operation);
			chains.push({ steps, parameter, ...found });
			break;
		}
	}
	return chains;
}

type Found = Pick<Chain, 'keep' | 'value' | 'why'>;

/** Where an answer says what a parameter of another call takes. */
function given(
	first: OpenapiOperation,
	other: OpenapiOperation,
	parameter: string,
	linked: ReadonlyMap<OpenapiOperation, Link[]>
): Found | undefined {
	const name = keepName(parameter);
	const plain = (selector: string, why: string): Found => ({
		keep: { name, selector },
		value: `$steps.ID.${name}`,
		why
	});
	for (const link of linked.get(first) ?? []) {
		const expression =
			link.to === other ? (link.parameters[parameter] ?? link.parameters[`path.${parameter}`]) : undefined;
		const selector = typeof expression === 'string' ? selectorOf(expression) : undefined;
		if (selector)
			return plain(
				selector,
				`the link ${link.name} of ${nameOf(first)} says so: ${parameter} is ${String(expression)}`
			);
	}
	const wanted = parametersOf(other).find((one) => one.in === 'path' && one.name === parameter);
	// what is one of a few words names no thing
	if (wanted && Array.isArray(flatSchema(wanted.schema, wanted.schema).enum)) return undefined;
	const types = wanted ? shapeOf(wanted.schema, wanted.schema).types : [];
	const segment = lastWord(other.template);
	const place = plainPlace(first, parameter, segment, types) ?? placeIn(answerOf(first), parameter, segment, types);
	if (place)
		return plain(
			jsonPathOf(place),
			`${nameOf(first)} answers ${jsonPathOf(place)}, and {${parameter}} of ${other.template} is called ${similar(parameter, place)}`
		);
	if (first.method === 'POST' && hasLocation(first))
		return {
			keep: { name: 'location', selector: 'header:Location' },
			// some end in a slash
			value: '$split($steps.ID.location, "/")[$ != ""][-1]',
			why: `${nameOf(first)} answers a Location, and its last part is {${parameter}} of ${other.template}`
		};
	return undefined;
}

const similar = (parameter: string, place: (string | number)[]): string =>
	plainName(String(place.at(-1))) === plainName(parameter) ? 'the same' : 'alike';

/** A name as a step may keep a value under. */
const keepName = (parameter: string): string => parameter.replace(/\W+/g, '_').replace(/^(\d)/, '_$1') || 'value';

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
		const answer = success(operation);
		const schema = answer && jsonSchemaOf(operation.document, answer);
		const { value } = schema ? operation.document.follow(schema) : { value: undefined };
		if (!isObject(value) || !isObject(value.properties) || value.oneOf || value.anyOf || value.allOf) return undefined;
		const [wanted] = namesFor(parameter, segment);
		const name = Object.keys(value.properties).find((one) => plainName(one) === wanted);
		const own = name === undefined ? undefined : value.properties[name];
		if (!isObject(own) || typeof own.type !== 'string' || own.writeOnly === true) return undefined;
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

/** The answer of an operation when all is well: its node. */
function success({ document, node }: OpenapiOperation): Node<JsonObject> | undefined {
	const answers = members(inside(node, 'responses'));
	const [, given] = answers.find(([key]) => /^2\d\d$/.test(key)) ?? answers.find(([key]) => /^2XX$/i.test(key)) ?? [];
	if (!given) return undefined;
	try {
		const found = document.follow(given);
		return isObject(found.value) ? (found as Node<JsonObject>) : undefined;
	} catch {
		return undefined;
	}
}

function jsonSchemaOf(document: OpenapiDocument, answer: Node<JsonObject>): Node | undefined {
	if (document.version === '2.0') {
		const schema = inside(answer, 'schema');
		return schema.value === undefined ? undefined : (schema as Node);
	}
	const [, media] =
		members(inside(answer, 'content')).find(([type]) => isJsonType(type.split(';')[0]!.trim().toLowerCase())) ?? [];
	const schema = media && isObject(media.value) ? inside(media as Node<JsonObject>, 'schema') : undefined;
	return schema?.value === undefined ? undefined : (schema as Node);
}

/** The schema of what an operation answers, in JSON. */
function answerOf(operation: OpenapiOperation): JsonObject | undefined {
	try {
		const answer = success(operation);
		const schema = answer && jsonSchemaOf(operation.document, answer);
		return schema && lazySchema(operation.document, schema, 'writeOnly');
	} catch {
		// what cannot be followed is told by the document's warnings
		return undefined;
	}
}

const hasLocation = (operation: OpenapiOperation): boolean => {
	const answer = success(operation);
	return answer !== undefined && members(inside(answer, 'headers')).some(([name]) => /^location$/i.test(name));
};

interface Link {
	name: string;
	to: OpenapiOperation | undefined;
	parameters: JsonObject;
}

/** What an operation's answer is good for, as the document says (OpenAPI 3.1 section 4.8.20). */
function linksOf(operation: OpenapiOperation, all: OpenapiOperation[]): [OpenapiOperation, Link[]][] {
	const answer = success(operation);
	if (!answer) return [];
	const links = members(inside(answer, 'links')).flatMap(([name, node]): Link[] => {
		try {
			const { value } = operation.document.follow(node);
			if (!isObject(value)) return [];
			const { operationId, operationRef, parameters } = value;
			const [, pointer = ''] = String(operationRef ?? '').split('#');
			const [, template, method] = keysOf(unescapeAddress(pointer));
			const to = all.find((one) =>
				operationId ? one.id === operationId : one.template === template && one.method === method?.toUpperCase()
			);
			return [{ name, to, parameters: (isObject(parameters) ? parameters : {}) as JsonObject }];
		} catch {
			return [];
		}
	});
	return links.length > 0 ? [[operation, links]] : [];
}

/** A runtime expression as a selector (OpenAPI 3.1 section 4.8.20.3); undefined for what speaks of the request. */
function selectorOf(expression: string): string | undefined {
	const [, pointer] = /^\$response\.body#(\/.*)$/.exec(expression) ?? [];
	if (pointer !== undefined) return jsonPathOf(keysOf(pointer).map((key) => (/^\d+$/.test(key) ? Number(key) : key)));
	const [, header] = /^\$response\.header\.(.+)$/.exec(expression) ?? [];
	return header === undefined ? undefined : `header:${header}`;
}
