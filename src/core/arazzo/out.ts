import { stringify } from 'yaml';
import type { Scenario } from '../documents/collection.ts';
import { HeronError } from '../errors.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { freeName } from '../model/path.ts';
import type { CallSpec, SendSpec } from '../model/step.ts';
import type { Step } from '../steps/index.ts';
import { nameOf as operationName, type OpenapiOperation } from '../openapi/index.ts';
import { baseOf, operationOfStep, type Workspace } from '../project/index.ts';
import { utf8 } from '../values/index.ts';
import { Calls, CALLS, pathReference } from './calls.ts';
import { leftOf, stepFor, stepId } from './steps-out.ts';
import { OWN, runtimeFor, type Inputs, type ToRuntime } from './values.ts';

/** Scenarios as an Arazzo document, and the OpenAPI documents that it speaks of. */
interface MadeWorkflows {
	document: JsonObject;
	/** Documents of the project that stand beside it. */
	files: string[];
	/** Calls that no definition knows are described in a document of their own. */
	calls?: { name: string; document: JsonObject };
	/** What has no equal in Arazzo, each with its place; an import here brings it back. */
	notes: string[];
}

/** What workflows are made of. */
interface Made {
	workspace: Workspace;
	/** Collections, or `collection/scenario`. */
	targets: readonly string[];
	/** The value of a document of the project. */
	valueOf(path: string): Json | undefined;
	title: string;
}

/** A scenario, and what its file says. */
interface Placed {
	collection: string;
	scenario: Scenario;
	raw: JsonObject;
}

/** Scenarios as workflows (Arazzo 1.0.1). */
class Workflows {
	readonly #made: Made;
	readonly #wanted: ReadonlySet<string>;
	readonly #sources = new Map<string, { name: string; file: string }>();
	readonly #unknown = new Calls();
	readonly #notes: string[] = [];
	readonly #names: string[] = [];
	/** What an expression may ask for without being an input. */
	readonly #known: Parameters<typeof runtimeFor>[1];

	constructor(made: Made) {
		this.#made = made;
		this.#wanted = new Set(made.targets);
		const { project, environments } = made.workspace;
		this.#known = {
			variables: { ...project.variables, ...environments.get(project.environment)?.variables },
			secrets: new Set([...environments.values()].flatMap(({ secrets }) => secrets))
		};
	}

	document(): MadeWorkflows {
		const { workspace, valueOf, title } = this.#made;
		const workflows: JsonObject[] = [];
		for (const [collection, { scenarios }] of workspace.collections) {
			const raw = valueOf(`collections/${collection}.yaml`);
			const list = isObject(raw) && Array.isArray(raw.scenarios) ? (raw.scenarios as Json[]) : [];
			for (const [at, scenario] of scenarios.entries()) {
				if (!this.#isWanted(collection, scenario.id)) continue;
				const own = isObject(list[at]) ? (list[at] as JsonObject) : {};
				workflows.push(...this.#workflow({ collection, scenario, raw: own }));
			}
		}
		const calls = this.#unknown.document(title);
		return {
			document: {
				arazzo: '1.0.1',
				info: { title, version: '1.0.0' },
				sourceDescriptions: [...this.#sources.values()].map(({ name, file }) => ({
					...{ name, type: 'openapi' },
					url: `./${file.split('/').pop()!}`
				})),
				workflows
			},
			files: [...this.#sources.keys()].filter((file) => file !== CALLS),
			...(calls ? { calls: { name: CALLS, document: calls } } : {}),
			notes: this.#notes
		};
	}

	/** A scenario as a workflow; nothing where nothing of it can be said. */
	#workflow(placed: Placed): JsonObject[] {
		const { collection, scenario, raw } = placed;
		const inputs: Inputs = { properties: {}, required: [] };
		const runtime = runtimeFor(inputs, this.#known);
		const others: Json[] = [];
		const steps = scenario.steps.flatMap((step, index) => this.#step(placed, step, index, runtime, others));
		if (steps.length === 0) {
			this.#notes.push(`${collection}/${scenario.id}: nothing of it can be said, so it is left out`);
			return [];
		}
		const outputs = Object.entries(scenario.outputs ?? {}).map(([key, value]): [string, Json] => [key, runtime(value)]);
		return [
			{
				workflowId: idOf(collection, scenario.id),
				...(scenario.title && scenario.title !== scenario.id ? { summary: scenario.title } : {}),
				...inputsOf(inputs),
				steps,
				...(outputs.length > 0 ? { outputs: Object.fromEntries(outputs) } : {}),
				[OWN]: {
					...{ collection, scenario: scenario.id },
					...(others.length > 0 ? { steps: others } : {}),
					...leftOf(raw, ['id', 'title', 'steps', 'outputs'])
				}
			}
		];
	}

	/** @param others steps that have no equal, with their places */
	#step(
		{ collection, scenario, raw }: Placed,
		step: Step,
		index: number,
		runtime: ToRuntime,
		others: Json[]
	): JsonObject[] {
		const { workspace } = this.#made;
		const rawSteps = (Array.isArray(raw.steps) ? raw.steps : []) as Json[];
		const rawStep = (isObject(rawSteps[index]) ? rawSteps[index] : {}) as JsonObject;
		const where = `${collection}/${scenario.id}/${step.id}`;
		const call = step.call && this.#call(collection, step, step.call, runtime);
		if (call) return [call];
		if (!step.send || step.off) {
			this.#notes.push(`${where}: a step of the kind ${step.off ? 'off' : step.kind} has no equal`);
			others.push({ at: index, step: rawStep });
			return [];
		}
		const sourceFor = (file: string) => this.#source(file);
		const operation = operationOfStep(workspace, collection, step);
		const reference = operation
			? referTo(operation, sourceFor)
			: this.#unknown.refer(step.send, baseOfStep(workspace, collection, step.send), sourceFor);
		const note = (text: string) => void this.#notes.push(`${where}: ${text}`);
		return [stepFor(step, rawStep, { reference, runtime, template: operation?.template, note })];
	}

	/** A call of a scenario that is a workflow, too. */
	#call(collection: string, step: Step, spec: CallSpec, runtime: ToRuntime): JsonObject | undefined {
		const target = spec.target.includes('/') ? spec.target : `${collection}/${spec.target}`;
		const [into = '', called = ''] = target.split('/');
		if (!this.#isWanted(into, called)) return undefined;
		const parameters = Object.entries(spec.with).map(([name, value]) => ({ name, value: runtime(value) }));
		return {
			...{ stepId: stepId(step.id), workflowId: idOf(into, called) },
			...(parameters.length > 0 ? { parameters } : {}),
			...(spec.once ? { [OWN]: { once: true } } : {})
		};
	}

	#isWanted(collection: string, scenario: string): boolean {
		return this.#wanted.has(collection) || this.#wanted.has(`${collection}/${scenario}`);
	}

	/** The name by which a document is spoken of. */
	#source(file: string): string {
		let found = this.#sources.get(file);
		if (!found) {
			const wanted = (
				fileName(
					file
						.split('/')
						.pop()!
						.replace(/\.\w+$/, '')
				) || 'api'
			).replaceAll('-', '_');
			this.#sources.set(file, (found = { name: freeName(wanted, this.#names), file }));
			this.#names.push(found.name);
		}
		return found.name;
	}
}

const idOf = (collection: string, scenario: string): string => `${collection}-${scenario}`.replace(/[^\w-]+/g, '-');

const inputsOf = ({ properties, required }: Inputs): JsonObject =>
	Object.keys(properties).length === 0
		? {}
		: { inputs: { ...{ type: 'object', properties }, ...(required.length > 0 ? { required } : {}) } };

/** The same as files that stand beside each other. @throws HeronError workflow.none where nothing can be said so */
export function workflowFiles(
	workspace: Workspace,
	targets: readonly string[],
	valueOf: (path: string) => Json | undefined,
	title: string,
	readFile: (path: string) => Uint8Array | undefined
): { files: { path: string; bytes: Uint8Array }[]; notes: string[] } {
	const made = new Workflows({ workspace, targets, valueOf, title }).document();
	if ((made.document.workflows as Json[]).length === 0) throw new HeronError('workflow.none');
	return {
		notes: made.notes,
		files: [
			{ path: WORKFLOWS, bytes: utf8(stringify(made.document, { lineWidth: 0 })) },
			...made.files.map((path) => ({ path: path.split('/').pop()!, bytes: readFile(path) ?? new Uint8Array() })),
			...(made.calls ? [{ path: made.calls.name, bytes: utf8(`${writeJson(made.calls.document, 2)}\n`) }] : [])
		]
	};
}

/** The file of the workflows themselves. */
export const WORKFLOWS = 'workflows.arazzo.yaml';
const baseOfStep = (workspace: Workspace, collection: string, send: SendSpec): string =>
	baseOf(
		workspace,
		workspace.connections.get(send.connection || (workspace.collections.get(collection)?.connection ?? ''))
	);

function referTo(operation: OpenapiOperation, sourceFor: (file: string) => string): JsonObject {
	const source = sourceFor(operation.document.file);
	if (operation.id) return { operationId: `$sourceDescriptions.${source}.${operation.id}` };
	const [method = '', template = ''] = operationName(operation).split(' ');
	return { operationPath: pathReference(source, template, method) };
}
