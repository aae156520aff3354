import { lookUp } from '../model/lookup.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { setIn } from '../model/path.ts';
import { shortened } from '../model/shortened.ts';
import { keysOf, nameOf as operationName, ownPlace, parametersOf, type OpenapiOperation } from '../openapi/index.ts';
import type { Wanted } from '../imports/index.ts';
import { checksOf, selectorOfRuntime } from './criteria.ts';
import { nameOf, OWN } from './values.ts';

/** The objects of a list; none where it is no list. */
export const list = (value: Json | undefined): JsonObject[] =>
	Array.isArray(value) ? (value as Json[]).filter((one): one is JsonObject => isObject(one)) : [];
/** An object, empty where it is none. */
export const record = (value: Json | undefined): JsonObject => (isObject(value) ? (value as JsonObject) : {});

/** A description that workflows speak of, with its operations. */
export interface Source {
	name: string;
	operations: OpenapiOperation[];
	connection: string;
	prefix: string;
	/** The base of its connection as far as it is known, to tell operations that live elsewhere. */
	base: string;
}

/** What is known while a workflow is read. */
export interface Reading {
	root: JsonObject;
	sources: Source[];
	wanted: Wanted;
	/** Of the collection. */
	connection: string;
	/** Ids of scenarios by those of workflows. */
	idOf: ReadonlyMap<string, string>;
	at: (string | number)[];
	tell(at: (string | number)[], message: string): void;
	/** Operations that steps call. */
	used: Set<string>;
}

/** Something that may be referred to among components (Arazzo 1.0.1 section 4.6.10). */
function resolved(given: JsonObject, root: JsonObject): JsonObject | undefined {
	if (typeof given.reference !== 'string') return given;
	const [, kind = '', key = ''] = /^\$components\.(\w+)\.(.+)$/.exec(given.reference) ?? [];
	const found = record(record(root.components)[kind])[key];
	if (!isObject(found)) return undefined;
	return { ...(found as JsonObject), ...(given.value === undefined ? {} : { value: given.value }) };
}

type Value = (given: Json, where: (string | number)[]) => Json;

/** A step that calls another workflow. */
export function callStep(
	step: JsonObject,
	{ idOf, at, tell, root }: Reading,
	value: Value,
	where: (string | number)[]
): JsonObject | undefined {
	const id = idOf.get(String(step.workflowId).replace(/^\$workflows\./, ''));
	if (!id) {
		tell([...at, ...where], `the workflow ${String(step.workflowId)} is not in this document`);
		return undefined;
	}
	const given = list(step.parameters).flatMap((one) => {
		const found = resolved(one, root);
		return found
			? [[nameOf(String(found.name)), value(found.value ?? null, [...where, 'parameters'])] as [string, Json]]
			: [];
	});
	return {
		id: nameOf(String(step.stepId)),
		call: id,
		...(given.length > 0 ? { with: Object.fromEntries(given) } : {}),
		...(record(step[OWN]).once === true ? { once: true } : {})
	};
}

/** The template of an operation, its parameters in their styles (OpenAPI 3.1 section 4.8.12.3 as RFC 6570 says it). */
function styledTemplate(operation: OpenapiOperation): string {
	const signs: Record<string, string> = { matrix: ';', label: '.' };
	return parametersOf(operation).reduce((template, { in: place, name, style, explode }) => {
		const sign = place === 'path' ? lookUp(signs, style) : undefined;
		return sign ? template.replace(`{${name}}`, `{${sign}${name}${explode ? '*' : ''}}`) : template;
	}, operation.template);
}

const PLACES: Record<string, string> = { path: 'path', query: 'query', header: 'headers', cookie: 'cookies' };

/** A step that calls an operation. */
export function sendStep(
	step: JsonObject,
	shared: JsonObject[],
	reading: Reading,
	value: Value,
	where: (string | number)[]
): JsonObject | undefined {
	const { sources, connection, used } = reading;
	const tell = (more: (string | number)[], message: string) =>
		reading.tell([...reading.at, ...where, ...more], message);
	const found = operationFor(step, sources);
	if (!found) {
		const name = String(step.operationId ?? step.operationPath ?? step.stepId);
		tell([], `${name} is no operation of the documents that are here`);
		return undefined;
	}
	const { source, operation } = found;
	used.add(operationName(operation));
	const own = record(step[OWN]);
	const out: JsonObject = { id: nameOf(String(step.stepId)) };
	if (typeof step.description === 'string' && step.description)
		out.title = step.description.split('\n')[0]!.slice(0, 200);
	const query = typeof own.query === 'string' && own.query ? `?${own.query}` : '';
	const before = ownPlace(operation, source.base) ?? source.prefix;
	const path = typeof own.target === 'string' && own.target ? own.target : `${before}${styledTemplate(operation)}`;
	out.send = `${operation.method} ${path}${query}`;
	if (source.connection !== connection && source.connection) out.connection = source.connection;
	const parameters = list(step.parameters);
	const { root } = reading;
	const all = [...shared.filter((one) => !parameters.some((other) => same(one, other, root))), ...parameters];
	for (const one of all) {
		const parameter = resolved(one, root);
		const place = parameter && lookUp(PLACES, String(parameter.in));
		if (!parameter || !place) {
			tell(['parameters'], `a parameter that is nowhere: ${shortened(writeJson(one), 80)}`);
			continue;
		}
		const given = value(parameter.value ?? '', [...where, 'parameters']);
		out[place] = {
			...record(out[place]),
			[String(parameter.name)]: typeof given === 'object' && given !== null ? writeJson(given) : given
		};
	}
	const body = bodyOf(record(step.requestBody), value, where, (message) => tell(['requestBody'], message));
	if (body) out.body = typeof own.schema === 'string' ? { ...body, schema: own.schema } : body;
	else if (own.body !== undefined) out.body = own.body;
	const checks = [
		...criteriaOf(step, tell).map(([one, at]) => value(one, [...where, ...at])),
		...(Array.isArray(own.checks) ? (own.checks as Json[]) : [])
	];
	if (checks.length > 0) out.checks = checks;
	const keep = { ...keptBy(step, tell), ...record(own.keep) };
	if (Object.keys(keep).length > 0) out.keep = keep;
	return Object.assign(out, retryOf(step, root, tell), record(own.more));
}

/** Tells of a place within a step. */
type TellWithin = (at: (string | number)[], message: string) => void;

/** The criteria of success as checks, each with its place. */
function criteriaOf(step: JsonObject, tell: TellWithin): [check: Json, at: (string | number)[]][] {
	return list(step.successCriteria).flatMap((criterion, index) => {
		const at = ['successCriteria', index];
		const equal = checksOf(criterion);
		if (!equal) tell(at, `the criterion ${String(criterion.condition)} has no equal here`);
		return (equal ?? []).map((one): [Json, (string | number)[]] => [one, at]);
	});
}

/** The outputs as selectors of what is kept. */
function keptBy(step: JsonObject, tell: TellWithin): JsonObject {
	const keep: JsonObject = {};
	for (const [name, source] of Object.entries(record(step.outputs))) {
		const selector = typeof source === 'string' ? selectorOfRuntime(source) : undefined;
		if (selector) keep[nameOf(name)] = selector;
		else tell(['outputs', name], `${String(source)} cannot be kept here`);
	}
	return keep;
}

/** What is done after a failure, as far as it is to try again; other actions have no equal. */
function retryOf(step: JsonObject, root: JsonObject, tell: TellWithin): JsonObject {
	const out: JsonObject = {};
	for (const key of ['onSuccess', 'onFailure'])
		list(step[key]).forEach((action, index) => {
			const what = resolved(action, root);
			if (key === 'onFailure' && what?.type === 'retry') {
				const every = typeof what.retryAfter === 'number' ? `${what.retryAfter * 1000} ms` : undefined;
				const times = typeof what.retryLimit === 'number' ? what.retryLimit : 1;
				out.retry = { times, ...(every ? { every } : {}) };
			} else tell([key, index], `the action ${String(what?.type ?? action.reference)} has no equal here`);
		});
	return out;
}

const same = (a: JsonObject, b: JsonObject, root: JsonObject): boolean => {
	const [one, other] = [resolved(a, root), resolved(b, root)];
	return one?.name === other?.name && one?.in === other?.in;
};

function operationFor(
	step: JsonObject,
	sources: Source[]
): { source: Source; operation: OpenapiOperation } | undefined {
	const { operationId, operationPath } = step;
	if (typeof operationId === 'string') {
		const [, name, own = operationId] = /^\$sourceDescriptions\.([\w-]+)\.(.+)$/.exec(operationId) ?? [];
		for (const source of sources.filter((one) => !name || one.name === name)) {
			const operation = source.operations.find(({ id }) => id === own);
			if (operation) return { source, operation };
		}
	}
	if (typeof operationPath !== 'string') return undefined;
	const [, name, pointer = ''] = /^\{?\$sourceDescriptions\.([\w-]+)\.url\}?(#.*)$/.exec(operationPath) ?? [];
	const [, template, method] = keysOf(pointer.slice(1)).map(String);
	const source = sources.find((one) => one.name === name);
	const operation = source?.operations.find((one) => one.template === template && one.method.toLowerCase() === method);
	return source && operation ? { source, operation } : undefined;
}

function bodyOf(
	given: JsonObject,
	value: Value,
	where: (string | number)[],
	tell: (message: string) => void
): JsonObject | undefined {
	if (given.payload === undefined) return undefined;
	let payload: Json = given.payload;
	for (const replacement of list(given.replacements)) {
		const target =
			typeof replacement.target === 'string' && /^\//.test(replacement.target) ? keysOf(replacement.target) : undefined;
		if (!target || typeof payload !== 'object')
			tell(`the replacement of ${String(replacement.target)} has no equal here`);
		else
			payload = setIn(
				payload,
				target.map((key) => (/^\d+$/.test(String(key)) ? Number(key) : key)),
				replacement.value ?? null
			);
	}
	const type = typeof given.contentType === 'string' ? given.contentType : 'application/json';
	const plain = type.split(';')[0]!.trim().toLowerCase();
	const data = value(payload, [...where, 'requestBody']);
	const own = (usual: string): JsonObject => (type === usual ? {} : { type });
	if (plain === 'application/x-www-form-urlencoded' && isObject(data)) return { form: data };
	if (/xml/.test(plain) && typeof data === 'string') return { xml: data, ...own('application/xml') };
	if (/json/.test(plain)) return { json: data, ...own('application/json') };
	return { text: typeof data === 'string' ? data : writeJson(data), ...own('text/plain') };
}
