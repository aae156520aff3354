import { HeronError } from '../errors.ts';
import type { DefinitionPlan } from '../model/definition-plan.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { freeName, setIn } from '../model/path.ts';
import { parseYaml, type ParsedYaml } from '../model/yaml.ts';
import {
	filesReferred,
	keysOf,
	looksLikeOpenapi,
	nameOf as operationName,
	operationsOf,
	parametersOf,
	readOpenapi,
	type OpenapiOperation
} from '../openapi/index.ts';
import type { GivenFile, ImportOrder } from '../soap/index.ts';
import { decodeText } from '../values/index.ts';
import { baseOf } from '../project/index.ts';
import { ownPlace } from '../definitions/scenarios.ts';
import { connectionFor, environmentsWith, type Wanted } from '../definitions/services.ts';
import { checksOf, selectorOfRuntime } from './criteria.ts';
import { fromRuntime, nameOf, OWN } from './values.ts';

/** Whether a text looks like an Arazzo document. */
export const looksLikeArazzo = (text: string): boolean =>
	/^\s*(?:\{\s*)?["']?arazzo["']?\s*:\s*["']?1\./m.test(text.slice(0, 2000));

/** The files that an Arazzo document speaks of. */
export const sourcesNamedIn = (text: string): string[] =>
	list(record(parseYaml('', text).value ?? null).sourceDescriptions).flatMap(({ url }) =>
		typeof url === 'string' ? [url] : []
	);

const textOf = (bytes: Uint8Array): string => decodeText(bytes).text;
const list = (value: Json | undefined): JsonObject[] =>
	Array.isArray(value) ? (value as Json[]).filter((one): one is JsonObject => isObject(one)) : [];
const record = (value: Json | undefined): JsonObject => (isObject(value) ? (value as JsonObject) : {});

interface Source {
	name: string;
	operations: OpenapiOperation[];
	connection: string;
	prefix: string;
	/** The base of its connection as far as it is known, to tell operations that live elsewhere. */
	base: string;
}

/** What an Arazzo document becomes: a scenario for each workflow. What has no equal is told with its place. @throws HeronError definition.* */
export function planWorkflows(given: ImportOrder, document: GivenFile): DefinitionPlan {
	const { name, workspace, valueOf, readFile } = given;
	const parsed = parseYaml(document.path, textOf(document.bytes));
	const whole = parsed.value;
	if (!isObject(whole) || !Array.isArray(whole.workflows))
		throw new HeronError('definition.wrong', {
			file: document.path,
			detail: parsed.problems[0]?.message ?? 'it has no workflows'
		});
	const root = whole as JsonObject;
	const problems: DefinitionPlan['problems'] = [];
	const tell = (at: (string | number)[], message: string) =>
		void problems.push({ file: document.path, line: lineOf(parsed, at), message });
	const wanted: Wanted = { variables: {}, secrets: [] };
	const files: { path: string; bytes: Uint8Array }[] = [];
	const made: { path: string; value: Json }[] = [];

	const sources: Source[] = [];
	list(root.sourceDescriptions).forEach((source, index) => {
		const at = ['sourceDescriptions', index];
		if (source.type === 'arazzo')
			return tell(at, `${String(source.name)} is another Arazzo document: import that by itself`);
		const found = openSource(String(source.url ?? ''), given, document);
		if (!found) return tell(at, `${String(source.url)} is not here: give it along, or import it first`);
		files.push(...found.files);
		const through = connectionFor(found.document, {
			...{ file: found.document.file, workspace, wanted, address: given.address ?? '', connection: given.connection },
			...{ name: fileName(String(source.name)) || name, title: found.document.title || String(source.name) }
		});
		if (through.note) tell(at, through.note);
		made.push(...through.made);
		const { connection, prefix } = through;
		const fresh = through.made[0]?.value;
		const base = isObject(fresh) ? String(fresh.base) : baseOf(workspace, workspace.connections.get(connection));
		sources.push({ name: String(source.name), operations: operationsOf(found.document), connection, prefix, base });
	});

	const path = `collections/${name}.yaml`;
	const old = isObject(valueOf(path)) ? (valueOf(path) as JsonObject) : undefined;
	const before = Array.isArray(old?.scenarios) ? (old.scenarios as Json[]) : [];
	const ids = before.map((one) => (isObject(one) ? String(one.id) : ''));
	const workflows = root.workflows as Json[];
	const idOf = new Map<string, string>();
	for (const one of list(workflows)) {
		const own = record(one[OWN]).scenario;
		const id = freeName(typeof own === 'string' ? own : scenarioId(String(one.workflowId ?? 'workflow')), ids);
		ids.push(id);
		idOf.set(String(one.workflowId), id);
	}
	const connection = typeof old?.connection === 'string' ? old.connection : (sources[0]?.connection ?? '');
	const used = new Set<string>();
	const scenarios = workflows.flatMap((one, index): Json[] => {
		if (!isObject(one)) return [];
		const reading: Reading = { root, sources, wanted, connection, idOf, at: ['workflows', index], tell, used };
		return [scenarioOf(one as JsonObject, reading)];
	});
	const environments = environmentsWith(wanted, workspace, valueOf);
	const title = record(root.info).title;
	const value: JsonObject = {
		...(old ?? {
			...{ heron: 1, title: typeof title === 'string' && title ? title : name },
			...(connection ? { connection } : {})
		}),
		scenarios: [...before, ...scenarios]
	};
	const writes = [...made, ...environments, { path, value }];
	const fresh = files.filter((file) => !readFile(file.path));
	return {
		...{
			name,
			file: document.path,
			files: fresh,
			writes,
			collects: true,
			bound: [],
			offers: [],
			kept: [],
			changes: []
		},
		made: [...fresh.map((file) => file.path), ...[...made, ...environments].map((one) => one.path)].filter(
			(one) => valueOf(one) === undefined
		),
		added: [...idOf.values()],
		operations: [...used].map((key) => ({ key, version: '', doc: '', wants: [] })),
		fixes: [],
		missing: [],
		problems
	};
}

function lineOf(parsed: ParsedYaml, at: (string | number)[]): number {
	return parsed.placeOf(at).line;
}
const scenarioId = (workflowId: string): string => workflowId.replace(/[^\w.-]+/g, '-') || 'workflow';

/** An OpenAPI document that a workflow speaks of: one that was given along, or one of the project. */
function openSource(
	url: string,
	{ files, name, readFile, workspace }: ImportOrder,
	beside: GivenFile
): { document: ReturnType<typeof readOpenapi>; files: { path: string; bytes: Uint8Array }[] } | undefined {
	const last = decodeURI(url.split(/[?#]/)[0]!).split('/').pop() ?? '';
	const given = files.find(
		(file) => file !== beside && file.path.split('/').pop() === last && looksLikeOpenapi(textOf(file.bytes))
	);
	if (!given) {
		const known = workspace.openapis.all().find(({ file }) => file.split('/').pop() === last);
		return known?.definition ? { document: known.definition.document, files: [] } : undefined;
	}
	// with what it refers to, in a folder of its own; alone it needs none
	const refers = filesReferred(textOf(given.bytes)).some((one) => !one.startsWith('#'));
	const folder = refers ? `definitions/${name}/` : 'definitions/';
	const own = refers ? files.filter((file) => file !== beside) : [given];
	const placed = own.map((file) => ({
		path: folder + (refers ? file.path.replace(/^\.?\/+/, '') : last),
		bytes: file.bytes
	}));
	const at = placed.find(({ bytes }) => bytes === given.bytes)!.path;
	const document = readOpenapi(at, (path) => {
		const bytes = placed.find((one) => one.path === path)?.bytes ?? readFile(path);
		return bytes && textOf(bytes);
	});
	return { document, files: placed };
}

interface Reading {
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

function scenarioOf(workflow: JsonObject, reading: Reading): JsonObject {
	const { root, wanted, at, tell, idOf } = reading;
	const own = record(workflow[OWN]);
	let schema = record(workflow.inputs);
	if (typeof schema.$ref === 'string') {
		const key = /^#\/components\/inputs\/(.+)$/.exec(schema.$ref)?.[1] ?? '';
		schema = record(record(record(root.components).inputs)[key]);
	}
	const inputs = record(schema.properties);
	for (const [name, one] of Object.entries(inputs)) {
		const input = record(one);
		if (input[OWN] !== undefined) continue;
		if (input.format === 'password') wanted.secrets.push(nameOf(name));
		else wanted.variables[nameOf(name)] = input.default ?? '';
	}
	const value = (given: Json, where: (string | number)[]): Json =>
		fromRuntime(given, inputs, (source) => tell([...at, ...where], `${source} has no equal here`));
	const shared = list(workflow.parameters);
	for (const key of ['successActions', 'failureActions'])
		if (list(workflow[key]).length > 0) tell([...at, key], `${key} of a whole workflow have no equal here`);

	const steps: JsonObject[] = [];
	for (const dependency of Array.isArray(workflow.dependsOn) ? workflow.dependsOn : []) {
		const id = idOf.get(String(dependency));
		if (id) steps.push({ id: nameOf(`after_${id}`), call: id, once: true });
		else tell([...at, 'dependsOn'], `there is no workflow ${String(dependency)} here`);
	}
	list(workflow.steps).forEach((step, index) => {
		const where = ['steps', index];
		const made =
			step.workflowId !== undefined
				? callStep(step, reading, value, where)
				: sendStep(step, shared, reading, value, where);
		if (made) steps.push(made);
	});
	// steps that Arazzo cannot say stand where they stood
	for (const { at: place, step } of list(own.steps))
		if (isObject(step)) steps.splice(Number(place), 0, step as JsonObject);
	const outputs = Object.entries(record(workflow.outputs)).map(([name, one]): [string, Json] => [
		nameOf(name),
		value(one, ['outputs', name])
	]);
	const title = [workflow.summary, workflow.description].find((one) => typeof one === 'string' && one !== '');
	return {
		id: idOf.get(String(workflow.workflowId)) ?? 'workflow',
		...(typeof title === 'string' ? { title: title.split('\n')[0]!.slice(0, 200) } : {}),
		...record(own.more),
		...(outputs.length > 0 ? { outputs: Object.fromEntries(outputs) } : {}),
		steps: steps as Json[]
	};
}

type Value = (given: Json, where: (string | number)[]) => Json;

function callStep(
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
		const sign = place === 'path' ? signs[style] : undefined;
		return sign ? template.replace(`{${name}}`, `{${sign}${name}${explode ? '*' : ''}}`) : template;
	}, operation.template);
}

const PLACES: Record<string, string> = { path: 'path', query: 'query', header: 'headers', cookie: 'cookies' };

function sendStep(
	step: JsonObject,
	shared: JsonObject[],
	{ root, sources, connection, at, tell, used }: Reading,
	value: Value,
	where: (string | number)[]
): JsonObject | undefined {
	const here = (...more: (string | number)[]) => [...at, ...where, ...more];
	const found = operationFor(step, sources);
	if (!found) {
		tell(
			here(),
			`${String(step.operationId ?? step.operationPath ?? step.stepId)} is no operation of the documents that are here`
		);
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
	const all = [...shared.filter((one) => !parameters.some((other) => same(one, other, root))), ...parameters];
	for (const one of all) {
		const parameter = resolved(one, root);
		const place = parameter && PLACES[String(parameter.in)];
		if (!parameter || !place) {
			tell(here('parameters'), `a parameter that is nowhere: ${writeJson(one).slice(0, 80)}`);
			continue;
		}
		const given = value(parameter.value ?? '', [...where, 'parameters']);
		out[place] = {
			...record(out[place]),
			[String(parameter.name)]: typeof given === 'object' && given !== null ? writeJson(given) : given
		};
	}
	const body = bodyOf(record(step.requestBody), value, where, (message) => tell(here('requestBody'), message));
	if (body) out.body = typeof own.schema === 'string' ? { ...body, schema: own.schema } : body;
	else if (own.body !== undefined) out.body = own.body;
	const checks: Json[] = [];
	list(step.successCriteria).forEach((criterion, index) => {
		const equal = checksOf(criterion);
		if (equal) checks.push(...equal.map((one) => value(one, [...where, 'successCriteria', index])));
		else tell(here('successCriteria', index), `the criterion ${String(criterion.condition)} has no equal here`);
	});
	checks.push(...(Array.isArray(own.checks) ? (own.checks as Json[]) : []));
	if (checks.length > 0) out.checks = checks;
	const keep: JsonObject = {};
	for (const [name, source] of Object.entries(record(step.outputs))) {
		const selector = typeof source === 'string' ? selectorOfRuntime(source) : undefined;
		if (selector) keep[nameOf(name)] = selector;
		else tell(here('outputs', name), `${String(source)} cannot be kept here`);
	}
	Object.assign(keep, record(own.keep));
	if (Object.keys(keep).length > 0) out.keep = keep;
	for (const key of ['onSuccess', 'onFailure'])
		list(step[key]).forEach((action, index) => {
			const what = resolved(action, root);
			if (key === 'onFailure' && what?.type === 'retry') {
				const every = typeof what.retryAfter === 'number' ? `${what.retryAfter * 1000} ms` : undefined;
				const times = typeof what.retryLimit === 'number' ? what.retryLimit : 1;
				out.retry = { times, ...(every ? { every } : {}) };
			} else tell(here(key, index), `the action ${String(what?.type ?? action.reference)} has no equal here`);
		});
	Object.assign(out, record(own.more));
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
