import { stringify } from 'yaml';
import { HeronError } from '../errors.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { fileName } from '../model/name.ts';
import { parseParams } from '../model/params.ts';
import { freeName } from '../model/path.ts';
import type { SendSpec } from '../model/step.ts';
import type { Step } from '../steps/index.ts';
import { nameOf as operationName, type OpenapiOperation } from '../openapi/index.ts';
import { baseOf, operationOfStep, type Workspace } from '../project/index.ts';
import { parseTemplate, utf8 } from '../values/index.ts';
import { criteriaOf, runtimeOfSelector } from './criteria.ts';
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

/** Keys of a step that Arazzo has in another form. */
const SAID = new Set([
	'id',
	'title',
	'send',
	'path',
	'query',
	'headers',
	'cookies',
	'body',
	'checks',
	'keep',
	'connection'
]);

/**
 * Scenarios as workflows (Arazzo 1.0.1).
 * @param targets collections, or `collection/scenario`
 */
function workflowsOf(
	workspace: Workspace,
	targets: readonly string[],
	valueOf: (path: string) => Json | undefined,
	title: string
): MadeWorkflows {
	const sources = new Map<string, { name: string; file: string }>();
	const unknown = new Calls();
	const notes: string[] = [];
	const taken: string[] = [];
	const sourceFor = (file: string): string => {
		let found = sources.get(file);
		if (!found) {
			const wanted = (
				fileName(
					file
						.split('/')
						.pop()!
						.replace(/\.\w+$/, '')
				) || 'api'
			).replaceAll('-', '_');
			sources.set(file, (found = { name: freeName(wanted, taken), file }));
			taken.push(found.name);
		}
		return found.name;
	};
	const environment = workspace.environments.get(workspace.project.environment);
	const variables = { ...workspace.project.variables, ...environment?.variables };
	const known = {
		variables,
		secrets: new Set([...workspace.environments.values()].flatMap(({ secrets }) => secrets))
	};
	const idOf = (collection: string, scenario: string): string => `${collection}-${scenario}`.replace(/[^\w-]+/g, '-');
	const workflows: JsonObject[] = [];
	const wanted = new Set(targets);
	const isWanted = (collection: string, scenario: string): boolean =>
		wanted.has(collection) || wanted.has(`${collection}/${scenario}`);
	for (const name of workspace.collections.keys()) {
		const raw = valueOf(`collections/${name}.yaml`);
		const list = isObject(raw) && Array.isArray(raw.scenarios) ? (raw.scenarios as Json[]) : [];
		workspace.collections.get(name)?.scenarios.forEach((scenario, at) => {
			if (!isWanted(name, scenario.id)) return;
			const inputs: Inputs = { properties: {}, required: [] };
			const runtime = runtimeFor(inputs, known);
			const own = isObject(list[at]) ? (list[at] as JsonObject) : {};
			const rawSteps = (Array.isArray(own.steps) ? own.steps : []) as Json[];
			const others: Json[] = [];
			const steps = scenario.steps.flatMap((step, index): JsonObject[] => {
				const rawStep = (isObject(rawSteps[index]) ? rawSteps[index] : {}) as JsonObject;
				const where = `${name}/${scenario.id}/${step.id}`;
				if (step.call) {
					const target = step.call.target.includes('/') ? step.call.target : `${name}/${step.call.target}`;
					const [collection = '', called = ''] = target.split('/');
					if (isWanted(collection, called))
						return [
							{
								...{ stepId: stepId(step.id), workflowId: idOf(collection, called) },
								...(Object.keys(step.call.with).length > 0
									? {
											parameters: Object.entries(step.call.with).map(([key, value]) => ({
												name: key,
												value: runtime(value)
											}))
										}
									: {}),
								...(step.call.once ? { [OWN]: { once: true } } : {})
							}
						];
				}
				if (!step.send || step.off) {
					notes.push(`${where}: a step of the kind ${step.off ? 'off' : step.kind} has no equal`);
					others.push({ at: index, step: rawStep });
					return [];
				}
				const operation = operationOfStep(workspace, name, step);
				const reference = operation
					? referTo(operation, sourceFor)
					: unknown.refer(step.send, baseOfStep(workspace, name, step.send), sourceFor);
				return [
					stepFor(step, rawStep, {
						reference,
						runtime,
						template: operation?.template,
						note: (text) => notes.push(`${where}: ${text}`)
					})
				];
			});
			if (steps.length === 0)
				return void notes.push(`${name}/${scenario.id}: nothing of it can be said, so it is left out`);
			const outputs = Object.entries(scenario.outputs ?? {}).map(([key, value]): [string, Json] => [
				key,
				runtime(value)
			]);
			workflows.push({
				workflowId: idOf(name, scenario.id),
				...(scenario.title && scenario.title !== scenario.id ? { summary: scenario.title } : {}),
				...(Object.keys(inputs.properties).length > 0
					? {
							inputs: {
								...{ type: 'object', properties: inputs.properties },
								...(inputs.required.length > 0 ? { required: inputs.required } : {})
							}
						}
					: {}),
				steps,
				...(outputs.length > 0 ? { outputs: Object.fromEntries(outputs) } : {}),
				[OWN]: {
					...{ collection: name, scenario: scenario.id },
					...(others.length > 0 ? { steps: others } : {}),
					...leftOf(own, ['id', 'title', 'steps', 'outputs'])
				}
			});
		});
	}
	const calls = unknown.document(title);
	return {
		document: {
			arazzo: '1.0.1',
			info: { title, version: '1.0.0' },
			sourceDescriptions: [...sources.values()].map(({ name, file }) => ({
				...{ name, type: 'openapi' },
				url: `./${file.split('/').pop()!}`
			})),
			workflows
		},
		files: [...sources.keys()].filter((file) => file !== CALLS),
		...(calls ? { calls: { name: CALLS, document: calls } } : {}),
		notes
	};
}

/** The same as files that stand beside each other. @throws HeronError workflow.none where nothing can be said so */
export function workflowFiles(
	workspace: Workspace,
	targets: readonly string[],
	valueOf: (path: string) => Json | undefined,
	title: string,
	readFile: (path: string) => Uint8Array | undefined
): { files: { path: string; bytes: Uint8Array }[]; notes: string[] } {
	const made = workflowsOf(workspace, targets, valueOf, title);
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
const CALLS = 'calls.openapi.json';
const stepId = (id: string): string => id.replace(/[^\w-]+/g, '-');
const leftOf = (raw: JsonObject, said: readonly string[]): JsonObject => {
	const left = Object.entries(raw).filter(([key]) => !said.includes(key));
	return left.length > 0 ? { more: Object.fromEntries(left) } : {};
};
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
const pathReference = (source: string, template: string, method: string): string =>
	`{$sourceDescriptions.${source}.url}#/paths/${template.replaceAll('~', '~0').replaceAll('/', '~1')}/${method.toLowerCase()}`;

/** A target as a template, and the values that stand in it. */
function templateOf(target: string): { template: string; values: { name: string; value: string }[] } {
	const values: { name: string; value: string }[] = [];
	const path = target.replace(/^https?:\/\/[^/{]*/i, '');
	const template = parseTemplate(path)
		.map((part) => {
			if ('text' in part) return part.text;
			const wanted = /([A-Za-z_]\w*)\W*$/.exec(part.source)?.[1] ?? 'value';
			const name = freeName(
				wanted,
				values.map((one) => one.name)
			);
			values.push({ name, value: `{${part.source}}` });
			return `{${name}}`;
		})
		.join('')
		.split(/[?#]/)[0]!;
	return { template: template.startsWith('/') ? template : `/${template}`, values };
}

/** Calls that no definition knows, as an OpenAPI document: their paths alone. */
class Calls {
	readonly #paths: Record<string, JsonObject> = {};
	readonly #servers = new Set<string>();
	refer(send: SendSpec, base: string, sourceFor: (file: string) => string): JsonObject {
		const source = sourceFor(CALLS);
		const { template } = templateOf(send.target);
		const origin = /^https?:\/\/[^/{]*/i.exec(send.target)?.[0] ?? base;
		if (/^https?:/i.test(origin)) this.#servers.add(origin.replace(/\/+$/, ''));
		const names = [...template.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name!);
		const item = (this.#paths[template] ??= {});
		item[send.method.toLowerCase()] = {
			...(names.length > 0
				? { parameters: names.map((name) => ({ name, in: 'path', required: true, schema: {} })) }
				: {}),
			responses: { default: { description: 'not described' } }
		};
		return { operationPath: pathReference(source, template, send.method) };
	}
	document(title: string): JsonObject | undefined {
		if (Object.keys(this.#paths).length === 0) return undefined;
		return {
			openapi: '3.1.0',
			info: { title: `Calls of ${title}`, version: '1.0.0' },
			...(this.#servers.size > 0 ? { servers: [...this.#servers].map((url) => ({ url })) } : {}),
			paths: this.#paths
		};
	}
}

interface StepTools {
	reference: JsonObject;
	runtime: ToRuntime;
	/** The path of the operation, where a definition knows it. */
	template: string | undefined;
	note: (text: string) => void;
}

function stepFor(step: Step, raw: JsonObject, { reference, runtime, template, note }: StepTools): JsonObject {
	const send = step.send!;
	const target = templateOf(send.target);
	const left: JsonObject = leftOf(raw, [...SAID]);
	if (left.more)
		note(
			`${Object.keys(left.more as JsonObject).join(', ')} ${Object.keys(left.more as JsonObject).length > 1 ? 'have' : 'has'} no equal`
		);
	const [, query = ''] = send.target.split('?');
	if (query) note('the query within its path is carried as it is');
	const parameters: JsonObject[] = [];
	// the names of the definition go before those of the step: both stand in the same places
	const ours = [...target.template.matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name!);
	const theirs = [...(template ?? '').matchAll(/\{([^{}]+)\}/g)].map(([, name]) => name!);
	const offset = ours.length - theirs.length;
	// a template of another style (RFC 6570), and values that stand in the path as they are, beside names
	const styled = ours.some((name) => !/^\w/.test(name)) || (offset !== 0 && ours.length > 0 && template !== undefined);
	if (styled) note('its path is carried as it is written');
	const renamed = (name: string): string => (styled ? name : (theirs[ours.indexOf(name) - offset] ?? name));
	const inPath = [...send.path, ...target.values.map((one) => ({ ...one, off: false }))];
	for (const [place, list] of [
		['path', inPath],
		['query', send.query],
		['header', send.headers],
		['cookie', send.cookies]
	] as const)
		for (const { name, value, off } of list) {
			if (off) continue;
			parameters.push({ name: place === 'path' ? renamed(name) : name, in: place, value: runtime(value) });
		}
	const literalPath = template !== undefined && ours.length === 0 && theirs.length > 0;
	if (literalPath) {
		const wanted = target.template.split('/').slice(-template.split('/').length + 1);
		template
			.split('/')
			.slice(1)
			.forEach((part, index) => {
				const [, name] = /^\{(.+)\}$/.exec(part) ?? [];
				if (name && wanted[index] !== undefined) parameters.push({ name, in: 'path', value: wanted[index] });
			});
	}
	const criteria: JsonObject[] = [];
	const otherChecks: Json[] = [];
	for (const check of Array.isArray(raw.checks) ? (raw.checks as Json[]) : []) {
		const found = isObject(check) ? criteriaOf(runtime(check) as JsonObject) : undefined;
		if (found) criteria.push(...found);
		else otherChecks.push(check);
	}
	if (otherChecks.length > 0)
		note(
			`checks without an equal: ${otherChecks.map((one) => (isObject(one) ? Object.keys(one)[0] : String(one))).join(', ')}`
		);
	const outputs: JsonObject = {};
	const otherKeeps: JsonObject = {};
	for (const [name, selector] of Object.entries(isObject(raw.keep) ? (raw.keep as JsonObject) : {})) {
		const found = typeof selector === 'string' ? runtimeOfSelector(selector) : undefined;
		if (found) outputs[name] = found;
		else {
			otherKeeps[name] = selector;
			note(`what is kept as ${name} is selected in a way that has no equal`);
		}
	}
	const body = bodyFor(raw.body, runtime, note);
	const own: JsonObject = {
		...left,
		...(query ? { query } : {}),
		...(styled ? { target: send.target.split('?')[0]! } : {}),
		...(otherChecks.length > 0 ? { checks: otherChecks } : {}),
		...(Object.keys(otherKeeps).length > 0 ? { keep: otherKeeps } : {}),
		...body.own
	};
	return {
		stepId: stepId(step.id),
		...(step.title && step.title !== step.id ? { description: step.title } : {}),
		...reference,
		...(parameters.length > 0 ? { parameters } : {}),
		...(body.requestBody ? { requestBody: body.requestBody } : {}),
		...(criteria.length > 0 ? { successCriteria: criteria } : {}),
		...(Object.keys(outputs).length > 0 ? { outputs } : {}),
		...(Object.keys(own).length > 0 ? { [OWN]: own } : {})
	};
}

function bodyFor(
	raw: Json | undefined,
	runtime: ToRuntime,
	note: (text: string) => void
): { requestBody?: JsonObject; own: JsonObject } {
	if (!isObject(raw)) return { own: {} };
	const body = raw as JsonObject;
	const type = typeof body.type === 'string' ? body.type : undefined;
	const made = (contentType: string, payload: Json) => ({
		requestBody: { contentType: type ?? contentType, payload },
		own: (body.schema === undefined ? {} : { schema: body.schema }) as JsonObject
	});
	if (body.json !== undefined) return made('application/json', runtime(body.json));
	if (body.form !== undefined) {
		const params = parseParams(body.form).filter(({ off }) => !off);
		if (new Set(params.map(({ name }) => name)).size === params.length)
			return made(
				'application/x-www-form-urlencoded',
				Object.fromEntries(params.map(({ name, value }) => [name, runtime(value)]))
			);
	}
	if (typeof body.text === 'string') return made('text/plain', runtime(body.text));
	if (typeof body.xml === 'string') return made('application/xml', runtime(body.xml));
	note(`a body of the kind ${Object.keys(body)[0]} has no equal`);
	return { own: { body: raw } };
}
