import type { JsonObject } from '#core/model/json.ts';
import { createWorkspace, loadDocument } from '#core/project/index.ts';
import { createRedactor } from '#core/redact/index.ts';
import {
	allScenarios,
	guardOf,
	unrecordedRun,
	runPlan,
	startNames,
	type StartNames,
	type StepContext,
	type StepResult
} from '#core/run/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { createEngine, type Engine } from '#server/engine/index.ts';
import { createTokenKeeper, type TokenKeeper } from '#core/auth/index.ts';
import { stringify } from 'yaml';

export interface Given {
	connections?: Record<string, object>;
	credentials?: Record<string, object>;
	environments?: Record<string, object>;
	collections?: Record<string, object>;
	standIns?: Record<string, object>;
	/** Variables that are given. */
	set?: JsonObject;
	files?: Record<string, string | Uint8Array>;
	secrets?: Record<string, string>;
	environment?: string;
	engine?: Engine;
	tokens?: TokenKeeper;
	/** How often a scenario that did not pass is run again. */
	retries?: number;
	/** Goes on although something in the documents is wrong. */
	wrong?: true;
}

/** A project of a few documents, ready to be used; the engine is the caller's to close when it brings one. */
export async function contextOf(given: Given): Promise<StepContext & { start: StartNames; engine: Engine }> {
	const { connections, credentials, environments, collections, standIns } = given;
	const folders = { connections, credentials, environments, collections, 'stand-ins': standIns };
	const documents = Object.entries(folders).flatMap(([folder, list]) =>
		Object.entries(list ?? {}).map(([name, value]) =>
			loadDocument(`${folder}/${name}.yaml`, stringify({ heron: 1, ...value }))!
		)
	);
	const files = new Map(
		Object.entries(given.files ?? {}).map(([path, data]) => [path, typeof data === 'string' ? Buffer.from(data) : data])
	);
	const workspace = createWorkspace(documents, new Set(files.keys()), (path) => files.get(path));
	if (workspace.problems.length > 0 && !given.wrong)
		throw new Error(workspace.problems.map((one) => one.message).join('\n'));
	const engine = given.engine ?? createEngine();
	const environment = given.environment ?? '';
	const secrets = given.secrets ?? {};
	const ports = engine.ports({
		seed: 1,
		readFile: (path) => files.get(path),
		tokens: given.tokens ?? createTokenKeeper(),
		guard: guardOf(workspace.environments.get(environment), secrets)
	});
	const start = await startNames(
		workspace,
		environment,
		{ set: given.set ?? {}, secrets, run: unrecordedRun(environment, Date.now()) },
		ports
	);
	const redactor = createRedactor(secrets);
	return {
		...{ workspace, start, ports, evaluator: createEvaluator(), redactor, environment, agent: 'test', engine },
		signal: undefined
	};
}

/** Runs the scenarios of a project and gives what became of their steps, in order. */
export async function runAll(given: Given, parallel = 1): Promise<StepResult[]> {
	const context = await contextOf(given);
	const results: StepResult[] = [];
	const plan = {
		run: { ...unrecordedRun(context.environment, Date.now()), id: 'test' },
		workspace: context.workspace,
		scenarios: allScenarios(context.workspace),
		start: context.start,
		redactor: context.redactor,
		parallel,
		stopAfter: 0,
		retries: given.retries ?? 0,
		only: [],
		agent: 'test'
	};
	for await (const events of runPlan(plan, context.ports))
		for (const event of events) if (event.type === 'step') results.push(event.result);
	if (!given.engine) context.engine.close();
	return results;
}

/** One scenario of these steps, through the connection `one`. */
export const steps = (list: object[], more: object = {}): object => ({
	connection: 'one',
	scenarios: [{ id: 's', steps: list.map((step, index) => ({ id: `s${index}`, ...step })) }],
	...more
});
/** The statuses of the calls of a step, legs named. */
export const callsOf = (result: StepResult): string[] =>
	result.exchanges.map(({ leg, reply, error }) => `${leg ? `${leg} ` : ''}${reply?.status ?? error?.code}`);
