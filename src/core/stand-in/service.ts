import { answerBodies, type BodyTools } from '../bodies/index.ts';
import { isPaused, judge, type JudgeTools } from '../checks/index.ts';
import { seeded } from '../datasets/index.ts';
import { HeronError, textOf } from '../errors.ts';
import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { parseRows } from '../model/rows.ts';
import { headerValues, type HeaderList } from '../model/reply.ts';
import type { Answer, CallOut, StandIn, Turn } from '../model/stand-in.ts';
import { parseYaml } from '../model/yaml.ts';
import type { Workspace } from '../project/index.ts';
import { writeFault, type FoundOperation } from '../soap/index.ts';
import {
	createEvaluator,
	createMarks,
	escapeAddress,
	hasExpression,
	joined,
	latin1Bytes,
	utf8,
	type Evaluator,
	type Names,
	type Scope,
	type Segment
} from '../values/index.ts';
import { readAsked, type Asked, type Reading } from './asked.ts';
import { openDefinition, type Definitions } from './definition.ts';
import {
	applyFault,
	checkFault,
	faultWords,
	parseFault,
	spoilsConnections,
	type Fault,
	type Given
} from './faults/index.ts';
import { createPathIndex, type PathIndex } from './path.ts';
import type { Outgoing, StandInPorts } from './ports.ts';
import { problemOf } from './problem.ts';
import { createStore, mergePatch, type Done, type StoreNow } from './store.ts';

/** An answer that did not fit, and why. */
export interface Tried {
	id: string;
	why: string;
}

/** A call that goes out after the answer, or why it could not be made. */
export interface CallLater {
	after: number;
	outgoing?: Outgoing;
	error?: string;
}

/** What came of one request. */
export interface Answered {
	given: Given;
	/** Id of the answer; `definition`, `forward`; empty where nothing fitted. */
	by: string;
	tried: Tried[];
	/** The faults that struck, in words. */
	faults: string[];
	/** What is worth knowing: why it failed, what could not be made. */
	notes: string[];
	calls: CallLater[];
	/** Where it was passed on to. */
	forwarded?: string;
	/** The answer is nothing that the definition could speak of. */
	refused?: true;
	/** What of it was filled in, for whoever tries it out. */
	trial?: { path: Record<string, string>; values: { source: string; value: string }[]; body: Segment[] };
}

/** What a stand-in remembers, as data: it goes from one process to another. */
export interface Remembered {
	stores: Record<string, JsonObject[]>;
	state: JsonObject;
	counts: Record<string, number>;
}

export interface AskOptions {
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
	/** What in an answer is not as the definition has it. */
	drift(asked: Asked, answered: Answered): Promise<string[]>;
	/** Back to what it held at first. */
	reset(): void;
	/** Switches faults: by their names, or as they are written in a file. @throws HeronError request.wrong */
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

export interface ServiceTools {
	workspace: Workspace;
	/** `$env`, `$secret`, `$run`. */
	names: Pick<Names, 'env' | 'secret' | 'run'>;
	broken?: Scope['broken'];
	ports: StandInPorts;
}

/** How long after its answer an operation of a definition calls back. */
const CALLS_BACK_AFTER_MS = 500;
const FAULT_HEADER = 'heron-fault';
const EMPTY = new Uint8Array();
const NO_CONTENT = new Set([204, 304]);
/** Of errors that are not the stand-in's own (RFC 9110 section 15.6.3, RFC 5842 section 7.2). */
const STATUS: Record<string, number> = { send: 502, 'selector.body': 400, 'standIn.loop': 508 };

interface Memory {
	stores: Map<string, StoreNow>;
	state: JsonObject;
	counts: Map<string, number>;
	limits: WeakMap<Fault, { [key: string]: number[] }>;
}

const computes = (value: unknown): boolean =>
	typeof value === 'string'
		? hasExpression(value)
		: typeof value === 'object' &&
			value !== null &&
			Object.entries(value).some(([key, one]) => hasExpression(key) || computes(one));

/** What is looked up by columns of a dataset. */
type Rows = Map<string, JsonObject>;
const rowKey = (values: Json[]): string =>
	writeJson(values.map((one) => (typeof one === 'string' ? one : writeJson(one))));

export function createService(spec: StandIn, tools: ServiceTools): Service {
	const { workspace, ports } = tools;
	const answers = spec.answers.filter(({ off }) => !off);
	const byPath: PathIndex = createPathIndex(answers.map(({ parts, operation }) => (operation ? [] : parts)));
	const byOperation = new Map<string, number[]>();
	for (const [at, { operation }] of answers.entries())
		if (operation) byOperation.set(operation, [...(byOperation.get(operation) ?? []), at]);
	const definitions = openDefinition(spec, workspace, ports);
	const evaluator = createEvaluator();
	const seeds: Seeds = { stores: new Map(), rows: new Map() };
	const memory: Memory = {
		stores: new Map([...spec.stores.values()].map((store) => [store.name, createStore(store)])),
		...{ state: {}, counts: new Map(), limits: new WeakMap() }
	};
	let random = seeded(spec.seed);
	let active = new Map<string, Fault>();
	let given: (string | JsonObject)[] = [];
	/** Turns that are the same each time. */
	const built = new WeakMap<Turn, Pick<Given, 'status' | 'headers' | 'body'>>();

	const namesFor = (reading: Reading, path: Record<string, string>, more: Partial<Names> = {}): Scope => {
		// its own getters stay: what nobody asks for is not read
		const names = Object.assign(reading.names(path), {
			...{ env: tools.names.env, secret: tools.names.secret, run: tools.names.run },
			...{ row: {}, steps: {}, state: memory.state, ...more }
		}) as Names;
		return { names, ports, ...(tools.broken ? { broken: tools.broken } : {}), hint: () => '' };
	};
	const judging = (reading: Reading, path: Record<string, string>, scope: Scope): JudgeTools => ({
		view: reading.view,
		asked: { path, query: reading.query },
		resolve: (value) => evaluator.deep(value, scope),
		expression: (source) => evaluator.expression(source, scope),
		now: () => ports.now(),
		validate: (value, file) => ports.validateJson(value, file),
		contract: () => definitions.requestFaults(reading)
	});
	const bodyTools = (scope: Scope, own: Evaluator): BodyTools => ({
		...{ evaluator: own, scope, shelf: workspace.shelf, address: '' },
		randomBytes: (n) => ports.randomBytes(n),
		readFile(path) {
			const bytes = ports.readFile?.(path);
			if (!bytes) throw new HeronError('file.missing', { file: path });
			return bytes;
		}
	});

	/** Why an answer does not fit a request; or its row, where it does. */
	async function fits(
		answer: Answer,
		reading: Reading,
		path: Record<string, string>
	): Promise<{ row?: JsonObject } | string> {
		if (answer.must.length === 0 && !answer.row) return {};
		const scope = namesFor(reading, path, { asked: (memory.counts.get(answer.id) ?? 0) + 1 });
		let row: JsonObject | undefined;
		if (answer.row) {
			const values: Json[] = [];
			for (const value of Object.values(answer.row.by)) values.push(await evaluator.deep(value as Json, scope));
			row = seeds.rows.get(rowsName(answer.row))?.get(rowKey(values));
			if (!row) return `no row of ${answer.row.from} has ${Object.keys(answer.row.by).join(', ')} so`;
			scope.names.row = row;
		}
		const tools = judging(reading, path, scope);
		for (const [index, check] of answer.must.entries()) {
			if (isPaused(check, ports.now())) continue;
			const wrong = (await judge(check, index, tools)).find(({ holds }) => !holds);
			if (wrong)
				return `${wrong.subject} ${wrong.relation === check.kind ? '' : `${wrong.relation} `}${wrong.expected}: ${wrong.error ?? `it is ${wrong.received}`}`;
		}
		return row ? { row } : {};
	}

	async function turnOf(
		turn: Turn,
		usual: number,
		scope: Scope,
		own: Evaluator
	): Promise<Pick<Given, 'status' | 'headers' | 'body'>> {
		const kept = own === evaluator ? built.get(turn) : undefined;
		if (kept) return kept;
		const status =
			Number(typeof turn.status === 'string' ? own.bare(await own.text(turn.status, scope)) : turn.status) || usual;
		const headers: HeaderList = [];
		for (const { name, value, off } of turn.headers) {
			if (off) continue;
			const text = own.bare(await own.text(String(value ?? ''), scope));
			// eslint-disable-next-line no-control-regex
			if (/[\0-\x08\x0a-\x1f\x7f]/.test(text)) throw new HeronError('value.header', { where: 'the header', name });
			headers.push([name, text]);
		}
		let body: Uint8Array = EMPTY;
		if (turn.body) {
			const { kind: key, value, type } = turn.body;
			const kind = answerBodies.find((one) => one.key === key)!;
			const made = await kind.build(value, bodyTools(scope, own));
			body = made.bytes;
			const told = type === undefined ? made.contentType : own.bare(await own.text(type, scope));
			if (!headers.some(([name]) => name.toLowerCase() === 'content-type')) headers.push(['Content-Type', told]);
		}
		const result = { status, headers, body };
		if (own === evaluator && !computes(turn)) built.set(turn, result);
		return result;
	}

	/** The answer in turn, by how often it was asked before. */
	const turnAt = ({ turns }: Answer, asked: number): Turn | undefined => {
		let left = asked;
		for (const turn of turns) {
			if (left < turn.times) return turn;
			left -= turn.times;
		}
		return turns.at(-1);
	};

	/** What is done with a store; the answer that goes with it, where the file gives none. */
	async function act(
		answer: Answer,
		reading: Reading,
		path: Record<string, string>,
		trial: boolean
	): Promise<{
		names: Partial<Names>;
		usual: Pick<Given, 'status' | 'headers' | 'body'>;
		/** It is there already, or it is not. */
		failed: boolean;
	}> {
		const { verb, name } = answer.store!;
		const store = spec.stores.get(name)!;
		const live = memory.stores.get(name)!;
		const now = ports.now();
		const things = trial ? live.copy() : live;
		const key = path[store.key] ?? Object.values(path).at(-1) ?? '';
		const json = (status: number, value: Json, headers: HeaderList = []) => ({
			...{ status, body: utf8(writeJson(value)) },
			headers: [...headers, ['Content-Type', 'application/json']] as HeaderList
		});
		if (verb === 'list') {
			const page = things.list(reading.query, reading.path, now);
			const link: HeaderList = page.next ? [['Link', `<${page.next}>; rel="next"`]] : [];
			return { names: { page: page as unknown as JsonObject }, usual: json(200, page.items, link), failed: false };
		}
		let done: Done;
		if (verb === 'read') done = things.read(key, now);
		else if (verb === 'remove') done = things.remove(key, now);
		else {
			const body = reading.view.json();
			if (verb !== 'change' && !isObject(body))
				return { names: {}, usual: problemOf(400, 'an object of JSON is wanted'), failed: true };
			const value = body as JsonObject;
			if (verb === 'add') {
				const { [store.key]: own, ...rest } = value;
				// counted as the answer itself is: what was removed leaves its number
				const count = (memory.counts.get(answer.id) ?? 0) + (trial ? 1 : 0);
				const made =
					own === undefined || own === null
						? { [store.key]: await evaluator.deep(store.make, namesFor(reading, path, { asked: count })), ...rest }
						: value;
				done = things.add(made, now);
			} else if (verb === 'put') done = things.put(key, value, now);
			else if (verb === 'replace') done = things.replace(key, value, now);
			else done = things.change(key, body, now);
		}
		if ('value' in done) {
			const { value } = done;
			const own = value[store.key];
			const location: HeaderList =
				verb === 'add'
					? [
							[
								'Location',
								`${reading.path.replace(/\/+$/, '')}/${encodeURIComponent(typeof own === 'string' ? own : writeJson(own ?? null))}`
							]
						]
					: [];
			const usual =
				verb === 'remove'
					? { status: 204, headers: [], body: EMPTY }
					: json(verb === 'add' ? 201 : 200, value, location);
			return { names: { stored: value }, usual, failed: false };
		}
		if ('page' in done) return { names: {}, usual: json(200, done.page.items), failed: false };
		if ('full' in done)
			return { names: {}, usual: problemOf(507, `the store ${name} is full: ${done.full}`), failed: true };
		const usual =
			'exists' in done
				? problemOf(409, `${name} holds ${store.key} ${done.exists} already`)
				: problemOf(404, `${name} holds no ${store.key} ${done.missing}`);
		return { names: {}, usual, failed: true };
	}

	/** Gives an answer that fits. */
	async function give(
		answer: Answer,
		reading: Reading,
		path: Record<string, string>,
		row: JsonObject | undefined,
		trial: boolean
	): Promise<Answered> {
		const asked = memory.counts.get(answer.id) ?? 0;
		if (!trial) memory.counts.set(answer.id, asked + 1);
		const more: Partial<Names> = { asked: asked + 1, ...(row ? { row } : {}) };
		const marks = trial ? createMarks() : undefined;
		const own = marks ? createEvaluator(marks) : evaluator;
		const answered: Answered = { given: blank(), by: answer.id, tried: [], faults: [], notes: [], calls: [] };
		if (answer.forward !== undefined)
			await passOn(answer.forward || spec.otherwise.forward, reading, answered, answer, path);
		else {
			const acted = answer.store ? await act(answer, reading, path, trial) : undefined;
			Object.assign(more, acted?.names);
			const scope = namesFor(reading, path, more);
			const turn = acted?.failed ? answer.missing : turnAt(answer, asked);
			if (!turn) Object.assign(answered.given, acted?.usual ?? { status: 200, headers: [], body: EMPTY });
			else {
				const soap = answer.operation ? definitions.soap(reading) : undefined;
				const usual = soapStatus(turn, soap?.operation.version) ?? acted?.usual.status ?? 200;
				const made = await turnOf(soap ? inVersion(turn, soap.operation.version) : turn, usual, scope, own);
				Object.assign(answered.given, made);
				if (acted && !turn.body) {
					answered.given.body = acted.usual.body;
					answered.given.headers = [...made.headers, ...besides(acted.usual.headers, made.headers)];
				} else if (acted) answered.given.headers = [...made.headers, ...besides(acted.usual.headers, made.headers)];
			}
		}
		const scope = namesFor(reading, path, more);
		for (const call of answer.calls) answered.calls.push(await callOf(call, scope));
		if (!trial && Object.keys(answer.set).length > 0) {
			const set = (await evaluator.deep(answer.set as Json, scope)) as JsonObject;
			memory.state = { ...memory.state, ...set };
		}
		if (marks) {
			const body = marks.takeBytes(answered.given.body);
			answered.given.body = latin1Bytes(joined(body));
			const values: { source: string; value: string }[] = [];
			const shown = body.map(({ text, fill }): Segment => {
				const own = decodedText(text);
				if (fill === undefined) return { text: own };
				const source = marks.sources[fill]!;
				let at = values.findIndex((one) => one.source === source);
				if (at < 0) at = values.push({ source, value: own }) - 1;
				return { text: own, fill: at };
			});
			answered.trial = { path, values, body: shown };
		}
		return answered;
	}

	async function callOf(call: CallOut, scope: Scope): Promise<CallLater> {
		try {
			const url = (await evaluator.text(call.address, scope, opening(call.address))).trim();
			if (!/^https?:\/\//i.test(url) || !URL.canParse(url)) throw new HeronError('value.address', { address: url });
			const { headers, body } = await turnOf(
				{ status: 0, headers: call.headers, times: 1, ...(call.body ? { body: call.body } : {}) },
				0,
				scope,
				createEvaluator()
			);
			return { after: call.after, outgoing: { method: call.method, url, headers, body } };
		} catch (error) {
			return { after: call.after, error: textOf(error) };
		}
	}

	/** Passes a request on, and changes what comes back as an answer says. */
	async function passOn(
		to: string,
		reading: Reading,
		answered: Answered,
		answer: Answer | undefined,
		path: Record<string, string>
	): Promise<void> {
		const scope = namesFor(reading, path);
		const base = (await evaluator.text(to, scope)).trim().replace(/\/+$/, '');
		if (!/^https?:\/\//i.test(base) || !URL.canParse(base))
			throw new HeronError('value.address', { address: base || 'nothing' });
		const { asked } = reading;
		const below = spec.base && asked.target.startsWith(spec.base) ? asked.target.slice(spec.base.length) : asked.target;
		const url = base + below;
		// RFC 9110 section 7.6.3: who has passed it on has said so
		const via = `1.1 heron-${spec.name}`;
		if (new URL(url).origin === asked.origin || headerValues(asked.headers, 'via').some((one) => one.includes(via)))
			throw new HeronError('standIn.loop', { name: spec.name });
		answered.forwarded = url;
		const headers: HeaderList = [...passed(asked.headers), ['Via', via]];
		const reply = await ports.send({ method: asked.method, url, headers, body: asked.body });
		let { status, body } = reply;
		let given = passed(reply.headers).filter(([name]) => !/^content-(encoding|length)$/i.test(name));
		if (answer) {
			const { change } = answer;
			if (change.status) status = Number(await evaluator.deep(change.status, scope)) || status;
			for (const { name, value, off } of change.headers) {
				if (off) continue;
				given = given.filter(([one]) => one.toLowerCase() !== name.toLowerCase());
				const text = await evaluator.text(String(value ?? ''), scope);
				if (text) given.push([name, text]);
			}
			if (change.json !== undefined) {
				const read = readAsked({ ...asked, headers: given, body }, ports.xml).view.json();
				body = utf8(writeJson(mergePatch(read, await evaluator.deep(change.json, scope))));
			}
		}
		Object.assign(answered.given, { status, headers: given, body });
	}

	function spoil(answered: Answered, reading: Reading): void {
		const strike = (fault: Fault, name: string) => {
			let own = memory.limits.get(fault);
			if (!own) memory.limits.set(fault, (own = {}));
			if (applyFault(fault, answered.by, answered.given, { random, now: () => ports.now(), memory: own }))
				answered.faults.push(name);
		};
		for (const [name, fault] of active) strike(fault, `${name} (${faultWords(fault)})`);
		const answer = answers.find(({ id }) => id === answered.by);
		if (answer?.fault) strike(answer.fault, faultWords(answer.fault));
		const asked = reading.asked.headers.find(([name]) => name.toLowerCase() === FAULT_HEADER)?.[1];
		if (asked !== undefined) {
			const fault = readFault(asked);
			strike(fault, `${faultWords(fault)}, asked for by the call`);
		}
	}

	/** A fault by its name, or as it is written: `status: 503`. @throws HeronError request.wrong */
	function readFault(given: string | JsonObject): Fault {
		if (typeof given === 'string') {
			const named = spec.faults.get(given.trim());
			if (named) return named;
		}
		const value =
			typeof given === 'string' ? parseYaml('fault', /:/.test(given) ? `{${given}}` : `{${given}: true}`).value : given;
		const wrong: string[] = [];
		checkFault(value, (at, message) => wrong.push(at.length > 0 ? `${at.join('.')}: ${message}` : message));
		if (wrong.length > 0)
			throw new HeronError('request.wrong', {
				detail: `"${typeof given === 'string' ? given : writeJson(given)}" is no fault of ${spec.name}: ${wrong[0]}`
			});
		return parseFault(value);
	}

	const blank = (): Given => ({ status: 200, headers: [], body: EMPTY, delay: 0, drip: 0, end: 'whole', surplus: 0 });

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
		found.sort((a, b) => a.at - b.at);
		for (const { at, path: values } of found) {
			const answer = answers[at]!;
			const { method } = answer;
			if (method && method !== asked.method && !(method === 'GET' && asked.method === 'HEAD')) {
				tried.push({ id: answer.id, why: `its method is ${method}` });
				continue;
			}
			const fit = await fits(answer, reading, values);
			if (typeof fit === 'string') {
				tried.push({ id: answer.id, why: fit });
				continue;
			}
			const answered = await give(answer, reading, values, fit.row, trial);
			return { ...answered, tried };
		}
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
			const answered: Answered = { given: blank(), by: 'forward', tried, faults: [], notes: [], calls: [] };
			await passOn(spec.otherwise.forward, reading, answered, undefined, {});
			return answered;
		}
		const methods = [...new Set(found.flatMap(({ at }) => answers[at]!.method || []))];
		const onlyMethod = found.length > 0 && tried.every(({ why }) => why.startsWith('its method is'));
		if (soap) {
			const reasons = tried.map(({ id, why }) => `${id}: ${why}`).join('; ') || 'there is none for it';
			const given = faultGiven(soap, `no answer of ${spec.title} fits: ${reasons}`);
			return { given, by: '', tried, faults: [], notes: [], calls: [] };
		}
		if (onlyMethod)
			return nothing(405, `${asked.method} ${below}: answered are ${methods.join(', ')}`, tried, [
				['Allow', methods.join(', ')]
			]);
		return nothing(404, `no answer of ${spec.title} fits ${asked.method} ${below}`, tried);
	}

	/** What it says by itself to whoever speaks SOAP. */
	const faultGiven = (found: FoundOperation, reason: string): Given => {
		const { text } = writeFault(found, { code: 'Server', reason });
		const type = found.operation.version === '1.1' ? 'text/xml' : 'application/soap+xml';
		return { ...blank(), status: 500, headers: [['Content-Type', `${type}; charset=utf-8`]], body: utf8(text) };
	};

	const soapOf = (reading: Reading): FoundOperation | undefined => {
		try {
			return definitions.soap(reading);
		} catch {
			return undefined;
		}
	};
	const nothing = (status: number, detail: string, tried: Tried[], headers: HeaderList = []): Answered => ({
		given: {
			...blank(),
			...problemOf(status, detail, tried.length > 0 ? { tried: tried as unknown as Json } : {}, headers)
		},
		...{ by: '', tried, faults: [], notes: [], calls: [] }
	});

	const service: Service = {
		spec,
		definitions,
		async ready() {
			await readSeeds(spec, ports, seeds);
			service.reset();
			service.setFaults(spec.faulty);
		},
		async ask(asked, { trial = false } = {}) {
			const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
			let answered: Answered;
			try {
				answered = await decide(reading, trial);
				spoil(answered, reading);
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
			if (NO_CONTENT.has(answered.given.status)) answered.given.body = EMPTY;
			return answered;
		},
		async drift(asked, { given, by, faults, refused }) {
			if (!spec.definition || by === '' || faults.length > 0 || refused) return [];
			const reading = readAsked(asked, ports.xml, workspace.project.namespaces);
			try {
				const found = await definitions.answerFaults(reading, given);
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
		reset() {
			memory.state = {};
			memory.counts.clear();
			memory.limits = new WeakMap();
			random = seeded(spec.seed);
			for (const [name, store] of memory.stores) {
				store.clear();
				store.seed(seeds.stores.get(name) ?? []);
			}
		},
		setFaults(wanted) {
			const next = new Map<string, Fault>();
			for (const one of wanted) next.set(typeof one === 'string' ? one : writeJson(one), readFault(one));
			active = next;
			given = wanted;
		},
		faultsGiven: () => given,
		faults: () => [...active].map(([name, fault]) => ({ name, words: faultWords(fault) })),
		refuses: () =>
			[...active.values()].some(
				(fault) => spoilsConnections(fault) && (fault.rate >= 100 || random() * 100 < fault.rate)
			),
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

/** What a stand-in reads before it begins. */
interface Seeds {
	stores: Map<string, JsonObject[]>;
	/** By dataset and columns. */
	rows: Map<string, Rows>;
}
const rowsName = ({ from, by }: NonNullable<Answer['row']>): string => writeJson([from, ...Object.keys(by)]);

async function readSeeds(spec: StandIn, ports: StandInPorts, seeds: Seeds): Promise<void> {
	const rowsOf = async (data: string): Promise<JsonObject[]> => {
		const dataset = await ports.dataset(parseRows(data)!);
		const out: JsonObject[] = [];
		for await (const { values } of dataset.rows()) out.push(values);
		return out;
	};
	for (const { name, from } of spec.stores.values())
		if (!seeds.stores.has(name))
			seeds.stores.set(name, typeof from === 'string' ? (from ? await rowsOf(from) : []) : from);
	for (const { row } of spec.answers) {
		if (!row || seeds.rows.has(rowsName(row))) continue;
		const table: Rows = new Map();
		for (const values of await rowsOf(row.from)) {
			const key = rowKey(Object.keys(row.by).map((column) => values[column] ?? null));
			// the first one is meant
			if (!table.has(key)) table.set(key, values);
		}
		seeds.rows.set(rowsName(row), table);
	}
}

/** The file of a WSDL that a target asks for: `?wsdl`, or `?wsdl=FILE` for what it reads; undefined for none. */
function wsdlAsked(target: string): string | undefined {
	const match = /\?wsdl(?:=([^&]*))?$/i.exec(target);
	return match ? decodeURIComponent(match[1] ?? '') : undefined;
}

/** Fields of one connection, which do not pass to the next (RFC 9110 section 7.6.1). */
const HOP = new Set([
	'connection',
	'keep-alive',
	'proxy-connection',
	'te',
	'trailer',
	'transfer-encoding',
	'upgrade',
	'host',
	'content-length',
	FAULT_HEADER
]);
const passed = (headers: HeaderList): HeaderList => headers.filter(([name]) => !HOP.has(name.toLowerCase()));

const besides = (headers: HeaderList, there: HeaderList): HeaderList =>
	headers.filter(([name]) => !there.some(([own]) => own.toLowerCase() === name.toLowerCase()));

const opening = (address: string) => (address.startsWith('{$') ? (text: string) => text : escapeAddress);
const decodedText = (octets: string): string => new TextDecoder().decode(latin1Bytes(octets));

/** An answer for the version of SOAP that was asked in. */
function inVersion(turn: Turn, version: string): Turn {
	if (turn.body?.kind !== 'soap' || !isObject(turn.body.value)) return turn;
	return { ...turn, body: { ...turn.body, value: { ...(turn.body.value as JsonObject), version } } };
}
/** The status that goes with a fault (SOAP 1.1 section 6.2, SOAP 1.2 part 2 section 7.5.2.2). */
function soapStatus({ body }: Turn, version: string | undefined): number | undefined {
	if (body?.kind !== 'soap' || !isObject(body.value) || !isObject(body.value.fault)) return undefined;
	const { code } = body.value.fault;
	return version === '1.2' && (code === 'Client' || code === 'Sender') ? 400 : 500;
}
