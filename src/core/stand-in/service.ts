import { HeronError, textOf } from '../errors.ts';
import { didYouMean } from '../messages.ts';
import type { JsonObject } from '../model/json.ts';
import type { StandIn } from '../model/stand-in.ts';
import type { FoundOperation } from '../soap/index.ts';
import { utf8, unescapeAddress } from '../values/index.ts';
import { readAsked, type Asked, type Reading } from './asked.ts';
import { corsHeaders, preflight } from './cors.ts';
import type { Definitions } from './definition.ts';
import { fits } from './fits.ts';
import { besides, give } from './give.ts';
import { refusedAnswers, type Refusal } from './held.ts';
import { passOn } from './pass-on.ts';
import { createPathIndex, type PathIndex } from './path.ts';
import type { Came, Outgoing } from './ports.ts';
import { readSeeds } from './seeds.ts';
import { faultGiven, secured, sentTo } from './soap-side.ts';
import { createFaults } from './struck.ts';
import { callOf } from './turn.ts';
import {
	begun,
	blank,
	EMPTY,
	nothing,
	openWork,
	type Answered,
	type CallLater,
	type ServiceTools,
	type Tried
} from './work.ts';

/** What a stand-in remembers, as data: it goes from one process to another. */
export interface Remembered {
	stores: Record<string, JsonObject[]>;
	state: JsonObject;
	counts: Record<string, number>;
}

interface AskOptions {
	/** Nothing is remembered, and what was filled in is told. */
	trial?: boolean;
}

/** A stand-in at work: it decides what is answered, and remembers. Sockets and time are its owner's. */
export interface Service {
	readonly spec: StandIn;
	readonly definitions: Definitions;
	/** Reads what it holds at first. @throws HeronError dataset.* */
	ready(): Promise<void>;
	/** Never throws: what goes wrong is answered 500, with the reason. */
	ask(asked: Asked, options?: AskOptions): Promise<Answered>;
	/**
	 * A call that goes out by itself, as it is now.
	 * @param asked what made it go out; expressions see it as $request
	 * @throws HeronError standIn.call
	 */
	send(id: string, asked: Asked): Promise<CallLater>;
	/** What of a call that went out, or of the answer to it, is not as its webhook has it. */
	sentFaults(id: string, sent: Outgoing, came: Came | undefined): Promise<{ sent: string[]; came: string[] }>;
	/** What in an answer is not as the definition has it. */
	drift(asked: Asked, answered: Answered): Promise<string[]>;
	/**
	 * Answers that its definition refuses, and expressions that fail whatever is asked.
	 * @param environment whether values of an environment are there
	 */
	refused(environment: boolean): Promise<Refusal[]>;
	/** Back to what it held at first. */
	reset(): void;
	/** Switches faults: by their names, or as they are written in a file. @throws HeronError standIn.fault */
	setFaults(given: (string | JsonObject)[]): void;
	/** Faults that are on, as they were given. */
	faultsGiven(): (string | JsonObject)[];
	/** Faults that are on, in words. */
	faults(): { name: string; words: string }[];
	/** Whether connections are refused. */
	refuses(): boolean;
	/** How often each answer was given, by its id. */
	counts(): Record<string, number>;
	/** How much each store holds. */
	stores(): Record<string, number>;
	/** All that it remembers, as data. */
	remembered(): Remembered;
	/** Takes over what another one remembered; what it has no store for is left out. */
	recall(remembered: Remembered): void;
}

/** How long after its answer an operation of a definition calls back. */
const CALLS_BACK_AFTER_MS = 500;
const NO_CONTENT = new Set([204, 304]);
/** Of errors that are not the stand-in's own (RFC 9110 section 15.6.3, RFC 5842 section 7.2). */
const STATUS: Record<string, number> = { send: 502, 'selector.body': 400, 'standIn.loop': 508 };

/** A stand-in that answers; it has no socket of its own. */
export function createService(spec: StandIn, tools: ServiceTools): Service {
	const work = openWork(spec, tools);
	const { ports, workspace, definitions, memory } = work;
	const faults = createFaults(work);
	const answers = spec.answers.filter(({ off }) => !off);
	const byPath: PathIndex = createPathIndex(answers.map(({ parts, operation }) => (operation ? [] : parts)));
	const byOperation = new Map<string, number[]>();
	for (const [at, { operation }] of answers.entries())
		if (operation) byOperation.set(operation, [...(byOperation.get(operation) ?? []), at]);

	async function decide(reading: Reading, trial: boolean): Promise<Answered> {
		const { asked, path } = reading;
		const tried: Tried[] = [];
		const below =
			spec.base === ''
				? path
				: path === spec.base
					? '/'
					: path.startsWith(`${spec.base}/`)
						? path.slice(spec.base.length)
						: undefined;
		if (below === undefined) return nothing(404, `${path} is not below ${spec.base}`, tried);
		const found = byPath.find(below).filter(({ at }) => !answers[at]!.operation);
		const soap = byOperation.size > 0 || spec.definition ? definitions.soap(reading) : undefined;
		if (soap)
			for (const key of [soap.operation.key, soap.operation.name])
				for (const at of byOperation.get(key) ?? [])
					if (!found.some((one) => one.at === at)) found.push({ at, path: {} });
		const refused = soap && (await secured(work, soap, reading));
		if (refused) return refused;
		found.sort((a, b) => a.at - b.at);
		for (const { at, path: values } of found) {
			const answer = answers[at]!;
			const { method } = answer;
			if (method && method !== asked.method && !(method === 'GET' && asked.method === 'HEAD')) {
				tried.push({ id: answer.id, why: `its method is ${method}` });
				continue;
			}
			const fit = await fits(work, answer, reading, values);
			if (typeof fit === 'string') {
				tried.push({ id: answer.id, why: fit });
				continue;
			}
			const answered = await give(work, answer, reading, values, fit.row, trial);
			return { ...answered, tried };
		}
		const allowed = preflight(spec.cors, asked);
		if (allowed)
			return { ...begun('cors', tried), given: { ...blank(), status: 204, headers: allowed }, refused: true };
		const wanted = asked.method === 'GET' && spec.definition ? wsdlAsked(asked.target) : undefined;
		const text = wanted === undefined ? undefined : definitions.text(asked.origin, wanted);
		if (text !== undefined)
			return {
				given: { ...blank(), headers: [['Content-Type', 'text/xml; charset=utf-8']], body: utf8(text) },
				...{ by: 'definition', tried, faults: [], calls: [], notes: [], refused: true }
			};
		if (spec.otherwise.definition) {
			const defined = await definitions.answer(reading);
			if (defined)
				return {
					given: { ...blank(), status: defined.status, headers: defined.headers, body: defined.body },
					...{ by: 'definition', tried, faults: [], notes: defined.notes },
					calls: (defined.calls ?? []).map((outgoing) => ({ after: CALLS_BACK_AFTER_MS, outgoing })),
					// what could not be made of it is told already
					...(defined.refused || defined.notes.length > 0 ? { refused: true } : {})
				};
		}
		if (spec.otherwise.forward) {
			const answered = begun('forward', tried);
			await passOn(work, spec.otherwise.forward, reading, answered, undefined, {});
			return answered;
		}
		const methods = [...new Set(found.flatMap(({ at }) => answers[at]!.method || []))];
		const onlyMethod = found.length > 0 && tried.every(({ why }) => why.startsWith('its method is'));
		if (soap) {
			const reasons = tried.map(({ id, why }) => `${id}: ${why}`).join('; ') || 'there is none for it';
			const given = faultGiven(soap, `no answer of ${spec.title} fits: ${reasons}`);
			return { ...begun('', tried), given };
		}
		if (onlyMethod)
			return nothing(405, `${asked.method} ${below}: answered are ${methods.join(', ')}`, tried, [
				['Allow', methods.join(', ')]
			]);
		return nothing(404, `no answer of ${spec.title} fits ${asked.method} ${below}`, tried);
	}

	const soapOf = (reading: Reading): FoundOperation | undefined => {
		try {
			return definitions.soap(reading);
		} catch {
			return undefined;
		}
	};

	const service: Service = {
		spec,
		definitions,
		async ready() {
			await readSeeds(spec, ports, work.seeds);
			service.reset();
			faults.set(spec.faulty);
		},
		async ask(asked, { trial = false } = {}) {
			const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
			let answered: Answered;
			try {
				answered = await decide(reading, trial);
				const soap = spec.definition && answered.forwarded === undefined ? soapOf(reading) : undefined;
				if (soap) sentTo(answered, soap, reading, work);
				faults.strike(answered, reading);
			} catch (error) {
				const status =
					(error instanceof HeronError && STATUS[error.code.split('.')[0] === 'send' ? 'send' : error.code]) || 500;
				answered = { ...nothing(status, textOf(error), []), notes: [textOf(error)] };
				const soap = spec.definition ? soapOf(reading) : undefined;
				if (soap) answered.given = faultGiven(soap, textOf(error));
			} finally {
				// memory that the garbage collector does not see
				if (reading.asked.body.length > 0) reading.view.close();
			}
			if (answered.by !== 'cors' && spec.cors.length > 0)
				answered.given.headers = [
					...answered.given.headers,
					...besides(corsHeaders(spec.cors, asked), answered.given.headers)
				];
			if (NO_CONTENT.has(answered.given.status)) answered.given.body = EMPTY;
			return answered;
		},
		async send(id, asked) {
			const call = spec.calls.find((one) => one.id === id && !one.off);
			if (!call) {
				const known = spec.calls.filter(({ off }) => !off).map((one) => one.id);
				throw new HeronError('standIn.call', { name: spec.name, id, nearest: didYouMean(id, known) });
			}
			const count = (memory.counts.get(id) ?? 0) + 1;
			memory.counts.set(id, count);
			const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
			try {
				const made = await callOf(work, call, work.scope(reading, {}, { asked: count }));
				const { outgoing } = made;
				const webhook = call.webhook && !call.body ? definitions.webhook(call.webhook) : undefined;
				if (outgoing && webhook) {
					const { headers, body } = webhook.message();
					outgoing.body = body;
					outgoing.headers = [...outgoing.headers, ...besides(headers, outgoing.headers)];
				}
				return made;
			} finally {
				if (asked.body.length > 0) reading.view.close();
			}
		},
		async sentFaults(id, sent, came) {
			const webhook = spec.calls.find((one) => one.id === id)?.webhook;
			if (!webhook) return { sent: [], came: [] };
			try {
				return await definitions.webhookFaults(webhook, sent, came);
			} catch (error) {
				return { sent: [textOf(error)], came: [] };
			}
		},
		async drift(asked, { given, instead, by, faults, refused }) {
			if (!spec.definition || by === '' || faults.length > 0 || refused) return [];
			const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
			try {
				const found = await definitions.answerFaults(reading, { ...given, ...instead });
				if (!found)
					return by === 'definition' || by === 'forward'
						? []
						: [`the definition knows no ${asked.method} ${reading.path}`];
				return found.map(({ message, path }) => (path ? `${path} ${message}` : message));
			} catch (error) {
				return [textOf(error)];
			} finally {
				if (asked.body.length > 0) reading.view.close();
			}
		},
		refused(environment) {
			const own = openWork(spec, tools);
			Object.assign(own.seeds, work.seeds);
			own.reset();
			return refusedAnswers(own, environment);
		},
		reset: () => work.reset(),
		setFaults: (wanted) => faults.set(wanted),
		faultsGiven: () => faults.given(),
		faults: () => faults.inWords(),
		refuses: () => faults.refuses(),
		counts: () => Object.fromEntries(memory.counts),
		stores: () => Object.fromEntries([...memory.stores].map(([name, store]) => [name, store.size()])),
		remembered: () => ({
			stores: Object.fromEntries([...memory.stores].map(([name, store]) => [name, store.all()])),
			state: memory.state,
			counts: Object.fromEntries(memory.counts)
		}),
		recall({ stores, state, counts }) {
			for (const [name, store] of memory.stores) {
				const given = stores[name];
				if (!given) continue;
				store.clear();
				store.seed(given);
			}
			memory.state = state;
			memory.counts = new Map(Object.entries(counts));
		}
	};
	return service;
}

/** The file of a WSDL that a target asks for: `?wsdl`, or `?wsdl=FILE` for what it reads; undefined for none. */
function wsdlAsked(target: string): string | undefined {
	const match = /\?wsdl(?:=([^&]*))?$/i.exec(target);
	return match ? unescapeAddress(match[1] ?? '') : undefined;
}
