import { bodyKeyOf } from './body-key.ts';
import { checkKind, relationNames, type Check } from '../checks/index.ts';
import { parsePath, type PathPart } from '../stand-in/path.ts';
import { parseReceive, parseSend, stepKinds, TAKES, type Take } from '../steps/index.ts';
import { isObject, type Json, type JsonObject } from './json.ts';
import { parseParams, type Param } from './params.ts';
import { parseRows, type RowsSpec } from './rows.ts';
import { parseDuration } from './units.ts';

/** The body of a request as it is written. */
export interface Body {
	kind: string;
	value: Json;
	/** A Content-Type other than the kind's own. */
	type?: string;
	/** Of JSON: the file by which its form is made. */
	schema?: string;
}

/** What a `send` step sends and looks at. */
export interface SendSpec {
	method: string;
	/** A path below the connection's base, or an absolute address. */
	target: string;
	connection: string;
	/** Empty: inherited. */
	credential: string;
	path: Param[];
	query: Param[];
	headers: Param[];
	cookies: Param[];
	body?: Body;
	checks: Check[];
	keep: Kept[];
}

/** A value that is kept for later steps. */
export interface Kept {
	name: string;
	selector: string;
	/** Which of several matches; left out: one value where one place can match, else all as a list. */
	take?: Take;
	/** What is kept when nothing matches; without it that is a failure. */
	otherwise?: Json;
	/** The name of a file that it is kept in: later steps send it, and the command writes it. */
	file?: string;
	/** Whether it is hidden like a secret; left out: where it says who calls. */
	secret?: boolean;
}

/** A call that comes to a stand-in. */
export interface ReceiveSpec {
	/** Empty for any. */
	method: string;
	path: string;
	parts: PathPart[];
	/** The stand-in. */
	from: string;
	/** A duration as written; empty for the usual one. */
	within: string;
	must: Check[];
	keep: Kept[];
}

/** What a step is repeated until, and how long that may take. */
export interface Until {
	/** What must hold; left out: all checks of the step. */
	check?: Check;
	/** Milliseconds between two tries. */
	every: number;
	/** By how much that grows from try to try. */
	growth: number;
	/** Milliseconds for all tries. */
	within: number;
	/** The most tries; 0 for no limit. */
	times: number;
}

/** What is tried again, and how. */
export interface Retry {
	/** Tries beyond the first. */
	times: number;
	every: number;
	growth: number;
	/** `failed`, `error`, `timeout`, status codes and ranges; empty for failed and error. */
	on: string[];
}

/** Another scenario that is carried out by a step. */
interface CallSpec {
	/** A scenario of the same collection, or `collection/scenario`. */
	target: string;
	with: JsonObject;
	/** Once in a run, for all that call it with the same values. */
	once: boolean;
}

/** A step of a scenario. */
export interface Step {
	id: string;
	title: string;
	kind: string;
	off: boolean;
	/** A bare expression; the step is skipped unless it is true. */
	when: string;
	/** Runs whatever happened above. */
	cleanup: boolean;
	/** What it repeats over, each time as `$row`: a dataset, a list that is computed, or a list. */
	each?: Json;
	retry: Retry;
	until?: Until;
	/** It is carried out beside the step above. */
	parallel: boolean;
	/** Milliseconds for all attempts; 0 for no limit of its own. */
	timeout: number;
	send?: SendSpec;
	set?: JsonObject;
	wait?: string;
	call?: CallSpec;
	script?: string;
	receive?: ReceiveSpec;
	/** The reason for which the scenario ends here. */
	stop?: string;
}

/** A scenario: steps that are carried out in order. */
export interface Scenario {
	id: string;
	title: string;
	tags: string[];
	off: boolean;
	connection: string;
	credential: string;
	/** It runs once for each row. */
	rows?: RowsSpec;
	/** Names that whoever calls it gives values, with what holds when nobody does; null where a value must be given. */
	inputs: JsonObject;
	/** What a call of it keeps; undefined for all that its steps keep. */
	outputs?: JsonObject;
	steps: Step[];
}

/** A collection of scenarios: a file in `collections/`. */
export interface Collection {
	name: string;
	title: string;
	/** The folder in which it is shown, from the outermost; empty for none. */
	folder: string[];
	connection: string;
	credential: string;
	scenarios: Scenario[];
}

/** What the id of a scenario or step is made of. */
export const ID = /^[A-Za-z0-9_][\w.-]*$/;

/** A check in full; undefined when no kind of check is named. */
export function parseCheck(value: Json): Check | undefined {
	if (!isObject(value)) return undefined;
	const key = Object.keys(value).find((name) => checkKind(name));
	if (!key) return undefined;
	const { form } = checkKind(key)!;
	const given = value[key] as Json;
	const { settings = {} } = checkKind(key)!;
	const common = {
		off: value.off === true || isObject(value.off),
		...(isObject(value.off) ? { pause: { because: str(value.off.because), until: str(value.off.until) } } : {}),
		...(value.should === true ? { should: true } : {})
	};
	if (form === 'value') {
		const own = Object.entries(value).filter(([name]) => Object.hasOwn(settings, name));
		return {
			kind: key,
			relations: [{ name: key, expected: given }],
			...(own.length > 0 ? { settings: Object.fromEntries(own) as JsonObject } : {}),
			...common
		};
	}
	const source = form === 'relations' ? (isObject(given) ? given : {}) : value;
	const relations = Object.keys(source)
		.filter((name) => relationNames.includes(name))
		.map((name) => ({ name, expected: source[name] as Json }));
	const selector = form === 'selector' && given ? String(given) : undefined;
	return { kind: key, relations, ...common, ...(selector === undefined ? {} : { selector }) };
}

/** The text as a file may hold it for a name. */
const str = (value: unknown, otherwise = ''): string =>
	value === undefined || value === null ? otherwise : String(value);
const list = (value: unknown): unknown[] => (Array.isArray(value) ? value : []);

/** A step in full, defaults filled in; what is wrong in it is reported by the schema, not here. */
export function parseStep(value: unknown): Step {
	const given = isObject(value) ? value : {};
	const kind = stepKinds.find((one) => Object.hasOwn(given, one.key))?.key ?? 'send';
	const retry = isObject(given.retry) ? given.retry : { times: given.retry };
	const parsed: Step = {
		id: str(given.id),
		title: str(given.title),
		kind,
		off: given.off === true,
		when: str(given.when),
		cleanup: given.cleanup === true,
		parallel: given.parallel === true,
		retry: {
			times: Number(retry.times ?? 0) || 0,
			every: parseDuration(retry.every) ?? 0,
			growth: Number(retry.growth ?? 1) || 1,
			on: (Array.isArray(retry.on) ? retry.on : retry.on === undefined ? [] : [retry.on]).map((one) => String(one))
		},
		timeout: parseDuration(given.timeout) ?? 0
	};
	if (given.each !== undefined && given.each !== null) parsed.each = given.each as Json;
	if (isObject(given.until)) parsed.until = parseUntil(given.until);
	if (kind === 'set') parsed.set = (isObject(given.set) ? given.set : {}) as JsonObject;
	else if (kind === 'wait') parsed.wait = str(given.wait);
	else if (kind === 'script') parsed.script = str(given.script);
	else if (kind === 'receive') parsed.receive = parseReceiveSpec(given);
	else if (kind === 'stop') parsed.stop = str(given.stop);
	else if (kind === 'call')
		parsed.call = {
			target: str(given.call),
			with: (isObject(given.with) ? given.with : {}) as JsonObject,
			once: given.once === true
		};
	else parsed.send = parseSendSpec(given);
	return parsed;
}

function parseReceiveSpec(given: Record<string, unknown>): ReceiveSpec {
	const { method, path } = parseReceive(str(given.receive)) ?? { method: '', path: '/' };
	const parts = parsePath(path);
	return {
		...{
			method,
			path,
			parts: typeof parts === 'string' ? [] : parts,
			from: str(given.from),
			within: str(given.within)
		},
		must: list(given.must).flatMap((check) => parseCheck(check as Json) ?? []),
		keep: isObject(given.keep) ? Object.entries(given.keep).map(([name, selector]) => parseKept(name, selector)) : []
	};
}

function parseUntil(given: Record<string, unknown>): Until {
	const { every, growth, within, times, ...rest } = given;
	const check = parseCheck(rest as Json);
	return {
		...(check ? { check } : {}),
		every: parseDuration(every) ?? 1000,
		growth: Number(growth ?? 1) || 1,
		within: parseDuration(within) ?? 30_000,
		times: Number(times ?? 0) || 0
	};
}

function parseKept(name: string, given: unknown): Kept {
	if (!isObject(given)) return { name, selector: str(given) };
	const take = TAKES.find((one) => one === given.take);
	return {
		name,
		selector: str(given.from),
		...(take ? { take } : {}),
		...(given.default === undefined ? {} : { otherwise: given.default as Json }),
		...(given.file === undefined ? {} : { file: str(given.file) }),
		...(typeof given.secret === 'boolean' ? { secret: given.secret } : {})
	};
}

function parseSendSpec(given: Record<string, unknown>): SendSpec {
	const { method, target } = parseSend(str(given.send)) ?? { method: str(given.send) || 'GET', target: '' };
	const spec: SendSpec = {
		method,
		target,
		connection: str(given.connection),
		credential: str(given.credential),
		path: parseParams(given.path),
		query: parseParams(given.query),
		headers: parseParams(given.headers),
		cookies: parseParams(given.cookies),
		checks: list(given.checks).flatMap((check) => parseCheck(check as Json) ?? []),
		keep: isObject(given.keep) ? Object.entries(given.keep).map(([name, selector]) => parseKept(name, selector)) : []
	};
	if (isObject(given.body)) {
		const key = bodyKeyOf(given.body);
		if (key) {
			spec.body = { kind: key, value: given.body[key] as Json };
			if (given.body.type !== undefined) spec.body.type = str(given.body.type);
			if (given.body.schema !== undefined) spec.body.schema = str(given.body.schema);
		}
	}
	return spec;
}

/** A scenario in full, defaults filled in. */
export function parseScenario(value: unknown): Scenario {
	const given = isObject(value) ? value : {};
	const over = parseRows(given.rows);
	return {
		id: str(given.id),
		title: str(given.title, str(given.id)),
		...(over ? { rows: over } : {}),
		inputs: (isObject(given.inputs) ? given.inputs : {}) as JsonObject,
		...(isObject(given.outputs) ? { outputs: given.outputs as JsonObject } : {}),
		tags: list(given.tags).map(String),
		off: given.off === true,
		connection: str(given.connection),
		credential: str(given.credential),
		steps: list(given.steps).map(parseStep)
	};
}

/** The parts of a folder's path, `Locks/At night`. */
export const folderOf = (value: unknown): string[] =>
	typeof value === 'string'
		? value
				.split('/')
				.map((part) => part.trim())
				.filter(Boolean)
		: [];

/** A collection in full, defaults filled in. */
export function parseCollection(name: string, value: Json): Collection {
	const given = isObject(value) ? value : {};
	return {
		name,
		title: str(given.title, name),
		folder: folderOf(given.folder),
		connection: str(given.connection),
		credential: str(given.credential),
		scenarios: list(given.scenarios).map(parseScenario)
	};
}
