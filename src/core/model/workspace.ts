import { HeronError, type Problem } from '../errors.ts';
import { messageOf, nearest, type MessageCode } from '../messages.ts';
import { decodeText, hasExpression, referencesIn, templateProblem, type Reference } from '../values/index.ts';
import { lintCollection, lintSecrets, lintTypes } from '../lint/index.ts';
import { parseCollection, type Collection, type Scenario, type Step } from './collection.ts';
import { parseCredential, type Credential } from './credential.ts';
import { parseConnection, type Connection } from './connection.ts';
import { parseEnvironment, type Environment } from './environment.ts';
import { isObject, same, type Json } from './json.ts';
import type { DocumentKind } from './kind.ts';
import { kindOfFile, PLAIN_FOLDERS } from './kinds.ts';
import { LOCAL_FILE, parseLocal, type LocalValues } from './local.ts';
import { parseProject, type Project } from './project.ts';
import { datasetFile, datasetOfEach } from './rows.ts';
import { findProblems } from './shape.ts';
import { createCatalog, typesOf, type Catalog, type OpenapiOperation } from '../openapi/index.ts';
import { createShelf, parseSoap, writeEnvelope, type Shelf } from '../soap/index.ts';
import { parseSuite, type Suite } from './suite.ts';
import { parseYaml, type ParsedYaml } from './yaml.ts';

/** A document as it was read: data, problems with their place, and its kind. */
export interface LoadedDocument {
	path: string;
	kind: DocumentKind;
	name: string;
	value: Json;
	problems: Problem[];
	/** What is allowed in it, and seldom meant. */
	warnings?: Problem[];
	placeOf: ParsedYaml['placeOf'];
}

/** A whole project in full, ready to be run. */
export interface Workspace {
	project: Project;
	connections: Map<string, Connection>;
	credentials: Map<string, Credential>;
	environments: Map<string, Environment>;
	collections: Map<string, Collection>;
	suites: Map<string, Suite>;
	/** Values of this machine. */
	local: LocalValues;
	/** The WSDL that definitions/ holds. */
	shelf: Shelf;
	/** Its OpenAPI documents. */
	catalog: Catalog;
	/** All that is wrong in all files; errors in files keep a run from starting, warnings do not. */
	problems: Problem[];
	warnings: Problem[];
	/** What only the OpenAPI documents tell; they are read when it is asked for, and a large one takes its time. */
	definitionWarnings(): Problem[];
}

interface Source {
	path: string;
	text: string;
}

/** Problems of one document by itself: syntax, unknown keys, wrong values, unreadable expressions. */
export function loadDocument(path: string, text: string): LoadedDocument | undefined {
	const found = kindOfFile(path);
	if (!found) return undefined;
	const parsed = parseYaml(path, text);
	return {
		path,
		...found,
		value: parsed.value,
		problems: documentProblems(found.kind, path, parsed),
		warnings: documentWarnings(found.kind, path, parsed),
		placeOf: parsed.placeOf
	};
}

/** Problems of a document whose data is at hand; places are only known when `placeOf` is given. */
export function documentProblems(
	kind: DocumentKind,
	path: string,
	parsed: Pick<ParsedYaml, 'value' | 'problems'> & Partial<ParsedYaml>
): Problem[] {
	if (parsed.problems.length > 0) return parsed.problems;
	const problems: Problem[] = [];
	const add = (at: (string | number)[], message: string, code: MessageCode = 'model.wrong') =>
		problems.push({ code, message, file: path, path: at, ...(parsed.placeOf?.(at) ?? {}) });
	if (!isObject(parsed.value)) {
		add([], 'keys with values are wanted; a file starts with heron: 1');
		return problems;
	}
	for (const found of findProblems(kind.schema, parsed.value)) {
		add(found.path, found.message, found.message.startsWith('unknown key') ? 'model.unknownKey' : 'model.wrong');
	}
	kind.check?.(parsed.value, (at, message) => add(at, message));
	for (const { at, text } of textsIn(parsed.value, [])) {
		const problem = templateProblem(text);
		if (problem) add(at, problem.message, 'value.syntax');
	}
	return problems.sort((a, b) => (a.line ?? 0) - (b.line ?? 0));
}

/** What is allowed in a document by itself, and seldom meant. */
export function documentWarnings(
	kind: DocumentKind,
	path: string,
	parsed: Pick<ParsedYaml, 'value' | 'problems'> & Partial<ParsedYaml>
): Problem[] {
	if (parsed.problems.length > 0) return [];
	const found = kind.name === 'collection' ? lintCollection(path, parsed.value) : lintSecrets(path, parsed.value);
	return found.map((one) => ({ ...one, ...(parsed.placeOf?.(one.path) ?? {}) }));
}

function* textsIn(value: unknown, at: (string | number)[]): Generator<{ at: (string | number)[]; text: string }> {
	if (typeof value === 'string') {
		if (value.includes('{$')) yield { at, text: value };
	} else if (Array.isArray(value)) {
		for (const [index, item] of value.entries()) yield* textsIn(item, [...at, index]);
	} else if (isObject(value)) {
		for (const [key, item] of Object.entries(value)) yield* textsIn(item, [...at, key]);
	}
}

const decoded = new WeakMap<Uint8Array, string>();
/** The text of a file in UTF-8; kept as long as its bytes are. */
function textOfFile(bytes: Uint8Array | undefined): string | undefined {
	if (!bytes) return undefined;
	let text = decoded.get(bytes);
	if (text === undefined) decoded.set(bytes, (text = decodeText(bytes).text));
	return text;
}

type ReadFile = (path: string) => Uint8Array | undefined;

/**
 * Puts documents together to a workspace and looks at what they say of each other.
 * @param readFile the bytes of one of the files; definitions are read from it
 */
export function createWorkspace(
	documents: LoadedDocument[],
	files: ReadonlySet<string>,
	readFile: ReadFile = () => undefined
): Workspace {
	const places = new Map(documents.map((document) => [document.path, document.placeOf]));
	const workspace: Workspace = {
		project: parseProject(null),
		connections: new Map(),
		credentials: new Map(),
		environments: new Map(),
		collections: new Map(),
		suites: new Map(),
		local: parseLocal(null),
		shelf: createShelf(files, readFile),
		catalog: createCatalog(files, (path) => textOfFile(readFile(path))),
		problems: documents.flatMap((document) => document.problems),
		warnings: documents.flatMap((document) => document.warnings ?? []),
		definitionWarnings: () => (told ??= readDefinitions())
	};
	let told: Problem[] | undefined;
	for (const { kind, name, value } of documents) {
		if (kind.name === 'project') workspace.project = parseProject(value);
		else if (kind.name === 'connection') workspace.connections.set(name, parseConnection(name, value));
		else if (kind.name === 'credential') workspace.credentials.set(name, parseCredential(name, value));
		else if (kind.name === 'environment') workspace.environments.set(name, parseEnvironment(name, value));
		else if (kind.name === 'collection') workspace.collections.set(name, parseCollection(name, value));
		else if (kind.name === 'local') workspace.local = parseLocal(value);
		else if (kind.name === 'suite') workspace.suites.set(name, parseSuite(name, value));
	}
	const report =
		(list: Problem[]) => (file: string, at: (string | number)[], code: MessageCode, values: Record<string, string>) => {
			list.push({ code, message: messageOf(code, values), file, path: at, ...(places.get(file)?.(at) ?? {}) });
		};
	crossCheck(workspace, files, report(workspace.problems), report(workspace.warnings));
	return workspace;

	function readDefinitions(): Problem[] {
		const broken = workspace.catalog.all().flatMap(({ file, error }): Problem[] =>
			error
				? [
						{
							code: error.code,
							message: `it cannot be read: ${error.values.detail ?? error.message}`,
							file,
							path: []
						}
					]
				: []
		);
		const slips = documents.flatMap(({ kind, name, path, value, placeOf }) =>
			kind.name === 'collection'
				? lintTypes(path, value, (index) => knownTypes(workspace, name, index)).map((found) => ({
						...found,
						...placeOf(found.path)
					}))
				: []
		);
		return [...broken, ...slips];
	}
}

type ReportCross = (file: string, at: (string | number)[], code: MessageCode, values: Record<string, string>) => void;

function crossCheck(workspace: Workspace, files: ReadonlySet<string>, wrong: ReportCross, warn: ReportCross): void {
	const refer = (file: string, at: (string | number)[], kind: string, name: string, known: Iterable<string>) => {
		const names = [...known];
		if (name && !names.includes(name))
			wrong(file, at, 'model.reference', { kind, name, nearest: nearest(name, names) });
	};
	const { project, connections, credentials, environments, collections, suites, local } = workspace;
	for (const { name, definition } of connections.values())
		if (definition && !files.has(`definitions/${definition}`))
			wrong(`connections/${name}.yaml`, ['definition'], 'file.missing', { file: `definitions/${definition}` });
	// what holds on one machine alone keeps nothing from running
	for (const name of Object.keys(local.environments)) {
		const at = { kind: 'environment', name, nearest: nearest(name, [...environments.keys()]) };
		if (!environments.has(name)) warn(LOCAL_FILE, ['environments', name], 'model.reference', at);
	}
	refer('heron.yaml', ['environment'], 'environment', project.environment, environments.keys());
	const referCredential = (file: string, at: (string | number)[], name: string) => {
		if (name !== 'none' && !hasExpression(name)) refer(file, at, 'credential', name, credentials.keys());
	};
	for (const connection of connections.values()) {
		const file = `connections/${connection.name}.yaml`;
		referCredential(file, ['credential'], connection.credential);
		for (const [environment, variant] of connection.variants) {
			refer(file, ['environments', environment], 'environment', environment, environments.keys());
			if (variant.credential !== connection.credential)
				referCredential(file, ['environments', environment, 'credential'], variant.credential);
		}
		const missing = (one: Connection, above: string[]) => {
			for (const [at, path] of filesOfConnection(one))
				if (!files.has(path)) wrong(file, [...above, ...at], 'file.missing', { file: path });
		};
		missing(connection, []);
		// what an environment does not change was looked at above
		for (const [environment, variant] of connection.variants)
			if (!same(variant.tls, connection.tls)) missing(variant, ['environments', environment]);
	}
	for (const credential of credentials.values()) {
		const { connection, beside } = credential.value;
		if (typeof beside === 'string') referCredential(`credentials/${credential.name}.yaml`, ['beside'], beside);
		if (typeof connection === 'string' && !hasExpression(connection))
			refer(`credentials/${credential.name}.yaml`, ['connection'], 'connection', connection, connections.keys());
		for (const field of ['certificate', 'key', 'pkcs12']) {
			const path = credential.value[field];
			// what looks like neither a file nor PEM may be a shared secret
			if (typeof path === 'string' && /^[\w./-]+\.\w{2,5}$/.test(path) && !files.has(path))
				wrong(`credentials/${credential.name}.yaml`, [field], 'file.missing', { file: path });
		}
	}
	findUnused(workspace, warn);
	for (const suite of suites.values()) {
		const file = `suites/${suite.name}.yaml`;
		refer(file, ['environment'], 'environment', suite.environment, environments.keys());
		suite.scenarios.forEach((entry, index) => {
			if ('tag' in entry) return;
			const known = [...collections.values()].flatMap((c) => [c.name, ...c.scenarios.map((s) => `${c.name}/${s.id}`)]);
			refer(file, ['scenarios', index], 'collection or scenario', entry.target, known);
		});
	}
	for (const collection of collections.values()) {
		const file = `collections/${collection.name}.yaml`;
		refer(file, ['connection'], 'connection', collection.connection, connections.keys());
		referCredential(file, ['credential'], collection.credential);
		const referData = (path: (string | number)[], name: string) => {
			const found = datasetFile(name, files);
			if ('several' in found) wrong(file, path, 'dataset.several', { name, files: found.several.join(' and ') });
			else if ('known' in found) wrong(file, path, 'dataset.none', { name, nearest: nearest(name, found.known) });
		};
		collection.scenarios.forEach((scenario, at) => {
			if (scenario.rows) referData(['scenarios', at, 'rows'], scenario.rows.data);
			referCredential(file, ['scenarios', at, 'credential'], scenario.credential);
			refer(file, ['scenarios', at, 'connection'], 'connection', scenario.connection, connections.keys());
			scenario.steps.forEach((step, index) => {
				const path = ['scenarios', at, 'steps', index];
				const repeated = datasetOfEach(step.each);
				if (repeated) referData([...path, 'each'], repeated);
				refer(file, [...path, 'connection'], 'connection', step.send?.connection ?? '', connections.keys());
				referCredential(file, [...path, 'credential'], step.send?.credential ?? '');
				step.send?.checks.forEach((check, n) => {
					const schema = check.kind === 'schema' ? String(check.relations[0]?.expected) : '';
					if (schema && !check.off && !schema.includes('{$') && !files.has(schema))
						wrong(file, [...path, 'checks', n, 'schema'], 'file.missing', { file: schema });
				});
				for (const name of filesOf(step)) {
					if (!name.includes('{$') && !files.has(name)) wrong(file, [...path, 'body'], 'file.missing', { file: name });
				}
			});
			crossSoap(workspace, file, at, scenario, wrong, warn);
			crossScenario(workspace, file, at, scenario, wrong, warn);
			crossCalls(workspace, file, at, scenario, wrong);
		});
	}
}

/** The operation that a step calls, as far as its file tells; undefined where no OpenAPI document knows the call. */
export function operationOfStep(
	{ catalog, collections, connections, environments, project }: Workspace,
	name: string,
	step: Step | undefined
): OpenapiOperation | undefined {
	const send = step?.send;
	if (!send || send.body?.kind === 'soap' || catalog.files().length === 0) return undefined;
	const connection = connections.get(send.connection || (collections.get(name)?.connection ?? ''));
	// values that an environment may give are taken from the one that is used when nothing is said
	const known = { ...project.variables, ...environments.get(project.environment)?.variables };
	const base = (connection?.base ?? '').replace(/^\{\$env\.(\w+)\}/, (whole, variable: string) =>
		Object.hasOwn(known, variable) ? String(known[variable]) : whole
	);
	// what is filled in when it is sent is a part like any other
	const pathOf = (text: string): string | undefined => {
		const open = text.replace(/\{\$[^{}]*\}|[{}]/g, 'x');
		return URL.canParse(open) ? new URL(open).pathname : undefined;
	};
	const { target } = send;
	const path = pathOf(/^https?:/i.test(target) ? target : `${base.replace(/\/+$/, '')}/${target.replace(/^\/+/, '')}`);
	if (path === undefined) return undefined;
	try {
		const place = { method: send.method, path, base: (pathOf(base) ?? '').replace(/\/+$/, '') };
		return catalog.find(place, connection?.definition);
	} catch (error) {
		if (error instanceof HeronError) return undefined;
		throw error;
	}
}

/** The types of what a step's call answers; undefined where nothing is known of them. */
function knownTypes(workspace: Workspace, name: string, [at, index]: [number, number]) {
	const step = workspace.collections.get(name)?.scenarios[at]?.steps[index];
	try {
		const operation = operationOfStep(workspace, name, step);
		return operation && typesOf(operation);
	} catch (error) {
		// a check by the definition says what is wrong with it
		if (error instanceof HeronError) return undefined;
		throw error;
	}
}

/** Operations that no definition has, and values that do not fit them. */
function crossSoap(
	{ shelf }: Workspace,
	file: string,
	at: number,
	scenario: Scenario,
	wrong: ReportCross,
	warn: ReportCross
): void {
	scenario.steps.forEach((step, index) => {
		const soap = step.send?.body?.kind === 'soap' ? parseSoap(step.send.body.value) : undefined;
		if (!soap?.operation || hasExpression(soap.operation)) return;
		const path = ['scenarios', at, 'steps', index, 'body', 'soap'];
		try {
			const found = shelf.find(soap.operation, soap.version, soap.definition);
			if (soap.envelope !== undefined) return;
			for (const { path: inside, message, unknown } of writeEnvelope(shelf.model(found), soap, { open: hasExpression })
				.problems) {
				const own = inside[0] === 'headers' && soap.headers ? inside : ['values', ...inside];
				const report = unknown ? wrong : warn;
				report(file, [...path, ...own], 'definition.value', {
					name: pathText(inside) || soap.operation,
					detail: message
				});
			}
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			wrong(file, [...path, 'operation'], error.code, error.values as Record<string, string>);
		}
	});
}

const pathText = (path: readonly (string | number)[]): string =>
	path
		.map((key) => (typeof key === 'number' ? `[${key + 1}]` : key))
		.join('.')
		.replace(/\.\[/g, '[');

/** So many unused variables of a file are named: more are a file that is not in use yet. */
const UNUSED_NAMED = 50;

/** Variables and secrets that no document speaks of. */
function findUnused(workspace: Workspace, warn: ReportCross): void {
	const { project, environments, connections, credentials, collections, local } = workspace;
	const used = { env: new Set<string>(), secret: new Set<string>() };
	let open = false;
	const take = (references: Reference[]) => {
		for (const { root, name } of references) if (root === 'env' || root === 'secret') used[root].add(name);
	};
	const look = (value: unknown) => {
		take(referencesIn(value));
		// a name that is computed may be any of them
		open ||= /\$(env|secret)\s*(\[|\)|,)|\$lookup|\$eval/.test(JSON.stringify(value ?? null));
	};
	look(project.variables);
	for (const variables of [local.variables, ...Object.values(local.environments)]) look(variables);
	for (const { variables } of environments.values()) look(variables);
	for (const { raw } of connections.values()) look(raw);
	for (const { value } of credentials.values()) look(value);
	for (const collection of collections.values())
		for (const scenario of collection.scenarios) {
			if (scenario.rows?.where) take(referencesIn(scenario.rows.where, true));
			look([collection.credential, scenario.credential]);
			for (const step of scenario.steps) {
				take(stepNames(step));
				open ||= /\$(env|secret)\s*(\[|\)|,)|\$lookup|\$eval/.test(JSON.stringify(step));
			}
		}
	if (open) return;
	const unused = (file: string, variables: string[], secrets: string[]) => {
		const spare = variables.filter((name) => !used.env.has(name));
		for (const name of spare.slice(0, UNUSED_NAMED)) warn(file, ['variables', name], 'lint.unusedVariable', { name });
		for (const [index, name] of secrets.entries())
			if (!used.secret.has(name)) warn(file, ['secrets', index], 'lint.unusedSecret', { name });
	};
	unused('heron.yaml', Object.keys(project.variables), []);
	for (const { name, variables, secrets } of environments.values())
		unused(`environments/${name}.yaml`, Object.keys(variables), secrets);
}

/** Files that a connection's transport is read from, with their place; PEM and computed paths left out. */
function filesOfConnection({ tls }: Connection): [(string | number)[], string][] {
	const named: [(string | number)[], string][] = [
		...(tls?.authorities ?? []).map((path, index): [(string | number)[], string] => [
			['tls', 'authorities', index],
			path
		]),
		[['tls', 'client', 'certificate'], tls?.client?.certificate ?? ''],
		[['tls', 'client', 'key'], tls?.client?.key ?? ''],
		[['tls', 'client', 'pkcs12'], tls?.client?.pkcs12 ?? '']
	];
	return named.filter(([, path]) => path !== '' && !path.includes('{$') && !path.includes('-----BEGIN'));
}

/** Files that a step's body is read from, as written. */
function filesOf(step: Step): string[] {
	const body = step.send?.body;
	if (!body) return [];
	if (body.kind === 'file') return [String(body.value)];
	if (body.kind === 'soap') return parseSoap(body.value).attachments.map(({ file }) => file);
	if (body.kind !== 'multipart' || !Array.isArray(body.value)) return [];
	return body.value.flatMap((part) => (isObject(part) && typeof part.file === 'string' ? [part.file] : []));
}

/** Uses of outputs before they are kept, of steps that are not there, and outputs that nobody uses. */
function crossScenario(
	workspace: Workspace,
	file: string,
	at: number,
	scenario: Scenario,
	wrong: ReportCross,
	warn: ReportCross
): void {
	const collection = file.replace(/^collections\/|\.yaml$/g, '');
	const used = new Set<string>();
	const before = new Map<string, Set<string> | 'any'>();
	scenario.steps.forEach((step, index) => {
		const path = ['scenarios', at, 'steps', index];
		const own = outputsOf(workspace, collection, step);
		for (const { name, rest, optional } of stepReferences(step)) {
			const output = rest[0] ?? '';
			used.add(`${name}.${output}`);
			if (optional) continue;
			const outputs = name === step.id ? own : before.get(name);
			if (!outputs) {
				const later = scenario.steps.some((other) => other.id === name);
				const message = later ? `$steps.${name} is used before step ${name} has run` : '';
				if (later) wrong(file, path, 'model.wrong', { detail: message });
				else wrong(file, path, 'model.reference', { kind: 'step', name, nearest: nearest(name, [...before.keys()]) });
			} else if (output && outputs !== 'any' && !outputs.has(output)) {
				wrong(file, path, 'model.reference', {
					kind: `value kept by ${name} as`,
					name: output,
					nearest: nearest(output, [...outputs])
				});
			}
		}
		before.set(step.id, own);
	});
	for (const { root, name, rest } of referencesIn(scenario.outputs))
		if (root === 'steps') used.add(`${name}.${rest[0] ?? ''}`);
	// without outputs all that is kept is given to whoever calls
	const given = !scenario.outputs && isCalled(workspace, collection, scenario.id);
	scenario.steps.forEach((step, index) => {
		if (given) return;
		step.send?.keep.forEach((keep) => {
			if (!used.has(`${step.id}.${keep.name}`)) {
				warn(file, ['scenarios', at, 'steps', index, 'keep', keep.name], 'lint.unusedOutput', { name: keep.name });
			}
		});
	});
}

/** The names under which a step keeps values; those of a script as far as its text tells. */
export const keptNames = (step: Step): string[] =>
	step.script === undefined
		? (step.send?.keep ?? []).map(({ name }) => name)
		: [...step.script.matchAll(/\bkeep\(\s*(["'`])(\w+)\1/g)].map(([, , name]) => name!);

/** What a step keeps: `any` where only running it tells. */
function outputsOf(workspace: Workspace, collection: string, step: Step): Set<string> | 'any' {
	if (!step.call) return new Set(keptNames(step));
	const called = scenarioCalled(workspace, collection, step.call.target);
	if (!called) return 'any';
	if (called.scenario.outputs) return new Set(Object.keys(called.scenario.outputs));
	const all = called.scenario.steps.map((one) => (one.call ? 'any' : outputsOf(workspace, called.collection, one)));
	return all.includes('any') ? 'any' : new Set(all.flatMap((one) => (one === 'any' ? [] : [...one])));
}

const isCalled = (workspace: Workspace, collection: string, id: string): boolean =>
	[...workspace.collections.values()].some((from) =>
		from.scenarios.some(({ steps }) =>
			steps.some(({ call }) => {
				const called = call && scenarioCalled(workspace, from.name, call.target);
				return called?.collection === collection && called.scenario.id === id;
			})
		)
	);

function scenarioCalled(workspace: Workspace, from: string, target: string) {
	const [one = '', other] = target.split('/');
	const collection = other === undefined ? from : one;
	const scenario = workspace.collections.get(collection)?.scenarios.find(({ id }) => id === (other ?? one));
	return scenario && { collection, scenario };
}

/** Calls of scenarios that are not there, that lead back to themselves, or that are not given what they want. */
function crossCalls(workspace: Workspace, file: string, at: number, scenario: Scenario, wrong: ReportCross): void {
	const own = file.replace(/^collections\/|\.yaml$/g, '');
	const leadsBack = (from: string, one: Scenario, seen: string[]): string[] | undefined => {
		for (const { call } of one.steps) {
			const called = call && scenarioCalled(workspace, from, call.target);
			if (!called) continue;
			const key = `${called.collection}/${called.scenario.id}`;
			if (key === `${own}/${scenario.id}`) return [...seen, key];
			const found = seen.includes(key) ? undefined : leadsBack(called.collection, called.scenario, [...seen, key]);
			if (found) return found;
		}
		return undefined;
	};
	scenario.steps.forEach((step, index) => {
		if (!step.call) return;
		const path = ['scenarios', at, 'steps', index, 'call'];
		const called = scenarioCalled(workspace, own, step.call.target);
		if (!called) {
			const names = [...workspace.collections.values()].flatMap((collection) =>
				collection.scenarios.map(({ id }) => (collection.name === own ? id : `${collection.name}/${id}`))
			);
			return wrong(file, path, 'model.reference', {
				kind: 'scenario',
				name: step.call.target,
				nearest: nearest(step.call.target, names)
			});
		}
		const cycle = leadsBack(own, { ...scenario, steps: [step] }, [`${own}/${scenario.id}`]);
		if (cycle) wrong(file, path, 'model.wrong', { detail: `this call leads back to itself: ${cycle.join(' → ')}` });
		const { inputs } = called.scenario;
		for (const [name, value] of Object.entries(inputs))
			if (value === null && !Object.hasOwn(step.call.with, name))
				wrong(file, path, 'model.wrong', {
					detail: `${step.call.target} wants a value for ${name}: give it under with`
				});
		if (Object.keys(inputs).length > 0)
			for (const name of Object.keys(step.call.with))
				if (!Object.hasOwn(inputs, name))
					wrong(file, [...path.slice(0, -1), 'with', name], 'model.reference', {
						kind: `input of ${step.call.target}`,
						name,
						nearest: nearest(name, Object.keys(inputs))
					});
	});
}

/** The outputs of other steps that a step asks for. */
export const stepReferences = (step: Step) => stepNames(step).filter((reference) => reference.root === 'steps');

/** All names that a step asks for. */
export function stepNames(step: Step) {
	const { send } = step;
	const bare = step.when ? referencesIn(step.when.replace(/^\{(\$[\s\S]*)\}$/, '$1'), true) : [];
	const that = (send?.checks ?? []).flatMap((check) =>
		check.kind === 'that' ? referencesIn(String(check.relations[0]?.expected), true) : []
	);
	const checks = (send?.checks ?? []).filter((check) => check.kind !== 'that' && !check.off);
	const until = step.until?.check;
	const untilThat = until?.kind === 'that' ? referencesIn(String(until.relations[0]?.expected), true) : [];
	const on = <T extends { off: boolean }>(list: T[] = []) => list.filter((item) => !item.off);
	const sent = send
		? [
				send.target,
				on(send.path),
				on(send.query),
				on(send.headers),
				on(send.cookies),
				send.body?.value,
				send.body?.type
			]
		: [];
	const { each } = step;
	const repeated = typeof each === 'string' && each.startsWith('$') ? referencesIn(each, true) : referencesIn(each);
	return [
		...bare,
		...repeated,
		...referencesIn(sent),
		...referencesIn(checks),
		...that,
		...untilThat,
		...referencesIn([step.set, step.wait, step.stop, step.call?.with, until?.kind === 'that' ? undefined : until])
	];
}

/** Whether a path may be a file of a project; everything else is left alone. */
export const isProjectFile = (path: string): boolean =>
	kindOfFile(path) !== undefined || PLAIN_FOLDERS.some((folder) => path.startsWith(`${folder}/`));

export interface LoadedProject {
	workspace: Workspace;
	documents: Map<string, LoadedDocument>;
}

/** Reads all files of a project: path → text for documents, and the paths of all files there are. */
export function loadProject(sources: Source[], files: ReadonlySet<string>, readFile?: ReadFile): LoadedProject {
	const documents = new Map<string, LoadedDocument>();
	const strange: Problem[] = [];
	for (const { path, text } of sources) {
		const found = kindOfFile(path);
		if (!found) {
			if (/\.ya?ml$/.test(path) && !PLAIN_FOLDERS.some((folder) => path.startsWith(`${folder}/`))) {
				const folders = 'connections, credentials, environments, collections, suites';
				strange.push({ code: 'file.kind', message: messageOf('file.kind', { folders }), file: path, path: [] });
			}
			continue;
		}
		const parsed = parseYaml(path, text);
		documents.set(path, {
			path,
			...found,
			value: parsed.value,
			problems: documentProblems(found.kind, path, parsed),
			warnings: documentWarnings(found.kind, path, parsed),
			placeOf: parsed.placeOf
		});
	}
	const workspace = createWorkspace([...documents.values()], files, readFile);
	workspace.warnings.push(...strange);
	const order = (a: Problem, b: Problem) => a.file.localeCompare(b.file) || (a.line ?? 0) - (b.line ?? 0);
	workspace.problems.sort(order);
	return { workspace, documents };
}
