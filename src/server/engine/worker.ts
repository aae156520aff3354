import {
	checkVector,
	createFlow,
	createTokenKeeper,
	credentialKind,
	traceRecipe,
	type AuthTools,
	type Flow,
	type TokenKeeper
} from '#core/auth/index.ts';
import { makeRows } from '#core/datasets/index.ts';
import { HeronError, textOf, type Problem } from '#core/errors.ts';
import { parseStep, type Step } from '#core/model/collection.ts';
import { inEnvironment, standInOf } from '#core/model/connection.ts';
import { writeJson, type Json, type JsonObject } from '#core/model/json.ts';
import { kindOfFile } from '#core/model/kinds.ts';
import { nameOf } from '#core/openapi/index.ts';
import { parseRows } from '#core/model/rows.ts';
import { viewReply } from '#core/model/view.ts';
import { createWorkspace, type Workspace } from '#core/project/index.ts';
import { createRedactor, isMasked, maskOf, type Redactor } from '#core/redact/index.ts';
import {
	allScenarios,
	blankRequest,
	choose,
	chosenRows,
	emptyMemory,
	findUnresolved,
	judgeReply,
	namespacesFor,
	operationOf,
	keepOne,
	lookingRun,
	guardOf,
	openRows,
	passesOf,
	prepareCall,
	refuseProblems,
	rehearse,
	rehearseStep,
	rowNames,
	rowStarts,
	runPlan,
	scopeOf,
	startNames,
	stillPorts,
	wayOfLegs,
	type Chosen,
	type Exchange,
	type Memory,
	type Ports,
	type PreparedRequest,
	type StartNames,
	type StepContext
} from '#core/run/index.ts';
import { createEvaluator, Raw } from '#core/values/index.ts';
import { setMaxListeners } from 'node:events';
import { createEngine, fetchDefinition, memorySource } from './index.ts';
import type { CookieSession } from './send/session.ts';
import type {
	DatasetAnswer,
	FlowAnswer,
	FromWorker,
	JudgeAnswer,
	Job,
	JobName,
	Jobs,
	Outputs,
	RecipeAnswer,
	AskAnswer,
	RehearseAnswer,
	Sealed,
	StandInProgress,
	StoredMemory,
	ToWorker,
	WireError
} from './protocol.ts';
import { reach } from './reach/index.ts';
import { planDefinitions } from '#core/definitions/index.ts';
import { unpackDefinitions } from './unpack.ts';
import { parseStandIn } from '#core/model/stand-in.ts';
import { answersOf, createService, originsOf, readHar, type StandInPorts } from '#core/stand-in/index.ts';
import { startStandIns, type CallRecord } from './stand-in/index.ts';

// A process of its own that carries out the jobs of one project. Kept values and cookies leave only for the next process
// that sends steps by hand, tokens only to be sealed.
const engine = createEngine();
const running = new Map<string, AbortController>();
const flows = new Map<string, { flow: Flow; environment: string; credential: string; redactor: Redactor }>();
const FLOWS_KEPT = 50;

// who cannot hear us any more needs nothing more
process.on('disconnect', () => process.exit(0));
// Ctrl+C in a terminal goes to all: the server says when it is over
process.on('SIGINT', () => {}).on('SIGTERM', () => {});

const post = (message: FromWorker): void => void process.send!(message);
/** Resolves when it is on its way, so that a server that is slow is not flooded. */
const posted = (message: FromWorker): Promise<void> =>
	new Promise((resolve) => process.send!(message, undefined, undefined, () => resolve()));

// the project, as it was told last
const documents = new Map<string, { path: string; value: Json }>();
const files = new Map<string, Uint8Array>();
let known: Workspace | undefined;

function takeProject({ documents: changed, files: bytes, gone }: Extract<ToWorker, { type: 'project' }>): void {
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
function workspaceNow(): Workspace {
	if (known) return known;
	const list = [...documents.values()].flatMap(({ path, value }) => {
		const found = kindOfFile(path);
		return found ? [{ path, value, ...found, problems: [], placeOf: nowhere }] : [];
	});
	const here = new Map(files);
	return (known = createWorkspace(list, new Set(here.keys()), (path) => here.get(path)));
}

const keeper: TokenKeeper = createTokenKeeper([], (credential, environment, token) =>
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

const portsOf = (job: Job, environment: string, seed: number): Ports => {
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
function revived({ outputs, set, cookies, last }: StoredMemory, ports: Ports): Memory {
	const session = ports.openSession() as CookieSession;
	session.load(cookies);
	const view = last && viewReply(last.reply, ports.xml);
	return { outputs, set, session, ...(last && view ? { last: { request: last.request, view } } : {}) };
}
const LARGEST_KEPT = 5_000_000;
function stored({ outputs, set, session, last }: Memory): StoredMemory {
	const small = last && last.view.reply.body.length + last.request.body.length <= LARGEST_KEPT;
	return {
		outputs,
		set,
		cookies: (session as CookieSession).save(),
		...(small ? { last: { request: last.request, reply: last.view.reply } } : {})
	};
}

/** The memory of a scenario; outputs that it lacks are taken from what was recorded, but for those that hid a secret. */
function recall(job: Job, key: string, outputs: Outputs, ports: Ports): Memory {
	const kept = job.memories[key];
	const memory = kept ? revived(kept, ports) : emptyMemory(ports);
	for (const [step, values] of Object.entries(outputs)) {
		const plain = Object.entries(values).filter(([, value]) => !isMasked(writeJson(value)));
		memory.outputs[step] ??= Object.fromEntries(plain);
	}
	return memory;
}

/** The stand-ins that run, as the variable by which calls find them. */
const runningIn = ({ sealed }: Job): JsonObject =>
	sealed.standIns && Object.keys(sealed.standIns).length > 0 ? { standIns: sealed.standIns } : {};

type Looking = StepContext & { start: StartNames };
/** All that a step needs, for looking and for sending by hand. */
async function contextOf(job: Job, environment: string, redactor: Redactor, signal?: AbortSignal): Promise<Looking> {
	const workspace = workspaceNow();
	const ports = portsOf(job, environment, 1);
	const given = { set: runningIn(job), secrets: job.sealed.secrets, run: lookingRun(environment, Date.now()) };
	const start = await startNames(workspace, environment, given, ports, redactor);
	return { workspace, start, ports, evaluator: createEvaluator(), redactor, environment, agent: job.agent, signal };
}

type Handler<N extends JobName> = (
	job: Job<N>,
	redactor: Redactor,
	stop: AbortController
) => Promise<Jobs[N]['answer']>;

const MEMORIES_TOLD = 100;
const run: Handler<'run'> = async (job, redactor, stop) => {
	const { id, order, sealed, agent } = job;
	const workspace = workspaceNow();
	const { scenarios } = choose(workspace, { targets: order.targets });
	const ports = portsOf(job, order.environment, order.info.seed);
	const start = await startNames(
		workspace,
		order.environment,
		{ set: { ...runningIn(job), ...order.set }, secrets: sealed.secrets, run: order.info },
		ports,
		redactor
	);
	const rows = await openRows(scenarios, order.rows, ports);
	// only what will be sent has to resolve
	refuseProblems(
		order.only.length === 0 ? findUnresolved(workspace, scenarios, start, await rowStarts(rows, start)) : []
	);
	const memories = new Map<string, Memory>();
	if (order.only.length > 0) for (const { key } of scenarios) memories.set(key, recall(job, key, order.outputs, ports));
	const plan = {
		run: order.info,
		workspace,
		scenarios,
		start,
		rows,
		redactor,
		parallel: order.parallel,
		stopAfter: order.stopAfter,
		retries: order.retries,
		only: order.only,
		memories,
		agent
	};
	try {
		for await (const events of runPlan(plan, ports, stop.signal)) await posted({ type: 'progress', id, events });
	} finally {
		// the newest ones: more are not kept
		for (const [scenario, memory] of [...memories].slice(-MEMORIES_TOLD))
			await posted({ type: 'memory', environment: order.environment, scenario, memory: stored(memory) });
	}
	return null;
};

/** The context with the row that is looked at, and with the first pass of a step that repeats. */
async function withRow(
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

const preview: Handler<'preview'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const step = parseStep(order.step);
	if (!step.send) throw new HeronError('request.wrong', { detail: 'only a step that sends has a request' });
	const key = `${order.collection}/${order.scenario}`;
	const chosen = allScenarios(context.workspace).find((one) => one.key === key);
	if (!chosen) throw new HeronError('request.notFound', { what: `the scenario ${key}` });
	const memory = recall(job, key, order.outputs, context.ports);
	const here = await withRow(context, chosen, step, order.row, memory);
	const { request, credential, later, pieces } = await rehearseStep(chosen, step, memory, here);
	const { method, url, headers, origins, body } = redactor.record(request, ['method', 'origins']);
	return { method, url, headers, origins, body, credential, pieces, ...(later ? { later } : {}) };
};

const judgeJob: Handler<'judge'> = async (job, redactor) => {
	const { order } = job;
	const { exchange } = order;
	const context = await contextOf(job, order.environment, redactor);
	const { send } = parseStep(order.step);
	if (!send || !exchange.reply) throw new HeronError('request.wrong', { detail: 'there is no answer to look at' });
	const key = `${order.collection}/${order.scenario}`;
	const chosen = allScenarios(context.workspace).find((one) => one.key === key);
	if (!chosen) throw new HeronError('request.notFound', { what: `the scenario ${key}` });
	const memory = recall(job, key, order.outputs, context.ports);
	const here = await withRow(context, chosen, parseStep(order.step), order.row, memory);
	const request: PreparedRequest = {
		...blankRequest(exchange.method, exchange.url, job.agent),
		headers: exchange.requestHeaders,
		body: exchange.requestBody
	};
	const view = viewReply(exchange.reply, context.ports.xml, namespacesFor(chosen, send, context));
	const kept: JsonObject = {};
	for (const one of send.keep) {
		const value = await Promise.resolve(keepOne(one, view)).catch(() => undefined);
		if (value !== undefined) kept[one.name] = value;
	}
	view.close();
	const checks = await judgeReply(chosen, exchange, request, send, memory, here);
	const called = { spec: send, chosen, request, scope: scopeOf(here, memory) };
	const operation = await operationOf(called, here).then(
		(found) => `${nameOf(found)} of ${found.document.file.replace('definitions/', '')}`,
		() => undefined
	);
	const answer: JudgeAnswer = { checks, kept, ...(operation ? { operation } : {}) };
	return { ...redactor.record(answer, ['relation']), kept: redactor.deep(kept) };
};

const rehearsal: Handler<'rehearse'> = async (job, redactor) => {
	const { targets, environment, rows: choice, most } = job.order;
	const context = await contextOf(job, environment, redactor);
	const { scenarios } = choose(context.workspace, { targets });
	const rows = await openRows(scenarios, choice, context.ports);
	const answer: RehearseAnswer = { steps: [], more: false };
	for await (const step of rehearse({ context, scenarios, rows, redactor, seed: 1 })) {
		answer.more = answer.steps.length === most;
		if (answer.more) break;
		answer.steps.push(step);
	}
	return answer;
};

const resolve: Handler<'resolve'> = async (job, redactor) => {
	const { workspace, start, ports } = await contextOf(job, job.order.environment, redactor);
	const all = allScenarios(workspace);
	const trouble: Problem[] = [];
	const starts = new Map<string, StartNames>();
	for (const chosen of all) {
		try {
			for (const [key, one] of await rowStarts(await openRows([chosen], {}, ports), start)) starts.set(key, one);
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			const at = workspace.collections.get(chosen.collection)!.scenarios.indexOf(chosen.scenario);
			const file = `collections/${chosen.collection}.yaml`;
			trouble.push({ code: error.code, message: error.message, file, path: ['scenarios', at, 'rows'] });
		}
	}
	const problems = [...trouble, ...findUnresolved(workspace, all, start, starts)];
	const hidden = problems.map((problem) => redactor.record(problem, ['code', 'file', 'path']));
	const values = Object.fromEntries(Object.entries(start.names.env).filter(([name]) => standInOf(name) === undefined));
	return { problems: hidden, values: redactor.deep(values) };
};

const definition: Handler<'definition'> = async (job, redactor) => {
	const { address, name, connection, environment, others } = job.order;
	const context = await contextOf(job, environment, redactor);
	return fetchDefinition(address, `definitions/${name}`, connection, context, others);
};

const importJob: Handler<'import'> = ({ order: { files: given, name, connection, address, choose } }) => {
	const unpacked = unpackDefinitions(given);
	if (unpacked.length === 0) throw new HeronError('definition.none', { detail: 'no file was given' });
	return Promise.resolve(
		planDefinitions({
			...{ name, files: unpacked, connection, workspace: workspaceNow() },
			...(address ? { address } : {}),
			...(choose ? { choose } : {}),
			readFile: (path) => files.get(path),
			valueOf: (path) => documents.get(path)?.value
		})
	);
};

const tryIt: Handler<'try'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const chosen = allScenarios(context.workspace).find((one) => one.key === order.scenario);
	const memory = chosen ? recall(job, chosen.key, order.outputs, context.ports) : emptyMemory(context.ports);
	const { text } = order;
	try {
		const here = chosen ? await withRow(context, chosen, parseStep({}), order.row ?? 1, memory) : context;
		let touched = false;
		const hider = {
			text: (one: string) => redactor.text(one),
			made: (name: string, one: string) => redactor.made(name, one),
			touched: () => void (touched = true)
		};
		const scope = { ...scopeOf(here, memory), hider };
		const value = await (text.includes('{$')
			? here.evaluator.value(text, scope)
			: here.evaluator.expression(text, scope));
		const plain = value instanceof Raw ? value.text : value;
		// even whether it is there, or true, would tell of a secret
		if (touched && typeof plain !== 'string') return { value: maskOf('secret.made') };
		return plain === undefined ? { trouble: 'it gives nothing' } : { value: redactor.deep(plain) };
	} catch (error) {
		return redactor.record({ trouble: textOf(error) });
	}
};

const PAGE = 1000;
const dataset: Handler<'dataset'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const spec = parseRows(order.rows);
	if (!spec) throw new HeronError('request.wrong', { detail: 'a dataset is wanted' });
	const opened = await context.ports.dataset(spec);
	const { file, columns, notes, delimiter } = opened;
	const answer: DatasetAnswer = {
		file,
		columns,
		notes,
		...(delimiter ? { delimiter } : {}),
		count: 0,
		chosen: 0,
		numbers: [],
		rows: []
	};
	const tools = { evaluator: context.evaluator, scope: scopeOf(context, emptyMemory(context.ports)), seed: 1 };
	const last = order.from + Math.min(order.count, PAGE);
	for await (const row of opened.rows()) {
		answer.count++;
		if (answer.count > order.from && answer.count <= last) answer.rows.push(row);
	}
	for await (const { number } of chosenRows({ spec, dataset: opened }, tools)) {
		answer.chosen++;
		if (answer.numbers.length < PAGE) answer.numbers.push(number);
	}
	const rows = answer.rows.map(({ values, ...row }) => ({ ...redactor.record(row), values: redactor.deep(values) }));
	return { ...redactor.record(answer), rows };
};

const make: Handler<'make'> = async (job, redactor, stop) => {
	const { columns, count, seed, environment } = job.order;
	const context = await contextOf(job, environment, redactor);
	const scope = { ...scopeOf(context, emptyMemory(context.ports)), ports: portsOf(job, environment, seed) };
	const pause = () => new Promise<void>((resolve) => setImmediate(resolve));
	const rows = await makeRows(columns, count, { evaluator: context.evaluator, scope, signal: stop.signal, pause });
	return redactor.deep(rows);
};

const reachJob: Handler<'reach'> = async (job, redactor, stop) => {
	const context = await contextOf(job, job.order.environment, redactor, stop.signal);
	return reach(job.order, context, (stage) => post({ type: 'progress', id: job.id, stage }));
};

/** A recipe with its live values: for the request of a step, and for its test vector. */
const recipe: Handler<'recipe'> = async (job, redactor) => {
	const { order } = job;
	const context = await contextOf(job, order.environment, redactor);
	const answer: RecipeAnswer = { request: '' };
	try {
		const { request, scope } = await requestOfRecipe();
		answer.request = `${request.method} ${request.url}`;
		answer.trace = await traceRecipe(order.value, request, { evaluator: context.evaluator, scope });
	} catch (error) {
		answer.trouble = textOf(error);
	}
	if (order.value.vector !== undefined) {
		try {
			answer.vector = await checkVector(order.value, context.evaluator);
		} catch (error) {
			answer.vectorTrouble = textOf(error);
		}
	}
	// what the vector gives is made of test secrets, and may be seen
	const { vector, ...rest } = answer;
	return { ...redactor.record(rest), ...(vector ? { vector } : {}) };

	async function requestOfRecipe() {
		const quiet = { ...context, ports: stillPorts(context.ports) };
		if (!order.step) {
			const memory = emptyMemory(context.ports);
			return {
				request: blankRequest('GET', 'https://host.example/path?b=2&a=1', job.agent),
				scope: scopeOf(quiet, memory)
			};
		}
		const key = `${order.step.collection}/${order.step.scenario}`;
		const chosen = allScenarios(context.workspace).find((one) => one.key === key);
		const step = chosen?.scenario.steps.find((one) => one.id === order.step!.step);
		if (!chosen || !step?.send)
			throw new HeronError('request.notFound', { what: `the step ${key}/${order.step.step}` });
		const memory = recall(job, key, order.outputs, context.ports);
		const scope = scopeOf(quiet, memory);
		const { request } = await prepareCall(chosen, { ...step.send, credential: 'none' }, memory, quiet, scope);
		return { request, scope };
	}
};

const flow: Handler<'flow'> = async (job, redactor) => {
	const { order } = job;
	if (order.action === 'start') {
		const context = await contextOf(job, order.environment, redactor);
		const credential = context.workspace.credentials.get(order.credential);
		if (credential?.kind !== 'oauth2')
			throw new HeronError('request.notFound', { what: `an OAuth 2.0 credential "${order.credential}"` });
		const made = await openFlow(credential.name, credential.value, context, order.redirect);
		const id = made.state;
		if (flows.size >= FLOWS_KEPT) flows.delete(flows.keys().next().value!);
		flows.set(id, { flow: made, environment: order.environment, credential: order.credential, redactor });
		return show(id);
	}
	if (order.action === 'callback') {
		const id = order.flow ?? new URLSearchParams(order.params).get('state') ?? '';
		const found = flows.get(id);
		if (!found)
			throw new HeronError('auth.callback', {
				detail: 'its state belongs to no sign-in that was begun here: begin again on the credential’s page'
			});
		await found.flow.callback(order.params);
		return show(id);
	}
	const found = flows.get(order.flow);
	if (!found) throw new HeronError('request.notFound', { what: 'this sign-in (begin again)' });
	if (order.action === 'act') await found.flow.act(order.leg);
	return show(order.flow);

	function show(id: string): FlowAnswer {
		const { flow: shown, credential, redactor: own } = flows.get(id)!;
		const { legs, token, ...rest } = shown.view();
		return {
			...own.record(rest),
			legs: legs.map((leg) => ({ ...own.record(leg), key: leg.key, state: leg.state })),
			// its names are the server's
			...(token ? { token: { ...token, reply: own.deep(token.reply) } } : {}),
			flow: id,
			credential
		};
	}
};

async function openFlow(
	name: string,
	value: JsonObject,
	context: StepContext & { start: StartNames },
	redirect: string
): Promise<Flow> {
	const { ports, evaluator, redactor, agent, environment } = context;
	const memory = emptyMemory(ports);
	const scope = scopeOf(context, memory);
	const given: JsonObject = {};
	for (const [key, item] of Object.entries(value)) given[key] = await evaluator.deep(item as Json, scope);
	for (const field of credentialKind('oauth2')!.fields) {
		if (field.secret && typeof given[field.name] === 'string')
			redactor.learn(`${name}.${field.name}`, String(given[field.name]));
	}
	// without a call it takes the way of a connection that uses it
	const user = [...context.workspace.connections.values()].find((one) => one.credential === name);
	const way = await wayOfLegs(given.connection, user && inEnvironment(user, environment), context, scope);
	const tools: AuthTools = {
		name,
		environment,
		evaluator,
		scope,
		ports,
		state: memory.session.auth,
		learn: (what, secret) => redactor.learn(what, secret),
		made: (what, secret) => redactor.made(what, secret),
		async leg(title: string, request: PreparedRequest): Promise<Exchange> {
			const transport = request.transport ?? way(request.url);
			const { exchanges } = await ports.send(
				{ ...request, ...(transport ? { transport } : {}) },
				memory.session,
				undefined
			);
			return { ...exchanges.at(-1)!, leg: title };
		},
		blank: (method, url) => blankRequest(method, url, agent)
	};
	const kept = ports.tokens.read(name, environment);
	for (const member of ['access_token', 'refresh_token', 'id_token']) {
		if (typeof kept?.reply[member] === 'string') redactor.learn(`${name}.${member}`, String(kept.reply[member]));
	}
	return createFlow(given, tools, redirect);
}

const TOLD_EVERY_MS = 100;
const renewals = new Map<string, () => Promise<void>>();
const filesNow = () => {
	const here = new Map(files);
	return { workspace: workspaceNow(), readFile: (path: string) => here.get(path), data: memorySource(here) };
};

/** Runs until it is cancelled. */
const standIn: Handler<'standIn'> = async (job, _, stop) => {
	const { name, environment, faults } = job.order;
	const tell = (progress: StandInProgress) => post({ type: 'progress', id: job.id, ...progress });
	let waiting: CallRecord[] = [];
	let timer: NodeJS.Timeout | undefined;
	const flush = () => {
		timer = undefined;
		const calls = waiting;
		waiting = [];
		const service = running.list[0]!.service();
		tell({ calls, now: { counts: service.counts(), stores: service.stores(), faults: service.faults() } });
	};
	const soon = () => (timer ??= setTimeout(flush, TOLD_EVERY_MS));
	const running = await startStandIns({
		...filesNow(),
		...{ names: [name], environment, secrets: job.sealed.secrets, set: runningIn(job) },
		...(faults.length > 0 ? { faults } : {}),
		onCall(call) {
			waiting.push(call);
			soon();
		},
		onChange: soon
	});
	tell({ address: running.addresses[name]! });
	soon();
	renewals.set(job.id, async () => {
		try {
			await running.renew(filesNow());
			tell({ renewed: '' });
			soon();
		} catch (error) {
			const { problems = [] } = error as { problems?: { message: string }[] };
			tell({ renewed: problems[0]?.message ?? textOf(error) });
		}
	});
	if (!stop.signal.aborted)
		await new Promise((resolve) => stop.signal.addEventListener('abort', resolve, { once: true }));
	renewals.delete(job.id);
	clearTimeout(timer);
	await running.close();
	return null;
};

const recorded: Handler<'recorded'> = async (job, redactor) => {
	const { order } = job;
	const list = order.har === undefined ? (order.calls ?? []) : readHar(order.har);
	const origins = originsOf(list);
	const origin = order.origin || (origins[0]?.origin ?? '');
	const bases = await basesAt(origin, await contextOf(job, order.environment, redactor));
	return { ...answersOf(list, origin, [...bases, order.base.replace(/\/+$/, '')]), origin, origins };
};

/** Paths below which connections call an origin. */
async function basesAt(origin: string, context: Looking): Promise<string[]> {
	const { workspace, environment, evaluator, ports } = context;
	const scope = scopeOf(context, emptyMemory(ports));
	const bases: string[] = [];
	for (const connection of workspace.connections.values()) {
		const { base } = inEnvironment(connection, environment);
		// one that does not resolve called nothing
		const address = await evaluator.text(base, scope).then(evaluator.bare, () => '');
		if (!URL.canParse(address) || new URL(address).origin !== origin) continue;
		bases.push(new URL(address).pathname.replace(/\/+$/, ''));
	}
	return bases;
}

const askStandIn: Handler<'askStandIn'> = async (job, redactor) => {
	const { name, value, environment, request, remembered } = job.order;
	const context = await contextOf(job, environment, redactor);
	const spec = parseStandIn(name, value);
	const detail = 'it would be passed on: nothing is sent while it is tried';
	const ports = Object.assign(context.ports as unknown as StandInPorts, {
		send: () => Promise.reject(new HeronError('send.failed', { detail }))
	});
	const { env, secret, run: info } = context.start.names;
	const service = createService(spec, {
		...{ workspace: context.workspace, names: { env, secret, run: info }, broken: context.start.broken, ports }
	});
	await service.ready();
	if (remembered) service.recall(remembered);
	const asked = {
		...{ method: request.method, target: request.target, headers: request.headers },
		body: new TextEncoder().encode(request.body),
		origin: `http://127.0.0.1:${spec.port || 80}`
	};
	const began = performance.now();
	const answered = await service.ask(asked, { trial: true });
	const ms = performance.now() - began;
	const drift = await service.drift(asked, answered);
	const { given, trial } = answered;
	const answer: AskAnswer = {
		status: given.end === 'reset' || given.end === 'silent' ? 0 : given.status,
		headers: given.headers,
		body: trial ? trial.body : [{ text: new TextDecoder().decode(given.body) }],
		values: trial?.values ?? [],
		path: trial?.path ?? {},
		by: answered.by,
		tried: answered.tried,
		faults: answered.faults,
		notes: answered.notes,
		drift,
		held: spec.definition !== '' && answered.by !== '' && !answered.refused,
		...(answered.forwarded ? { forwarded: answered.forwarded } : {}),
		calls: answered.calls.map(({ after, outgoing, error }) => ({
			...{ after, method: outgoing?.method ?? '', url: outgoing?.url ?? '' },
			...(error ? { error } : {})
		})),
		ms
	};
	return redactor.active ? { ...redactor.record(answer, ['by']), by: answer.by } : answer;
};

/** Jobs whose results are what came back, not what somebody asks to see. */
const SENDING: ReadonlySet<JobName> = new Set(['run', 'reach', 'flow', 'definition', 'standIn']);
const handlers: { [N in JobName]: Handler<N> } = {
	run,
	preview,
	judge: judgeJob,
	rehearse: rehearsal,
	resolve,
	definition,
	import: importJob,
	try: tryIt,
	dataset,
	make,
	reach: reachJob,
	recipe,
	flow,
	standIn,
	recorded,
	askStandIn
};

const wireError = (error: unknown): WireError =>
	error instanceof HeronError
		? { code: error.code, message: error.message, values: error.values, problems: error.problems }
		: { code: 'server.failed', message: textOf(error), values: { detail: textOf(error) }, problems: [] };

const pong = (): void => post({ type: 'pong', memory: process.memoryUsage().rss });
// from here on silence is its own
pong();
process.on('message', (message: ToWorker) => {
	if (message.type === 'ping') return pong();
	if (message.type === 'project') return takeProject(message);
	if (message.type === 'cancel') return running.get(message.id)?.abort(new HeronError('send.cancelled'));
	if (message.type === 'renew') return void renewals.get(message.id)?.();
	if (message.type === 'token') return keeper.take(message.credential, message.environment, message.token);
	if (message.type === 'forget') return keeper.take(message.credential, message.environment, undefined);
	// where nothing is sent, whoever looks could read a secret piece by piece
	const redactor = createRedactor(message.sealed.secrets, { strict: !SENDING.has(message.type) });
	const stop = new AbortController();
	// every request under way listens
	setMaxListeners(0, stop.signal);
	running.set(message.id, stop);
	const handle = handlers[message.type] as Handler<JobName>;
	Promise.resolve()
		.then(() => handle(message, redactor, stop))
		.then((answer) => post({ type: 'done', id: message.id, answer }))
		.catch((thrown: unknown) => {
			const error = wireError(thrown);
			post({ type: 'failed', id: message.id, error: { ...redactor.record(error), code: error.code } });
		})
		.finally(() => running.delete(message.id));
});
