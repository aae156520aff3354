import { HeronError } from '../errors.ts';
import type { DefinitionPlan } from '../model/definition-plan.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { freeName } from '../model/path.ts';
import { parseYaml, type ParsedYaml } from '../model/yaml.ts';
import { filesReferred, looksLikeOpenapi, operationsOf, readOpenapi } from '../openapi/index.ts';
import type { GivenFile } from '../soap/index.ts';
import { decodeText } from '../values/index.ts';
import { baseOf } from '../project/index.ts';
import { connectionFor, environmentsWith, type ImportOrder, type Wanted } from '../imports/index.ts';
import { fromRuntime, nameOf, OWN } from './values.ts';
import { list, record, type Source, type Reading, callStep, sendStep } from './steps-in.ts';

/** Whether a text looks like an Arazzo document. */
export const looksLikeArazzo = (text: string): boolean =>
	/^\s*(?:\{\s*)?["']?arazzo["']?\s*:\s*["']?1\./m.test(text.slice(0, 2000));

/** The files that an Arazzo document speaks of. */
export const sourcesNamedIn = (text: string): string[] =>
	list(record(parseYaml('', text).value ?? null).sourceDescriptions).flatMap(({ url }) =>
		typeof url === 'string' ? [url] : []
	);

const textOf = (bytes: Uint8Array): string => decodeText(bytes).text;

/** What an Arazzo document becomes: a scenario for each workflow. What has no equal is told with its place. @throws HeronError definition.* */
export function planWorkflows(given: ImportOrder, document: GivenFile): DefinitionPlan {
	const { name, workspace, valueOf, readFile } = given;
	const { parsed, root } = readArazzo(document);
	const problems: DefinitionPlan['problems'] = [];
	const tell = (at: (string | number)[], message: string) =>
		void problems.push({ file: document.path, line: lineOf(parsed, at), message });
	const wanted: Wanted = { variables: {}, secrets: [] };
	const { sources, files, made } = openSources(given, document, root, { wanted, tell });

	const path = `collections/${name}.yaml`;
	const old = isObject(valueOf(path)) ? (valueOf(path) as JsonObject) : undefined;
	const before = Array.isArray(old?.scenarios) ? (old.scenarios as Json[]) : [];
	const workflows = root.workflows as Json[];
	const idOf = idsFor(workflows, before);
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
			title: typeof title === 'string' ? title : '',
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

/** @throws HeronError definition.wrong */
function readArazzo({ path, bytes }: GivenFile): { parsed: ParsedYaml; root: JsonObject } {
	const parsed = parseYaml(path, textOf(bytes));
	const root = parsed.value;
	if (!isObject(root) || !Array.isArray(root.workflows))
		throw new HeronError('definition.wrong', {
			file: path,
			detail: parsed.problems[0]?.message ?? 'it has no workflows'
		});
	return { parsed, root: root as JsonObject };
}

/** The documents that the workflows speak of, each with the connection that its calls go over. */
function openSources(
	given: ImportOrder,
	document: GivenFile,
	root: JsonObject,
	{ wanted, tell }: { wanted: Wanted; tell: Reading['tell'] }
): { sources: Source[]; files: GivenFile[]; made: { path: string; value: Json }[] } {
	const { name, workspace } = given;
	const files: GivenFile[] = [];
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
	return { sources, files, made };
}

/** The ids of the scenarios that workflows become, by the workflows' own. @param before scenarios that are there */
function idsFor(workflows: Json[], before: Json[]): Map<string, string> {
	const ids = before.map((one) => (isObject(one) ? String(one.id) : ''));
	const idOf = new Map<string, string>();
	for (const one of list(workflows)) {
		const own = record(one[OWN]).scenario;
		const id = freeName(typeof own === 'string' ? own : scenarioId(String(one.workflowId ?? 'workflow')), ids);
		ids.push(id);
		idOf.set(String(one.workflowId), id);
	}
	return idOf;
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
