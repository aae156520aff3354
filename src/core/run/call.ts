import { requestNames } from '../auth/index.ts';
import { fails, isPaused, judge, sentenceOf, type Check, type CheckResult, type JudgeTools } from '../checks/index.ts';
import { HeronError, textOf } from '../errors.ts';
import { didYouMean } from '../messages.ts';
import type { SendSpec, Until } from '../model/step.ts';
import type { Step } from '../steps/index.ts';
import { inEnvironment, settleConnection } from '../documents/connection.ts';
import { parseJson, type Json } from '../model/json.ts';
import { withHeader } from '../model/exchange.ts';
import { spanOf } from '../model/trace.ts';
import { headerValue, isJsonType, mediaType } from '../model/reply.ts';
import { showDuration } from '../model/units.ts';
import { viewReply, type ReplyView } from '../model/view.ts';
import type { Namespaces } from '../model/xml.ts';
import { sendNames } from '../steps/index.ts';
import { Bytes, bytesToHex, decodeText, reasonOf, type Names, type Scope } from '../values/index.ts';
import { inheritedCredential, signIn, type Inherited, type SignIn } from './authorize.ts';
import { contractFaults, misfits, requestContractFaults } from './contract.ts';
import type { StepResult } from './events.ts';
import type { Chosen } from './plan.ts';
import type { Exchange, PreparedRequest } from './ports.ts';
import { prepareRequest } from './prepare.ts';
import { fail, scopeOf, withFiles, type Memory, type StepContext } from './context.ts';
import { keepAll } from './keep.ts';

/** Of a step that is sent over and over the first exchange is kept, and the last ones. */
const EXCHANGES_KEPT = 20;

/** Sends a step once, or until what must hold holds; then it is judged, and what it keeps is kept. */
export async function attemptSend(
	chosen: Chosen,
	step: Step,
	spec: SendSpec,
	memory: Memory,
	context: StepContext,
	result: StepResult
): Promise<void> {
	const { until } = step;
	if (!until) {
		await settle(await sendOnce(chosen, step, spec, memory, context, result), step, memory, context, result);
		return;
	}
	const { ports, signal } = context;
	const begun = ports.steady();
	let pause = until.every;
	for (let tries = 1; ; tries++) {
		const answer = await sendOnce(chosen, step, spec, memory, context, result);
		const held = await holdsUntil(until, answer, context);
		if (held.holds) {
			await settle(answer, step, memory, context, result);
			result.tries = tries;
			return;
		}
		result.tries = tries;
		context.progress?.(`try ${tries}: ${held.received}`);
		const spent = ports.steady() - begun;
		const over = until.times > 0 && tries >= until.times;
		if (signal?.aborted) return fail(result, new HeronError('send.cancelled'));
		if (over || spent + pause > until.within) {
			answer.view?.close();
			if (answer.error && !answer.view) return fail(result, answer.error);
			result.checks = [notInTime(until, spec, held, tries, spent)];
			result.outcome = 'failed';
			return;
		}
		answer.view?.close();
		await ports.sleep(pause, signal);
		if (signal?.aborted) return fail(result, new HeronError('send.cancelled'));
		pause *= until.growth;
	}
}

const conditionOf = (until: Until, { checks }: SendSpec): string =>
	until.check
		? sentenceOf(until.check)
		: checks
				.filter(({ off }) => !off)
				.map(sentenceOf)
				.join(', ');

function notInTime(until: Until, spec: SendSpec, { received }: Held, tries: number, spent: number): CheckResult {
	const limit = until.times > 0 && tries >= until.times ? `${until.times} tries` : showDuration(until.within);
	return {
		index: -1,
		subject: 'until',
		relation: 'until',
		expected: `${conditionOf(until, spec)} within ${limit}`,
		received: `${received}, after ${tries} ${tries === 1 ? 'try' : 'tries'} in ${showDuration(spent)}`,
		holds: false
	};
}

interface Held {
	holds: boolean;
	received: string;
}

async function holdsUntil(until: Until, answer: Answer, context: StepContext): Promise<Held> {
	if (!answer.view) return { holds: false, received: answer.error ? textOf(answer.error) : 'no answer' };
	const tools = judgeTools(answer, context);
	const checks = until.check ? [until.check] : answer.spec.checks;
	const results = await judgeAll(checks, tools);
	const odd = results.find((one) => (until.check ? !one.holds : fails(one)));
	return {
		holds: odd === undefined,
		received: odd ? (odd.error ?? `${odd.subject} ${odd.received}`) : 'it holds'
	};
}

/** What came of sending once. */
interface Answer {
	spec: SendSpec;
	chosen: Chosen;
	request: PreparedRequest;
	scope: Scope;
	view?: ReplyView;
	exchange?: Exchange;
	error?: HeronError;
}

/**
 * A request with a traceparent field (W3C Trace Context section 3.2): the trace is the run, and the first six octets of
 * the span are the step's, whatever run it is in; a field of the step's own stays.
 */
function traced(request: PreparedRequest, step: string, { start, ports }: StepContext): PreparedRequest {
	const run = String(start.names.run.id).replaceAll('-', '').toLowerCase();
	if (!/^[\da-f]{32}$/.test(run) || headerValue(request.headers, 'traceparent') !== undefined) return request;
	return withHeader(request, 'traceparent', `00-${run}-${spanOf(step)}${bytesToHex(ports.randomBytes(2))}-01`, 'added');
}

async function sendOnce(
	chosen: Chosen,
	step: Step,
	written: SendSpec,
	memory: Memory,
	context: StepContext,
	result: StepResult
): Promise<Answer> {
	const { ports, workspace } = context;
	const scope = scopeOf(context, memory);
	const call = await prepareCall(chosen, written, memory, context, scope);
	const spec = { ...written, connection: call.through };
	const request = workspace.project.trace ? traced(call.request, `${chosen.key}/${step.id}`, context) : call.request;
	const outcome = await ports.send(request, memory.session, context.signal, call.signIn?.authorizer);
	const legs = call.signIn?.legs ?? [];
	// in the order in which they happened: a token may be fetched before the call, or after it was refused
	result.exchanges.push(
		...(legs.length > 0 ? [...legs, ...outcome.exchanges].sort((a, b) => a.startedAt - b.startedAt) : outcome.exchanges)
	);
	if (result.exchanges.length > EXCHANGES_KEPT) result.exchanges.splice(1, result.exchanges.length - EXCHANGES_KEPT);
	const exchange = outcome.exchanges.at(-1);
	if (outcome.error || !exchange?.reply)
		return {
			spec,
			chosen,
			request,
			scope,
			error: outcome.error ?? new HeronError('send.failed', { detail: 'there is no reply' })
		};
	const view = viewReply(exchange.reply, ports.xml, namespacesFor(chosen, spec, context));
	memory.last = { request, view };
	return { spec, chosen, request, scope, view, exchange };
}

/** Judges an answer by all checks of its step, and keeps what is kept. */
async function settle(
	answer: Answer,
	step: Step,
	memory: Memory,
	context: StepContext,
	result: StepResult
): Promise<void> {
	if (!answer.view) return fail(result, answer.error!);
	try {
		// kept first, so that checks may speak of what this step keeps
		const keeper = { scope: answer.scope, step: step.id, memory };
		const kept = await keepAll(
			answer.spec.keep,
			{ view: answer.view, called: answer.exchange?.url ?? answer.request.url },
			keeper,
			context
		);
		memory.outputs[step.id] = kept.values;
		result.kept = kept.values;
		result.checks = await judgeAll(answer.spec.checks, judgeTools(answer, context));
		result.checks.push(...kept.missing);
		if (!result.checks.some(fails)) return;
		result.outcome = 'failed';
		await tellRefused(answer, context);
	} finally {
		answer.view.close();
	}
}

/** Says of a call that was refused what in it is not as its definition has it: that may be why. */
async function tellRefused(answer: Answer, context: StepContext): Promise<void> {
	const { exchange } = answer;
	const status = exchange?.reply?.status ?? 0;
	if (!exchange || status < 400 || status > 499) return;
	const faults = await misfits(answer, context);
	if (faults.length === 0) return;
	const note = `what was sent is not as its definition has it: ${faults.slice(0, 3).join('; ')}`;
	exchange.notes = [...(exchange.notes ?? []), note];
}

/** Judges checks that are not off. Never throws. */
async function judgeAll(checks: Check[], tools: JudgeTools): Promise<CheckResult[]> {
	const results: CheckResult[] = [];
	for (const [index, check] of checks.entries())
		if (!isPaused(check, tools.now())) results.push(...(await judge(check, index, tools)));
	return results;
}

function judgeTools(answer: Answer, context: StepContext): JudgeTools {
	const { request, scope, view, exchange } = answer;
	const { evaluator, ports, redactor, environment } = context;
	// not spread: that would compute what nobody has asked for
	const replyScope: Scope = { ...scope, names: Object.assign(lazyNames(request, view!), scope.names) };
	return {
		view: view!,
		resolve: (value) => evaluator.deep(value, replyScope),
		expression: (source) => evaluator.expression(source, replyScope),
		reason: (source) => reasonOf(source, replyScope),
		now: () => ports.now(),
		tls: exchange?.tls,
		validate: (value, file) => ports.validateJson(value, file),
		contract: (side) =>
			side === 'request' ? requestContractFaults(answer, context) : contractFaults({ ...answer, view: view! }, context),
		approved: (name) => ports.approved(name, environment),
		redact: (text) => redactor.text(text)
	};
}

/** Judges checks on a reply that came earlier. */
export async function judgeReply(
	chosen: Chosen,
	exchange: Exchange,
	request: PreparedRequest,
	spec: SendSpec,
	memory: Memory,
	context: StepContext
): Promise<CheckResult[]> {
	const scope = scopeOf(context, memory);
	// without its connection it is judged all the same: without the namespaces and the definition of that
	const connection = await Promise.resolve(connectionName(chosen, spec, context, scope)).catch(() => '');
	const through = { ...spec, connection };
	const view = viewReply(exchange.reply!, context.ports.xml, namespacesFor(chosen, through, context));
	const answer = { spec: through, chosen, request, scope, view, exchange };
	return judgeAll(spec.checks, judgeTools(answer, context)).finally(() => view.close());
}

/** Namespaces that selectors of a call may use: those of its connection go before those of the project. */
export function namespacesFor(
	chosen: Pick<Chosen, 'connection'>,
	spec: Pick<SendSpec, 'connection'>,
	{ workspace, environment }: Pick<StepContext, 'workspace' | 'environment'>
): Namespaces {
	const named = workspace.connections.get(spec.connection || chosen.connection);
	return { ...workspace.project.namespaces, ...(named ? inEnvironment(named, environment).namespaces : {}) };
}

/** The connection that a step goes through, filled in where it is an expression. @throws HeronError model.reference, value.* */
function connectionName(
	chosen: Pick<Chosen, 'connection'>,
	spec: Pick<SendSpec, 'connection'>,
	context: Pick<StepContext, 'evaluator' | 'workspace'>,
	scope: Scope
): string | Promise<string> {
	const written = spec.connection || chosen.connection;
	return written.includes('{$') ? computedName(written, context, scope) : written;
}
async function computedName(
	written: string,
	{ evaluator, workspace }: Pick<StepContext, 'evaluator' | 'workspace'>,
	scope: Scope
): Promise<string> {
	const name = (await evaluator.text(written, scope)).trim();
	const known = [...workspace.connections.keys()];
	if (!known.includes(name))
		throw new HeronError('model.reference', { kind: 'connection', name, nearest: didYouMean(name, known) });
	return name;
}

/** The request of a step without what its credential adds, and the credential at work. */
export async function prepareCall(
	chosen: Pick<Chosen, 'collection' | 'connection' | 'scenario'>,
	spec: SendSpec,
	memory: Memory,
	context: StepContext,
	scope: Scope
): Promise<{ request: PreparedRequest; signIn: SignIn | undefined; credential: Inherited; through: string }> {
	const { evaluator, ports, workspace, environment, agent } = context;
	const through = await connectionName(chosen, spec, context, scope);
	const named = workspace.connections.get(through);
	const found = named && inEnvironment(named, environment);
	const fill = (value: Json) => evaluator.deep(value, scope);
	const connection = found?.computed ? await settleConnection(found, fill) : found;
	const credential = inheritedCredential(workspace, chosen, spec, environment, through);
	const name = credential.name.includes('{$') ? await evaluator.text(credential.name, scope) : credential.name;
	const signed = name && name !== 'none' ? await signIn(name, context, scope, memory.session, connection) : undefined;
	if (signed?.authorizer.token && sendNames(spec).some((reference) => reference.root === 'token'))
		scope.names.token = (await signed.authorizer.token()).reply;
	const tools = {
		evaluator,
		scope,
		ports: withFiles(ports, memory),
		wsdls: workspace.wsdls,
		session: memory.session,
		agent,
		marked: context.marked
	};
	const request = await prepareRequest(spec, connection, tools);
	return { request, signIn: signed, credential: { ...credential, name }, through };
}

/** `$response` of a reply. */
export function responseNames(view: ReplyView): Record<string, unknown> {
	const { reply } = view;
	const headers = Object.fromEntries(reply.headers.map(([name]) => [name.toLowerCase(), view.header(name)]));
	const names = {
		status: reply.status,
		headers,
		body: view.body(),
		time: reply.phases.total,
		size: reply.body.length,
		...(reply.cut ? { cut: reply.cut } : {}),
		...(reply.note ? { note: reply.note } : {})
	};
	// not listed: who takes the whole of it does not mean the body three times
	return Object.defineProperties(names, {
		text: { get: () => view.text },
		bytes: { get: () => new Bytes(reply.body) }
	});
}

/** `$request` of a call that was sent: its body is data where it is JSON. */
export function sentNames(request: PreparedRequest): Record<string, unknown> {
	const names = requestNames(request);
	const { type, charset } = mediaType(request.headers);
	const text = decodeText(request.body, charset).text;
	let body: Json = text;
	if (isJsonType(type))
		try {
			body = parseJson(text);
		} catch {
			// what was written badly on purpose stays text
		}
	return { ...names, body, text };
}

/** `$request` and `$response`, computed only when an expression asks. */
const lazyNames = (request: PreparedRequest, view: ReplyView): Pick<Names, 'request' | 'response'> => ({
	get request() {
		return sentNames(request);
	},
	get response() {
		return responseNames(view);
	}
});
