import { HeronError, textOf } from '../errors.ts';
import { didYouMean } from '../messages.ts';
import type { JsonObject } from '../model/json.ts';
import type { StandIn } from '../documents/stand-in.ts';
import type { FoundOperation } from '../soap/index.ts';
import { readAsked, type Asked, type Reading } from './asked.ts';
import { corsHeaders } from './cors.ts';
import { Decider } from './decide.ts';
import type { Definitions } from './defined.ts';
import { besides } from './give.ts';
import { refusedAnswers, type Refusal } from './held.ts';
import type { Came, Outgoing } from './ports.ts';
import { readSeeds } from './seeds.ts';
import { faultGiven, sentTo } from './soap-side.ts';
import { createFaults, type Faults } from './struck.ts';
import { callOf } from './turn.ts';
import { EMPTY, nothing, openWork, type Answered, type CallLater, type ServiceTools, type Work } from './work.ts';

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

const NO_CONTENT = new Set([204, 304]);
/** Of errors that are not the stand-in's own (RFC 9110 section 15.6.3, RFC 5842 section 7.2). */
const STATUS: Record<string, number> = { send: 502, 'selector.body': 400, 'standIn.loop': 508 };

const statusOf = (error: unknown): number =>
	(error instanceof HeronError && STATUS[error.code.split('.')[0] === 'send' ? 'send' : error.code]) || 500;

/** A stand-in that answers; it has no socket of its own. */
export const createService = (spec: StandIn, tools: ServiceTools): Service => new StandInService(spec, tools);

class StandInService implements Service {
	readonly spec: StandIn;
	readonly definitions: Definitions;
	readonly #tools: ServiceTools;
	readonly #work: Work;
	readonly #decider: Decider;
	readonly #faults: Faults;

	constructor(spec: StandIn, tools: ServiceTools) {
		this.spec = spec;
		this.#tools = tools;
		this.#work = openWork(spec, tools);
		this.definitions = this.#work.definitions;
		this.#faults = createFaults(this.#work);
		this.#decider = new Decider(this.#work);
	}

	async ready(): Promise<void> {
		await readSeeds(this.spec, this.#work.ports, this.#work.seeds);
		this.reset();
		this.#faults.set(this.spec.faulty);
	}

	async ask(asked: Asked, { trial = false }: AskOptions = {}): Promise<Answered> {
		const { cors } = this.spec;
		const answered = await this.#reading(asked, (reading) => this.#answer(reading, trial));
		if (answered.by !== 'cors' && cors.length > 0) {
			const { headers } = answered.given;
			answered.given.headers = [...headers, ...besides(corsHeaders(cors, asked), headers)];
		}
		if (NO_CONTENT.has(answered.given.status)) answered.given.body = EMPTY;
		return answered;
	}

	async #answer(reading: Reading, trial: boolean): Promise<Answered> {
		const soapOf = () => (this.spec.definition ? this.#soapOf(reading) : undefined);
		try {
			const answered = await this.#decider.decide(reading, trial);
			const soap = answered.forwarded === undefined ? soapOf() : undefined;
			if (soap) sentTo(answered, soap, reading, this.#work);
			this.#faults.strike(answered, reading);
			return answered;
		} catch (error) {
			const answered = { ...nothing(statusOf(error), textOf(error), []), notes: [textOf(error)] };
			const soap = soapOf();
			if (soap) answered.given = faultGiven(soap, textOf(error));
			return answered;
		}
	}

	/** Reads what was asked for as long as somebody looks at it. */
	async #reading<T>(asked: Asked, act: (reading: Reading) => Promise<T>): Promise<T> {
		const { ports, workspace } = this.#work;
		const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
		try {
			return await act(reading);
		} finally {
			// memory that the garbage collector does not see
			if (asked.body.length > 0) reading.view.close();
		}
	}

	#soapOf(reading: Reading): FoundOperation | undefined {
		try {
			return this.definitions.soap(reading);
		} catch {
			return undefined;
		}
	}

	async send(id: string, asked: Asked): Promise<CallLater> {
		const { spec, definitions } = this;
		const { counts } = this.#work.memory;
		const call = spec.calls.find((one) => one.id === id && !one.off);
		if (!call) {
			const known = spec.calls.filter(({ off }) => !off).map((one) => one.id);
			throw new HeronError('standIn.call', { name: spec.name, id, nearest: didYouMean(id, known) });
		}
		const count = (counts.get(id) ?? 0) + 1;
		counts.set(id, count);
		return this.#reading(asked, async (reading) => {
			const made = await callOf(this.#work, call, this.#work.scope(reading, {}, { asked: count }));
			const { outgoing } = made;
			const webhook = call.webhook && !call.body ? definitions.webhook(call.webhook) : undefined;
			if (outgoing && webhook) {
				const { headers, body } = webhook.message();
				outgoing.body = body;
				outgoing.headers = [...outgoing.headers, ...besides(headers, outgoing.headers)];
			}
			return made;
		});
	}

	async sentFaults(id: string, sent: Outgoing, came: Came | undefined): Promise<{ sent: string[]; came: string[] }> {
		const webhook = this.spec.calls.find((one) => one.id === id)?.webhook;
		if (!webhook) return { sent: [], came: [] };
		try {
			return await this.definitions.webhookFaults(webhook, sent, came);
		} catch (error) {
			return { sent: [textOf(error)], came: [] };
		}
	}

	async drift(asked: Asked, { given, instead, by, faults, refused }: Answered): Promise<string[]> {
		if (!this.spec.definition || by === '' || faults.length > 0 || refused) return [];
		return this.#reading(asked, async (reading) => {
			try {
				const found = await this.definitions.answerFaults(reading, { ...given, ...instead });
				if (found) return found.map(({ message, path }) => (path ? `${path} ${message}` : message));
				if (by === 'definition' || by === 'forward') return [];
				return [`the definition knows no ${asked.method} ${reading.path}`];
			} catch (error) {
				return [textOf(error)];
			}
		});
	}

	refused(environment: boolean): Promise<Refusal[]> {
		const own = openWork(this.spec, this.#tools);
		Object.assign(own.seeds, this.#work.seeds);
		own.reset();
		return refusedAnswers(own, environment);
	}

	reset(): void {
		this.#work.reset();
	}
	setFaults(wanted: (string | JsonObject)[]): void {
		this.#faults.set(wanted);
	}
	faultsGiven(): (string | JsonObject)[] {
		return this.#faults.given();
	}
	faults(): { name: string; words: string }[] {
		return this.#faults.inWords();
	}
	refuses(): boolean {
		return this.#faults.refuses();
	}
	counts(): Record<string, number> {
		return Object.fromEntries(this.#work.memory.counts);
	}
	stores(): Record<string, number> {
		return Object.fromEntries([...this.#work.memory.stores].map(([name, store]) => [name, store.size()]));
	}
	remembered(): Remembered {
		const { stores, state } = this.#work.memory;
		const held = Object.fromEntries([...stores].map(([name, store]) => [name, store.all()]));
		return { stores: held, state, counts: this.counts() };
	}
	recall({ stores, state, counts }: Remembered): void {
		const { memory } = this.#work;
		for (const [name, store] of memory.stores) {
			const given = stores[name];
			if (!given) continue;
			store.clear();
			store.seed(given);
		}
		memory.state = state;
		memory.counts = new Map(Object.entries(counts));
	}
}
