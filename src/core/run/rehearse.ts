import { credentialKind } from '../auth/index.ts';
import { HeronError, textOf } from '../errors.ts';
import type { DataRow } from '../datasets/index.ts';
import { keptNames, noteOf, setBy, type Step, type StepOf } from '../steps/index.ts';
import type { JsonObject } from '../model/json.ts';
import type { CallSpec } from '../model/step.ts';
import type { Workspace } from '../project/index.ts';
import type { HeaderList } from '../model/reply.ts';
import { mediaType } from '../model/reply.ts';
import { shortened } from '../model/shortened.ts';
import type { Redactor } from '../redact/index.ts';
import { bytesToBase64, decodeText, type Evaluator } from '../values/index.ts';
import type { Chosen, StartNames } from './plan.ts';
import { originsOf, shownPieces, type Pieces } from './origins.ts';
import { emptyMarked } from './prepare.ts';
import { partPorts, type HeaderOrigin, type Ports, type PreparedRequest } from './ports.ts';
import { calledScenario } from './plan.ts';
import { onceKey } from './frame/call.ts';
import { unitPorts } from './runner/share.ts';
import { chosenRows, passesOf, rowNames, type RowsOf } from './rows.ts';
import { prepareCall } from './call.ts';
import { emptyMemory, inputDefault, scopeOf, type Memory, type StepContext } from './context.ts';

/** A request as it will be sent, and who it is signed in as. */
export interface Rehearsed {
	/** The connection that it goes through. */
	through: string;
	request: PreparedRequest;
	credential: { name: string; label: string; from: string };
	/** What is added only when it is sent: a token that has to be fetched, the answer to a challenge. */
	later?: string;
	/** Its pieces, secrets masked. */
	pieces: Pieces;
}

/** Ports that send nothing: what cannot be known without sending is said. */
export const dryRunPorts = (ports: Ports): Ports =>
	Object.assign(Object.create(ports) as Ports, {
		send: () => Promise.reject(new HeronError('value.unsent'))
	});

const isLater = (error: unknown): boolean =>
	error instanceof HeronError && (error.code === 'value.unsent' || error.code === 'auth.leg');

/** The request of a step; nothing is sent. @throws HeronError value.*, file.missing */
export async function rehearseStep(
	chosen: Pick<Chosen, 'collection' | 'connection' | 'scenario'>,
	step: StepOf<'send'>,
	memory: Memory,
	context: StepContext
): Promise<Rehearsed> {
	const marked = emptyMarked();
	const quiet = { ...context, ports: dryRunPorts(context.ports), marked };
	const call = await prepareCall(chosen, step.send, memory, quiet, scopeOf(quiet, memory)).catch((error: unknown) => {
		throw isLater(error) ? new HeronError('value.later') : error;
	});
	const { name, from } = call.credential;
	const kind = credentialKind(context.workspace.credentials.get(name)?.kind);
	const credential = { name, label: kind?.label ?? '', from };
	const fillOf = (source: string) => ({ expression: source, from: originsOf(source, context, memory, chosen) });
	const shown = (request: PreparedRequest) => ({
		request,
		through: call.through,
		credential,
		pieces: shownPieces(marked, fillOf, context.redactor, context.redactor.deep(request.headers))
	});
	try {
		const request = call.signIn ? await call.signIn.authorizer.apply(call.request) : call.request;
		if (kind?.key !== 'digest' || request !== call.request) return shown(request);
		return {
			...shown(request),
			later: 'The server is asked for its challenge first; then Authorization: Digest … is added.'
		};
	} catch (error) {
		if (!isLater(error)) throw error;
		return {
			...shown(call.request),
			later: 'A token is fetched first; then Authorization: Bearer … is added.'
		};
	}
}

/** One step of a rehearsal. */
export interface RehearsedStep {
	scenario: string;
	/** The row's number, when the scenario runs over rows. */
	row?: number;
	/** The pass's number, when the step repeats. */
	pass?: number;
	step: string;
	title: string;
	method?: string;
	url?: string;
	headers?: HeaderList;
	/** Where each header is from. */
	origins?: HeaderOrigin[];
	body?: { text: string } | { base64: string };
	/** The values that were filled in, and where. */
	pieces?: Pieces;
	credential?: Rehearsed['credential'];
	later?: string;
	/** Why there is no request: a step of another kind, or what cannot be known before earlier steps ran. */
	note?: string;
	/** It cannot be sent like this. */
	trouble?: string;
}

/** What a rehearsal is done with: a run that sends nothing. */
export interface Rehearsal {
	context: StepContext & { start: StartNames };
	scenarios: Chosen[];
	rows: RowsOf;
	redactor: Redactor;
	seed: number;
}

/**
 * Goes through scenarios as a run would, and sends nothing. What earlier steps would keep stands as `‹step.name›`.
 */
export async function* rehearse({
	context,
	scenarios,
	rows,
	redactor,
	seed
}: Rehearsal): AsyncGenerator<RehearsedStep> {
	const { ports, evaluator } = context;
	const dryRun = new DryRun(context.workspace, { ports, evaluator, redactor, seed });
	/** What a run with this seed makes up at its first try. */
	const portsFor = (chosen: Chosen, row?: DataRow) => unitPorts(ports, { chosen, ...(row ? { row } : {}) }, 1);
	for (const chosen of scenarios) {
		const open = rows.get(chosen.key);
		if (!open) {
			yield* dryRun.scenario({ chosen, here: { ...context, ports: portsFor(chosen) } });
			continue;
		}
		const scope = scopeOf(context, emptyMemory(ports));
		for await (const row of chosenRows(open, { evaluator, scope, seed })) {
			const own = portsFor(chosen, row);
			const start = await context.start.withRow(rowNames(row), own);
			if (row.problem === undefined) yield* dryRun.scenario({ chosen, here: { ...context, row, start, ports: own } });
			else yield { scenario: chosen.key, row: row.number, step: '', title: '', trouble: row.problem };
		}
	}
}

/** A scenario that is gone through, by itself or called by a step of another one. */
interface Pass {
	chosen: Chosen;
	here: StepContext;
	memory?: Memory;
	/** Before the ids of its steps. */
	prefix?: string;
	/** The scenarios that lead here. */
	calls?: string[];
}

/** Where a step stands. */
type Place = Pick<RehearsedStep, 'scenario' | 'row' | 'pass' | 'step' | 'title'>;

interface DryRunTools {
	ports: Ports;
	evaluator: Evaluator;
	redactor: Redactor;
	seed: number;
}

class DryRun {
	readonly #workspace: Workspace;
	readonly #tools: DryRunTools;

	constructor(workspace: Workspace, tools: DryRunTools) {
		this.#workspace = workspace;
		this.#tools = tools;
	}

	async *scenario(pass: Pass): AsyncGenerator<RehearsedStep> {
		const { chosen, here, prefix = '', calls = [] } = pass;
		const { evaluator, ports } = this.#tools;
		const memory = pass.memory ?? emptyMemory(ports);
		for (const [name, value] of Object.entries(chosen.scenario.inputs))
			if (value !== null && !Object.hasOwn(memory.set, name) && !Object.hasOwn(here.start.names.env, name))
				memory.set[name] = await inputDefault(value, evaluator, scopeOf(here, memory));
		for (const step of chosen.scenario.steps) {
			if (step.off) continue;
			const place: Place = {
				scenario: chosen.key,
				...(here.row ? { row: here.row.number } : {}),
				step: prefix + step.id,
				title: step.title
			};
			const called = step.call && calledScenario(this.#workspace, chosen, step.call.target);
			if (called && !calls.includes(called.key)) {
				const inner = { chosen: called, here, memory, prefix: `${place.step}/`, calls: [...calls, called.key] };
				yield* this.#called(step, step.call, inner, place);
				continue;
			}
			yield* this.#passes(chosen, step, memory, here, place);
			this.#keeps(step, keptNames(step), memory);
		}
	}

	/** A scenario that a step calls; one that repeats is gone through once. @param pass with the memory of the one that calls */
	async *#called(step: Step, spec: CallSpec, pass: Required<Pass>, place: Place): AsyncGenerator<RehearsedStep> {
		const { chosen: called, here, memory } = pass;
		const { evaluator, ports } = this.#tools;
		const given: JsonObject = {};
		try {
			for (const [name, value] of Object.entries({ ...called.scenario.inputs, ...spec.with }))
				if (value !== null || Object.hasOwn(spec.with, name))
					given[name] = await evaluator.deep(value!, scopeOf(here, memory));
		} catch (error) {
			yield { ...place, note: this.#known(error) };
			return;
		}
		yield { ...place, note: `calls ${called.key}${step.each === undefined ? '' : ', once for each of its values'}` };
		const inner: Memory = { outputs: {}, set: given, session: memory.session };
		const own = spec.once ? { ...here, ports: partPorts(ports, onceKey({ target: called, given })) } : here;
		yield* this.scenario({ ...pass, chosen: { ...called, key: place.scenario }, here: own, memory: inner });
		const names = Object.keys(called.scenario.outputs ?? Object.assign({}, ...Object.values(inner.outputs)));
		this.#keeps(step, names, memory);
	}

	/** A step, each time that it repeats. */
	async *#passes(
		chosen: Chosen,
		step: Step,
		memory: Memory,
		here: StepContext,
		place: Place
	): AsyncGenerator<RehearsedStep> {
		if (step.each === undefined) return yield await this.#step(chosen, step, memory, here, place);
		const { evaluator, seed, ports } = this.#tools;
		try {
			for await (const pass of passesOf(step.each, { evaluator, scope: scopeOf(here, memory), seed, ports }))
				yield await this.#step(chosen, step, memory, { ...here, pass }, { ...place, pass: pass.number });
		} catch (error) {
			const note = `repeats over what is known only when it runs: ${textOf(error)}`;
			yield { ...place, note: this.#tools.redactor.text(note) };
		}
	}

	async #step(chosen: Chosen, step: Step, memory: Memory, here: StepContext, place: Place): Promise<RehearsedStep> {
		const { evaluator, redactor } = this.#tools;
		try {
			if (!step.send) {
				for (const [name, value] of Object.entries(setBy(step)))
					memory.set[name] = await evaluator.deep(value, scopeOf(here, memory));
				return { ...place, note: noteOf(step) };
			}
			const { request, credential, later, pieces } = await rehearseStep(chosen, step, memory, here);
			const { method, url, headers, origins, body } = redactor.record(request, ['method', 'origins']);
			return {
				...place,
				...{ method, url, headers, origins },
				...bodyOf(body, headers),
				...{ pieces, credential },
				...(later ? { later } : {})
			};
		} catch (error) {
			const message = redactor.text(textOf(error));
			const later = error instanceof HeronError && error.code === 'value.later';
			const waits = later || /‹[\w.-]+›|\$steps\./.test(message);
			return { ...place, ...(waits ? { note: this.#known(error) } : { trouble: message }) };
		}
	}

	#known(error: unknown): string {
		return this.#tools.redactor.text(`known only when it runs: ${textOf(error)}`);
	}

	/** A word that nobody else uses stands for each value that a step would keep; it is shown as ‹step.name›. */
	#keeps(step: Step, names: string[], memory: Memory): void {
		const { ports, redactor } = this.#tools;
		const standIn = (name: string): string => {
			const word = `kept${bytesToBase64(ports.randomBytes(12)).replace(/\W/g, 'x')}`;
			redactor.learn(`${step.id}.${name}`, word);
			return word;
		};
		memory.outputs[step.id] = Object.fromEntries(names.map((name) => [name, standIn(name)]));
	}
}

function bodyOf(bytes: Uint8Array, headers: HeaderList): Pick<RehearsedStep, 'body'> {
	if (bytes.length === 0) return {};
	const { text, valid } = decodeText(bytes, mediaType(headers).charset);
	return { body: valid ? { text } : { base64: bytesToBase64(bytes) } };
}

/** An address with what stands for a value readable again. */
export const unmasked = (address: string): string => address.replace(/%E2%80%B9([\w.-]+)%E2%80%BA/g, '‹$1›');

/** A step of a rehearsal as it goes over the wire, with lines that begin with # around it. */
export function rehearsedText(one: RehearsedStep): string {
	const place = `${one.scenario}${one.row === undefined ? '' : ` row ${one.row}`} › ${one.step}${one.pass === undefined ? '' : ` pass ${one.pass}`}`;
	const lines = [`# ${place}${one.title ? `  ${one.title}` : ''}`];
	if (one.trouble !== undefined) lines.push(`# CANNOT BE SENT: ${one.trouble}`);
	if (one.note !== undefined) lines.push(`# ${one.note}`);
	if (one.method !== undefined && one.url !== undefined) {
		const { origin, pathname, search } = new URL(one.url);
		const as = one.credential?.name ? `, signed in as ${one.credential.name}` : '';
		lines.push(`# to ${origin}${as}`);
		if (one.later) lines.push(`# ${one.later}`);
		for (const fill of new Set(one.pieces?.fills.map((each) => `{${each.expression}} is from ${each.from.join('; ')}`)))
			lines.push(`# ${fill}`);
		lines.push(
			`${one.method} ${unmasked(pathname + search)} HTTP/1.1`,
			...(one.headers ?? []).map(([name, value]) => `${name}: ${value}`),
			''
		);
		if (one.body)
			lines.push(
				'text' in one.body
					? one.body.text
					: `# ${one.body.base64.length} letters of base64: ${shortened(one.body.base64, 60)}`,
				''
			);
	} else lines.push('');
	return `${lines.join('\n')}\n`;
}
