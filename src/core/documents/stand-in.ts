import type { BodyName } from '../bodies/index.ts';
import { bodyKeyOf } from '../model/body-key.ts';
import type { Check } from '../checks/index.ts';
import { parseFault, type Fault } from '../stand-in/faults/index.ts';
import { parsePath, type PathPart } from '../model/route.ts';
import { parseCheck } from '../checks/index.ts';
import { type Body } from '../model/step.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { parseParams, type Param } from '../model/params.ts';
import { parseDuration } from '../model/units.ts';

/** What is done with a store. */
export const VERBS = ['list', 'add', 'read', 'put', 'replace', 'change', 'remove'] as const;
type Verb = (typeof VERBS)[number];

/** Things that are remembered, each under its key. */
export interface Store {
	name: string;
	/** The property by which they are told apart. */
	key: string;
	/** What is there at first: a dataset, or the things themselves. */
	from: string | JsonObject[];
	/** What the key of one becomes that comes without. */
	make: Json;
	/** Milliseconds until what is added can be seen. */
	seenAfter: number;
	/** How many of them one page holds. */
	page: number;
}

/** One answer: of several in turn each is given so often, the last one from then on. */
export interface Turn {
	/** 0: as the verb of the store has it, or 200. */
	status: Json;
	headers: Param[];
	body?: Body;
	times: number;
}

/** A call that goes out when an answer was given. */
export interface CallOut {
	method: string;
	address: string;
	after: number;
	headers: Param[];
	body?: Body;
}

/** A call that goes out by itself: over and over, or when it is told to. */
interface OwnCall extends CallOut {
	id: string;
	title: string;
	off: boolean;
	/** A webhook of the definition, which its body is from and is held against. */
	webhook: string;
	/** Milliseconds from one to the next; 0 for only when it is told to. */
	every: number;
}

/** What comes in, and what is answered. */
export interface Answer {
	id: string;
	title: string;
	off: boolean;
	/** In capitals; empty for any. */
	method: string;
	/** As it is written. */
	path: string;
	parts: PathPart[];
	/** `Service.Operation` in place of a path. */
	operation: string;
	must: Check[];
	/** A row of a dataset whose columns have these values: $row. */
	row?: { from: string; by: JsonObject };
	store?: { verb: Verb; name: string };
	/** Kept in $state once it is answered. */
	set: JsonObject;
	turns: Turn[];
	/** What is answered when the store has it not, or has it already. */
	missing?: Turn;
	/** Where it is passed on to, in place of an answer: an address, or empty for the stand-in's own. */
	forward?: string;
	/** What is changed of an answer that comes from there. */
	change: { status: Json; headers: Param[]; json?: Json };
	calls: CallOut[];
	fault?: Fault;
	/** Its entry in the file, from 0: what belongs to one resource has one in common. */
	entry: number;
}

/** A simulated service: a file in `stand-ins/`. */
export interface StandIn {
	name: string;
	title: string;
	/** 0 for any that is free. */
	port: number;
	/** Before all paths; without a slash at its end. */
	base: string;
	tls: { on: boolean; client: boolean };
	/** Origins whose pages may read its answers; `*` for all. */
	cors: string[];
	/** A file in definitions/ that its answers are held against. */
	definition: string;
	/** What is wanted of the Security header of each message, as written: `user`, `password`, `passwordType`, `timestamp`, `certificate`. */
	wsSecurity?: JsonObject;
	/** Parts that its signature has to cover. */
	signed: string[];
	/** When it is back to what it held at first by itself: with each run, with each scenario; empty for never. */
	reset: '' | 'run' | 'scenario';
	seed: number;
	stores: Map<string, Store>;
	faults: Map<string, Fault>;
	/** Names of those that are on from the start. */
	faulty: string[];
	answers: Answer[];
	/** What it calls by itself. */
	calls: OwnCall[];
	/** What becomes of a request that no answer fits. */
	otherwise: { definition: boolean; forward: string };
}

/** What a name in expressions is made of. */
export const NAME = /^[A-Za-z_]\w*$/;
/** `METHOD /path`, `/path` for any method, or `Service.Operation`. */
export function parseAsk(given: string): { method: string; path: string; operation: string } | undefined {
	const match = /^\s*(?:([A-Za-z!#$%&'*+.^_`|~-]+)\s+)?(\/\S*)\s*$/.exec(given);
	if (match) return { method: match[1] ?? '', path: match[2]!, operation: '' };
	return /^\s*[\w-]+(\.[\w-]+)?\s*$/.test(given) ? { method: '', path: '', operation: given.trim() } : undefined;
}

/** A method and an address. */
export const CALL = /^([A-Z]+)\s+(\S[\s\S]*)$/;
/** A verb, and the name of a store. */
export const STORE = new RegExp(`^(?:(${VERBS.join('|')})\\s+)?([A-Za-z_]\\w*)$`);

const numberOf = (value: unknown, otherwise: number): number => (typeof value === 'number' ? value : otherwise);

function parseBody(value: unknown, operation: string, definition: string): Body | undefined {
	if (!isObject(value)) return undefined;
	const kind = bodyKeyOf(value);
	if (!kind) return undefined;
	const given = value[kind] as Json;
	const own = kind === 'soap' && isObject(given) ? { ...(given as JsonObject), operation, definition } : given;
	// one that nobody knows is told when it would be sent
	return { kind: kind as BodyName, value: own, ...(value.type === undefined ? {} : { type: String(value.type) }) };
}

function parseCall(given: Record<string, unknown>): CallOut {
	const [, method = 'POST', address = ''] = CALL.exec(String(given.send ?? '').trim()) ?? [];
	const held = parseBody(given.body, '', '');
	return {
		...{ method, address, after: parseDuration(given.after) ?? 0, headers: parseParams(given.headers) },
		...(held ? { body: held } : {})
	};
}

function parseTurn(value: unknown, operation = '', definition = ''): Turn {
	const given = isObject(value) ? value : {};
	const held = parseBody(given.body, operation, definition);
	return {
		status: (given.status ?? 0) as Json,
		headers: parseParams(given.headers),
		...(held ? { body: held } : {}),
		times: numberOf(given.times, 1)
	};
}

/** What a resource answers, in the order in which it is looked at. */
const OF_RESOURCE: [Verb, string, boolean][] = [
	['list', 'GET', false],
	['add', 'POST', false],
	['read', 'GET', true],
	['replace', 'PUT', true],
	['change', 'PATCH', true],
	['remove', 'DELETE', true]
];

function parseAnswer(
	given: Record<string, unknown>,
	entry: number,
	definition: string,
	stores: Map<string, Store>
): Answer[] {
	const called = parseAsk(String(given.ask ?? '')) ?? { method: '', path: '/', operation: '' };
	const { operation } = called;
	const partsOf = (path: string): PathPart[] => {
		const parts = parsePath(path);
		return typeof parts === 'string' ? [] : parts;
	};
	const [, verb, name = ''] = STORE.exec(String(given.store ?? '').trim()) ?? [];
	const list = Array.isArray(given.answer)
		? (given.answer as unknown[])
		: given.answer === undefined
			? []
			: [given.answer];
	const change = isObject(given.change) ? given.change : {};
	const common: Answer = {
		id: String(given.id ?? ''),
		title: String(given.title ?? ''),
		off: given.off === true,
		...called,
		parts: partsOf(called.path),
		must: (Array.isArray(given.must) ? given.must : []).flatMap((one) => parseCheck(one as Json) ?? []),
		...(isObject(given.row)
			? { row: { from: String(given.row.from ?? ''), by: (isObject(given.row.by) ? given.row.by : {}) as JsonObject } }
			: {}),
		...(verb ? { store: { verb: verb as Verb, name } } : {}),
		set: (isObject(given.set) ? given.set : {}) as JsonObject,
		turns: list.map((one) => parseTurn(one, operation, definition)),
		...(given.missing === undefined ? {} : { missing: parseTurn(given.missing, operation, definition) }),
		...(given.forward === undefined ? {} : { forward: given.forward === true ? '' : String(given.forward as string) }),
		change: {
			status: (change.status ?? 0) as Json,
			headers: parseParams(change.headers),
			...(change.json === undefined ? {} : { json: change.json as Json })
		},
		calls: (Array.isArray(given.calls) ? given.calls : []).filter(isObject).map(parseCall),
		...(given.fault === undefined ? {} : { fault: parseFault(given.fault) }),
		entry
	};
	if (given.resource === undefined) return [common];
	const path = String(given.resource as string).replace(/\/+$/, '');
	const key = stores.get(name)?.key ?? 'key';
	return OF_RESOURCE.map(([own, method, one]) => {
		const whole = one ? `${path}/{${NAME.test(key) ? key : 'key'}}` : path || '/';
		return {
			...common,
			id: `${common.id}.${own}`,
			method,
			path: whole,
			parts: partsOf(whole),
			store: { verb: own, name }
		};
	});
}

const signedOf = (given: unknown): string[] => {
	if (!isObject(given) || given.certificate === undefined) return [];
	if (given.sign === undefined) return given.timestamp === undefined ? ['body'] : ['body', 'timestamp'];
	return Array.isArray(given.sign) ? given.sign.map(String) : String(given.sign as string).split(/[\s,]+/);
};

/** A stand-in in full, defaults filled in; a resource is one answer for each thing that its store can do. */
export function parseStandIn(name: string, value: Json): StandIn {
	const given = isObject(value) ? value : {};
	const stores = new Map<string, Store>();
	for (const [own, one] of Object.entries(isObject(given.stores) ? given.stores : {})) {
		const as = isObject(one) ? one : {};
		stores.set(own, {
			name: own,
			key: String(as.key ?? 'id'),
			from: Array.isArray(as.from) ? (as.from.filter(isObject) as JsonObject[]) : String(as.from ?? ''),
			make: (as.make ?? '{$uuid()}') as Json,
			seenAfter: parseDuration(as.seenAfter) ?? 0,
			page: numberOf(as.page, 50)
		});
	}
	const definition = String(given.definition ?? '');
	const { tls, otherwise } = given;
	return {
		name,
		title: String(given.title ?? name),
		port: numberOf(given.port, 0),
		base: String(given.base ?? '').replace(/\/+$/, ''),
		tls: { on: tls === true || isObject(tls), client: isObject(tls) && tls.client === true },
		cors: given.cors === true ? ['*'] : Array.isArray(given.cors) ? given.cors.map(String) : [],
		definition,
		...(isObject(given.wsSecurity) ? { wsSecurity: given.wsSecurity as JsonObject } : {}),
		signed: signedOf(given.wsSecurity),
		reset: given.reset === 'run' || given.reset === 'scenario' ? given.reset : '',
		seed: numberOf(given.seed, 1),
		stores,
		faults: new Map(
			Object.entries(isObject(given.faults) ? given.faults : {}).map(([own, one]) => [own, parseFault(one)])
		),
		faulty: Array.isArray(given.faulty) ? given.faulty.map(String) : [],
		answers: (Array.isArray(given.answers) ? given.answers : []).flatMap((one: unknown, index) =>
			isObject(one) ? parseAnswer(one, index, definition, stores) : []
		),
		calls: ((Array.isArray(given.calls) ? given.calls : []) as unknown[]).filter(isObject).map((one) => ({
			...parseCall(one),
			...{ id: String(one.id ?? ''), title: String(one.title ?? ''), off: one.off === true },
			...{ webhook: String(one.webhook ?? ''), every: parseDuration(one.every) ?? 0 }
		})),
		otherwise: {
			definition: otherwise === 'definition',
			forward: isObject(otherwise) ? String(otherwise.forward ?? '') : ''
		}
	};
}
