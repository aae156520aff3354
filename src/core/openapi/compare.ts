import { HeronError } from '../errors.ts';
import { isObject, type JsonObject } from '../model/json.ts';
import { bodiesOf } from './bodies.ts';
import { parametersOf, type Parameter } from './parameters.ts';
import { compareSchemas, LEVELS, type Level, type SchemaChange } from './compare-schema/index.ts';
import { inside, items, members, type Node, type OpenapiDocument } from './document.ts';
import { nameOf, operationsOf, type OpenapiOperation } from './operations.ts';
import { lazySchema } from './schema.ts';
import { compareSchemes, compareSecurity } from './compare-security.ts';
import { serversOf } from './servers.ts';

export { LEVELS, type Level } from './compare-schema/index.ts';

/** Something that is another one in the later of two documents. */
export interface DefinitionChange {
	level: Level;
	/** The rule by which it is judged, a word or two. */
	rule: string;
	/** `POST /bookings`; empty for the whole document. */
	operation: string;
	/** Where in the operation: `body $.nights`, `reply 200 $.state`, `query size`; empty for the operation itself. */
	place: string;
	/** What is another one, in words. */
	text: string;
}

/** `/boats/{id}` and `/boats/{boat}` are the same path. */
export const shapeOfPath = (template: string): string => template.replace(/\{[^{}]*\}/g, '{}');
const keyOf = ({ method, template }: OpenapiOperation): string => `${method} ${shapeOfPath(template)}`;
const holes = (template: string): string[] => [...template.matchAll(/\{([^{}]*)\}/g)].map(([, name = '']) => name);

/**
 * What is different between two versions of a definition for who calls the service, the breaking changes first.
 * Descriptions and examples do not count.
 */
export function compareDefinitions(before: OpenapiDocument, after: OpenapiDocument): DefinitionChange[] {
	const out: DefinitionChange[] = [];
	const tell = (level: Level, rule: string, operation: string, place: string, text: string) =>
		out.push({ level, rule, operation, place, text });
	const [was, is] = [operationsOf(before), operationsOf(after)].map(
		(list) => new Map(list.map((one) => [keyOf(one), one]))
	);
	const gone = [...was!.values()].filter((one) => !is!.has(keyOf(one)));
	const come = new Set([...is!.values()].filter((one) => !was!.has(keyOf(one))));
	for (const one of gone) {
		const moved = one.id ? [...come].find(({ id, method }) => id === one.id && method === one.method) : undefined;
		if (moved) {
			come.delete(moved);
			tell('breaking', 'operation moved', nameOf(one), '', `is at ${moved.template} now`);
			compareOperations(one, moved, tell);
		} else
			tell(
				'breaking',
				'operation removed',
				nameOf(one),
				'',
				one.node.value.deprecated === true ? 'is gone; it was deprecated' : 'is gone'
			);
	}
	for (const one of come) tell('harmless', 'operation added', nameOf(one), '', 'is new');
	for (const [key, one] of was!) {
		const now = is!.get(key);
		if (now) compareOperations(one, now, tell);
	}
	compareSchemes(before, after, (level, rule, text) => tell(level, rule, '', '', text));
	const addresses = (document: OpenapiDocument) => new Set(serversOf(document).map(({ url }) => url));
	const [old, fresh] = [addresses(before), addresses(after)];
	for (const url of old) if (!fresh.has(url)) tell('careful', 'server removed', '', '', `the server ${url} is gone`);
	for (const url of fresh) if (!old.has(url)) tell('harmless', 'server added', '', '', `the server ${url} is new`);
	return out.sort((a, b) => LEVELS.indexOf(a.level) - LEVELS.indexOf(b.level));
}

type Tell = (level: Level, rule: string, operation: string, place: string, text: string) => void;

function compareOperations(before: OpenapiOperation, after: OpenapiOperation, tellAny: Tell): void {
	const name = nameOf(before);
	const tell = (level: Level, rule: string, place: string, text: string) => tellAny(level, rule, name, place, text);
	const inSchema = (place: string, changes: SchemaChange[]) => {
		for (const one of changes) tell(one.level, one.rule, [place, one.place].filter(Boolean).join(' '), one.text);
	};
	if (before.node.value.deprecated !== true && after.node.value.deprecated === true)
		tell('careful', 'deprecated', '', 'is deprecated');
	parameters(before, after, tell, inSchema);
	bodies(before, after, tell, inSchema);
	replies(before, after, tell, inSchema);
	compareSecurity(before, after, tell);
}

type TellHere = (level: Level, rule: string, place: string, text: string) => void;
type InSchema = (place: string, changes: SchemaChange[]) => void;

function parameters(before: OpenapiOperation, after: OpenapiOperation, tell: TellHere, inSchema: InSchema): void {
	// path parameters stand for each other by their place in the path
	const named = ({ in: place, name }: Parameter, template: string) =>
		`${place} ${place === 'path' ? holes(template).indexOf(name) : place === 'header' ? name.toLowerCase() : name}`;
	const of = (operation: OpenapiOperation) =>
		new Map(
			parametersOf(operation)
				.filter(({ in: place }) => place !== 'body' && place !== 'formData')
				.map((one) => [named(one, operation.template), one])
		);
	const [was, is] = [of(before), of(after)];
	for (const [key, one] of was) {
		const place = `${one.in} ${one.name}`;
		const now = is.get(key);
		if (!now) {
			if (one.in !== 'path') tell('careful', 'parameter removed', place, 'is not known any more');
			continue;
		}
		if (now.name !== one.name && one.in === 'path')
			tell('harmless', 'parameter renamed', place, `is called ${now.name}`);
		if (!one.required && now.required) tell('breaking', 'parameter required', place, 'must be given');
		if (one.required && !now.required) tell('harmless', 'parameter optional', place, 'need not be given');
		if (one.style !== now.style || one.explode !== now.explode)
			tell(
				'breaking',
				'parameter style',
				place,
				`is written otherwise: ${one.style}${one.explode ? ', exploded' : ''} → ${now.style}${now.explode ? ', exploded' : ''}`
			);
		if (!one.deprecated && now.deprecated) tell('careful', 'deprecated', place, 'is deprecated');
		inSchema(place, compareSchemas(one.schema, now.schema, 'sent'));
	}
	for (const [key, one] of is) {
		if (was.has(key)) continue;
		const place = `${one.in} ${one.name}`;
		if (one.required && one.in !== 'path') tell('breaking', 'parameter required', place, 'is new, and must be given');
		else if (one.in !== 'path') tell('harmless', 'parameter added', place, 'may be given');
	}
}

function bodies(before: OpenapiOperation, after: OpenapiOperation, tell: TellHere, inSchema: InSchema): void {
	const of = (operation: OpenapiOperation) => new Map(bodiesOf(operation).map((one) => [mediaKey(one.type), one]));
	const [was, is] = [of(before), of(after)];
	const needed = (map: typeof was) => [...map.values()].some(({ required }) => required);
	if (!needed(was) && needed(is))
		tell('breaking', 'body required', 'body', was.size > 0 ? 'must be sent' : 'is new, and must be sent');
	if (needed(was) && !needed(is))
		tell('harmless', 'body optional', 'body', is.size > 0 ? 'need not be sent' : 'is not wanted any more');
	for (const [key, { type, schema = {} }] of was) {
		const now = is.get(key);
		if (!now) {
			if (is.size > 0) tell('breaking', 'media type removed', 'body', `${type} is not taken any more`);
		} else inSchema('body', compareSchemas(schema, now.schema ?? {}, 'sent'));
	}
	for (const [key, { type }] of is)
		if (!was.has(key) && was.size > 0) tell('harmless', 'media type added', 'body', `${type} is taken as well`);
}

const mediaKey = (type: string): string => type.toLowerCase().replace(/\s*;.*/, '');

interface Reply {
	status: string;
	/** By media type. */
	schemas: Map<string, JsonObject>;
	headers: Map<string, { required: boolean; schema: JsonObject }>;
}

/** What an operation answers; what leads nowhere is told by the document's warnings, and left out. */
function repliesOf({ document, node }: OpenapiOperation): Map<string, Reply> {
	const out = new Map<string, Reply>();
	const alone = (start: Node): JsonObject => {
		try {
			return lazySchema(document, start, 'writeOnly');
		} catch (error) {
			if (error instanceof HeronError) return {};
			throw error;
		}
	};
	for (const [status, given] of members(inside(node, 'responses'))) {
		if (status.startsWith('x-')) continue;
		let reply: Node;
		try {
			reply = document.follow(given);
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			continue;
		}
		if (!isObject(reply.value)) continue;
		const held = reply as Node<JsonObject>;
		const schemas = new Map<string, JsonObject>();
		if (document.version === '2.0') {
			const schema = inside(held, 'schema');
			const own = inside(node, 'produces');
			const types = items(own.value === undefined ? inside(document.root, 'produces') : own).map(({ value }) =>
				String(value)
			);
			if (schema.value !== undefined)
				for (const type of types.length > 0 ? types : ['application/json'])
					schemas.set(mediaKey(type), alone(schema as Node));
		} else
			for (const [type, media] of members(inside(held, 'content'))) {
				const schema = isObject(media.value) ? inside(media as Node<JsonObject>, 'schema') : undefined;
				schemas.set(mediaKey(type), schema?.value === undefined ? {} : alone(schema as Node));
			}
		const headers: Reply['headers'] = new Map();
		for (const [name, header] of members(inside(held, 'headers'))) {
			const { value } = header;
			const schema = isObject(value) ? inside(header as Node<JsonObject>, 'schema') : undefined;
			headers.set(name.toLowerCase(), {
				required: isObject(value) && value.required === true,
				schema: schema?.value === undefined ? {} : alone(schema as Node)
			});
		}
		out.set(status.toUpperCase(), { status, schemas, headers });
	}
	return out;
}

function replies(before: OpenapiOperation, after: OpenapiOperation, tell: TellHere, inSchema: InSchema): void {
	const [was, is] = [repliesOf(before), repliesOf(after)];
	for (const [key, { status, schemas, headers }] of was) {
		const place = `reply ${status}`;
		const now = is.get(key);
		if (!now) {
			const good = /^2/.test(status);
			tell(good ? 'breaking' : 'careful', 'reply removed', place, 'is not given any more');
			continue;
		}
		for (const [type, schema] of schemas) {
			const other = now.schemas.get(type);
			if (other) inSchema(place, compareSchemas(schema, other, 'received'));
			else tell('breaking', 'media type removed', place, `is not ${type} any more`);
		}
		for (const type of now.schemas.keys())
			if (!schemas.has(type))
				tell(schemas.size > 0 ? 'careful' : 'harmless', 'media type added', place, `may be ${type}`);
		for (const [name, { required, schema }] of headers) {
			const other = now.headers.get(name);
			if (!other)
				tell(required ? 'breaking' : 'careful', 'header removed', `${place} header ${name}`, 'is not there any more');
			else {
				if (required && !other.required)
					tell('careful', 'header optional', `${place} header ${name}`, 'need not be there any more');
				inSchema(`${place} header ${name}`, compareSchemas(schema, other.schema, 'received'));
			}
		}
	}
	for (const [key, { status }] of is)
		if (!was.has(key))
			tell(/^[23]/.test(status) ? 'careful' : 'harmless', 'reply added', `reply ${status}`, 'may be given as well');
}
