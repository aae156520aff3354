import { createTokenKeeper, type TokenKeeper } from '#core/auth/index.ts';
import type { Step } from '#core/steps/index.ts';
import { type Json, type JsonObject, writeJson } from '#core/model/json.ts';
import { kindOfFile } from '#core/documents/kinds.ts';
import { viewReply } from '#core/model/view.ts';
import { createWorkspace, type Workspace } from '#core/project/index.ts';
import { isMasked } from '#core/model/mask.ts';
import type { Redactor } from '#core/redact/index.ts';
import {
	type Chosen,
	chosenRows,
	emptyMemory,
	guardOf,
	hideRemembered,
	unrecordedRun,
	type Memory,
	openRows,
	passesOf,
	type Ports,
	rowNames,
	scopeOf,
	startNames,
	type StartNames,
	type StepContext
} from '#core/run/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { createEngine, memorySource } from '../index.ts';
import type { FromWorker, Job, JobName, Jobs, Outputs, Sealed, StoredMemory, ToWorker } from '../protocol.ts';
import type { CookieSession } from '../send/session.ts';

// What the jobs of one process have in common: the project as it was told last, and what its answers are made with. Kept
// values and cookies leave only for the next process that sends steps by hand, tokens only to be sealed.
const engine = createEngine();
export const post = (message: FromWorker): void => void process.send!(message);
/** Resolves when it is on its way, so that a server that is slow is not flooded. */
export const posted = (message: FromWorker): Promise<void> =>
	new Promise((resolve) => process.send!(message, undefined, undefined, () => resolve()));

// the project, as it was told last
export const documents = new Map<string, { path: string; value: Json }>();
export const files = new Map<string, Uint8Array>();
let known: Workspace | undefined;

export function takeProject({ documents: changed, files: bytes, gone }: Extract<ToWorker, { type: 'project' }>): void {
	for (const one of changed) {
		documents.set(one.path, one);
		files.delete(one.path);
	}
	for (const one of bytes) {
		files.set(one.path, one.bytes);
		documents.delete(one.path);
	}
	for (const path of gone) {
		documents.delete(path);
		files.delete(path);
	}
	known = undefined;
}
// one for all: what was looked at is told from what is another one by it
const nowhere = () => ({ line: 1, column: 1 });
export function workspaceNow(): Workspace {
	if (known) return known;
	const list = [...documents.values()].flatMap(({ path, value }) => {
		const found = kindOfFile(path);
		return found ? [{ path, value, ...found, problems: [], placeOf: nowhere }] : [];
	});
	const here = new Map(files);
	return (known = createWorkspace(list, new Set(here.keys()), (path) => here.get(path)));
}

export const keeper: TokenKeeper = createTokenKeeper([], (credential, environment, token) =>
	post({ type: 'token', environment, credential, token })
);
/** The tokens of the project, as they are known now. */
function keeperOf(environment: string, { tokens }: Sealed): TokenKeeper {
	for (const { credential, token } of tokens) {
		const before = keeper.read(credential, environment);
		if (!before || before.receivedAt <= token.receivedAt) keeper.take(credential, environment, token);
	}
	return keeper;
}

export const portsOf = (job: Job, environment: string, seed: number): Ports => {
	const here = new Map(files);
	return engine.ports({
		seed,
		readFile: (path) => here.get(path),
		data: memorySource(here),
		tokens: keeperOf(environment, job.sealed),
		guard: guardOf(workspaceNow().environments.get(environment), job.sealed.secrets)
	});
};

/** A memory as it was kept. */
async function revived({ outputs, set, cookies, last, kept, files }: StoredMemory, ports: Ports): Promise<Memory> {
	const session = ports.openSession() as CookieSession;
	await session.load(cookies);
	const view = last && viewReply(last.reply, ports.xml);
	return {
		outputs,
		set,
		session,
		hidden: { kept, release: [] },
		...(last && view ? { last: { request: last.request, view } } : {}),
		...(files ? { files } : {})
	};
}
const LARGEST_KEPT = 5_000_000;
const sizeOf = (files: ReadonlyMap<string, Uint8Array>): number =>
	[...files.values()].reduce((sum, bytes) => sum + bytes.length, 0);
export function stored({ outputs, set, session, last, hidden, files }: Memory): StoredMemory {
	const small = last && last.view.reply.body.length + last.request.body.length <= LARGEST_KEPT;
	return {
		outputs,
		set,
		cookies: (session as CookieSession).save(),
		kept: hidden?.kept ?? {},
		...(small ? { last: { request: last.request, reply: last.view.reply } } : {}),
		...(files && sizeOf(files) <= LARGEST_KEPT ? { files } : {})
	};
}

/** The memory of a scenario; outputs that it lacks are taken from what was recorded, but for those that hid a secret. */
export async function recall(
	job: Job,
	{ key, scenario }: Pick<Chosen, 'key' | 'scenario'>,
	outputs: Outputs,
	context: Pick<StepContext, 'workspace' | 'redactor' | 'ports'>
): Promise<Memory> {
	const kept = job.memories[key];
	const memory = kept ? await revived(kept, context.ports) : emptyMemory(context.ports);
	for (const [step, values] of Object.entries(outputs)) {
		const plain = Object.entries(values).filter(([, value]) => !isMasked(writeJson(value)));
		if (!Object.hasOwn(memory.outputs, step)) memory.outputs[step] = Object.fromEntries(plain);
	}
	hideRemembered(scenario.steps, memory, context);
	return memory;
}

/** The stand-ins that run, as the variable by which calls find them. */
export const runningIn = ({ sealed }: Job): JsonObject =>
	sealed.standIns && Object.keys(sealed.standIns).length > 0 ? { standIns: sealed.standIns } : {};

export type LookupContext = StepContext & { start: StartNames };
/** All that a step needs, for looking and for sending by hand. */
export async function contextOf(
	job: Job,
	environment: string,
	redactor: Redactor,
	signal?: AbortSignal
): Promise<LookupContext> {
	const workspace = workspaceNow();
	const ports = portsOf(job, environment, 1);
	const given = { set: runningIn(job), secrets: job.sealed.secrets, run: unrecordedRun(environment, Date.now()) };
	const start = await startNames(workspace, environment, given, ports, redactor);
	return { workspace, start, ports, evaluator: createEvaluator(), redactor, environment, agent: job.agent, signal };
}

/** The context with the row that is looked at, and with the first pass of a step that repeats. */
export async function withRow(
	context: StepContext & { start: StartNames },
	chosen: Chosen,
	step: Step,
	number: number,
	memory: Memory
): Promise<StepContext & { start: StartNames }> {
	let here = context;
	const rows = (await openRows([chosen], { row: number }, context.ports)).get(chosen.key);
	const tools = { evaluator: context.evaluator, scope: scopeOf(here, memory), seed: 1, ports: context.ports };
	if (rows) {
		for await (const row of chosenRows(rows, tools)) {
			here = { ...here, row, start: await here.start.withRow(rowNames(row)) };
			break;
		}
	}
	if (step.each === undefined) return here;
	for await (const pass of passesOf(step.each, { ...tools, scope: scopeOf(here, memory) })) return { ...here, pass };
	return here;
}

export type Handler<N extends JobName> = (
	job: Job<N>,
	redactor: Redactor,
	stop: AbortController
) => Promise<Jobs[N]['answer']>;
