import { checkKind, relationNames, type Check } from '../checks/index.ts';
import { checkCheck, parseSend, stepKinds, TAKES, type Take } from '../steps/index.ts';
import { templateProblem } from '../values/index.ts';
import { isObject, type Json, type JsonObject } from './json.ts';
import type { DocumentKind } from './kind.ts';
import { parseParams, type Param } from './params.ts';
import { checkEach, EACH_SCHEMA, parseRows, rows, type RowsSpec } from './rows.ts';
import { duration, flag, listOf, names, record, shaped, text, version, type Report } from './shape.ts';
import { parseDuration } from './units.ts';

export interface Body {
	kind: string;
	value: Json;
	/** A Content-Type other than the kind's own. */
	type?: string;
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
export interface CallSpec {
	/** A scenario of the same collection, or `collection/scenario`. */
	target: string;
	with: JsonObject;
	/** Once in a run, for all that call it with the same values. */
	once: boolean;
}

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
	/** The reason for which the scenario ends here. */
	stop?: string;
}

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

export interface Collection {
	name: string;
	title: string;
	connection: string;
	credential: string;
	scenarios: Scenario[];
}

/** What the id of a scenario or step is made of. */
export const ID = /^[A-Za-z0-9_][\w.-]*$/;

const id = shaped(
	{ type: 'string', pattern: ID.source, description: 'The name by which others speak of it.' },
	(value, report) => {
		if (typeof value !== 'string' || !ID.test(value)) report([], 'an id is made of letters, digits, _ . and -');
	}
);

const RETRY: Json = {
	anyOf: [
		{ type: 'integer', minimum: 0, maximum: 100 },
		{
			type: 'object',
			properties: {
				times: { type: 'integer', minimum: 0, maximum: 100 },
				every: { type: 'string' },
				growth: { type: 'number', minimum: 1, maximum: 10 },
				on: { type: 'array', items: { type: ['string', 'integer'] } }
			},
			required: ['times'],
			additionalProperties: false
		}
	]
};

function checkRetry(value: unknown, report: Report): void {
	const times = isObject(value) ? value.times : value;
	if (!Number.isInteger(times) || (times as number) < 0 || (times as number) > 100) {
		report(isObject(value) ? ['times'] : [], 'a whole number from 0 to 100 is wanted');
	}
	if (!isObject(value)) return;
	for (const key of Object.keys(value))
		if (!['times', 'every', 'growth', 'on'].includes(key))
			report([key], `unknown key "${key}"; known are every, growth, on, times`);
	checkGrowth(value.growth, report);
	const on = value.on === undefined || Array.isArray(value.on) ? (value.on ?? []) : [value.on];
	for (const one of on as unknown[])
		if (!/^(failed|error|timeout|[1-5]XX|[1-5]\d\d)$/i.test(String(one)))
			report(['on'], `"${String(one)}" is none of failed, error, timeout, a status (503) or a range (5XX)`);
	if (value.every !== undefined && parseDuration(value.every) === undefined)
		report(['every'], 'a duration is wanted, such as 500 ms');
}

function checkGrowth(value: unknown, report: Report): void {
	if (value !== undefined && (typeof value !== 'number' || value < 1 || value > 10))
		report(['growth'], 'a number from 1 to 10 is wanted: 2 doubles the wait from try to try');
}

const UNTIL_FIELDS = ['every', 'growth', 'within', 'times'];

function checkUntil(value: unknown, report: Report): void {
	if (!isObject(value))
		return report([], 'what must hold is wanted, such as { status: 200, every: 500 ms, within: 10 s }');
	for (const key of ['every', 'within'])
		if (value[key] !== undefined && parseDuration(value[key]) === undefined)
			report([key], 'a duration is wanted, such as 500 ms');
	checkGrowth(value.growth, report);
	if (value.times !== undefined && (!Number.isInteger(value.times) || (value.times as number) < 1))
		report(['times'], 'a whole number of tries is wanted');
	const check = Object.fromEntries(Object.entries(value).filter(([key]) => !UNTIL_FIELDS.includes(key)));
	if (Object.keys(check).length > 0) checkCheck(check, 0, ([, ...at], message) => report(at, message));
}

const valueMap = (doc: string) =>
	shaped({ type: 'object', description: doc }, (value, report) => {
		if (!isObject(value)) return report([], 'names with values are wanted');
		for (const name of Object.keys(value))
			if (!/^[A-Za-z_]\w*$/.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
	});

const step = record(
	{
		id,
		title: text('The name that people read.'),
		...Object.fromEntries(
			stepKinds.flatMap((kind) =>
				kind.fields.map((field) => [
					field.name,
					shaped({ description: field.doc, ...(field.schema as JsonObject) }, field.check)
				])
			)
		),
		when: text('An expression; the step is skipped unless it is true.'),
		each: shaped(
			{
				description: 'Repeats the step, each time with another $row: a dataset, a list that is computed, or a list.',
				...(EACH_SCHEMA as object)
			},
			checkEach
		),
		cleanup: flag('Runs whatever happened above.'),
		until: shaped(
			{
				type: 'object',
				description:
					'Repeats the step until a check holds, or without one until all of its checks do: { status: 200, every: 500 ms, growth: 2, within: 10 s, times: 20 }.',
				properties: {
					every: { type: 'string' },
					growth: { type: 'number', minimum: 1, maximum: 10 },
					within: { type: 'string' },
					times: { type: 'integer', minimum: 1 }
				}
			},
			checkUntil
		),
		parallel: flag('It is carried out beside the step above.'),
		retry: shaped(RETRY, checkRetry),
		timeout: duration('The longest time for all attempts.'),
		off: flag('Left out of runs.')
	},
	{ id: 'later steps and reports speak of the step by it' },
	(value, report) => {
		const kinds = stepKinds.filter((kind) => Object.hasOwn(value, kind.key));
		if (kinds.length !== 1)
			return report([], `a step has exactly one of ${stepKinds.map((kind) => kind.key).join(', ')}`);
		const [kind] = kinds;
		if (value.until !== undefined && kind!.key !== 'send' && kind!.key !== 'call')
			report(['until'], `"until" does not fit a step of ${kind!.key}`);
		if (kind!.key === 'call' && isObject(value.until)) {
			const odd = Object.keys(value.until).find((key) => key !== 'that' && !UNTIL_FIELDS.includes(key));
			if (odd) report(['until', odd], 'a call is repeated until `that` is true, or until all passes');
		}
		const own = new Set(kinds[0]!.fields.map((field) => field.name));
		for (const other of stepKinds.flatMap((kind) => kind.fields)) {
			if (Object.hasOwn(value, other.name) && !own.has(other.name))
				report([other.name], `"${other.name}" does not fit a step of ${kinds[0]!.key}`);
		}
	}
);

const scenario = record(
	{
		id,
		title: text('The name that people read.'),
		tags: names('Words by which suites choose.'),
		connection: text('Another connection than the collection’s.'),
		credential: text('Another credential than the collection’s; none for none.'),
		off: flag('Left out of runs.'),
		rows: rows('It runs once for each row of a dataset.'),
		inputs: valueMap('Names that a call gives values, each with its default; null where a call must give one.'),
		outputs: valueMap('What a call of this scenario keeps; left out: all that its steps keep.'),
		steps: listOf(step, 'What happens, in order.')
	},
	{ id: 'suites and the command speak of the scenario by it' }
);

export const collection: DocumentKind = {
	name: 'collection',
	folder: 'collections',
	doc: 'A titled document of scenarios about one subject.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			connection: text('The connection of all steps that name no other.'),
			credential: text('The credential of all its steps, over the connection’s; none for none.'),
			scenarios: listOf(scenario, 'The scenarios.')
		},
		{ heron: 'the version of the format, heron: 1' }
	),
	example: {
		heron: 1,
		title: 'Mooring bookings',
		connection: 'reedmere',
		scenarios: [
			{
				id: 'look',
				title: 'Look at the moorings',
				steps: [{ id: 'list', send: 'GET /moorings', checks: [{ status: 200 }] }]
			}
		]
	},
	check(value, report) {
		if (!isObject(value) || !Array.isArray(value.scenarios)) return;
		unique(value.scenarios, ['scenarios'], report);
		value.scenarios.forEach((one: unknown, index: number) => {
			if (!isObject(one) || !Array.isArray(one.steps)) return;
			unique(one.steps, ['scenarios', index, 'steps'], report);
			one.steps.forEach((s: unknown, at: number) => {
				if (isObject(s) && typeof s.when === 'string') {
					const problem = templateProblem(s.when.replace(/^\{(\$[\s\S]*)\}$/, '$1'), true);
					if (problem) report(['scenarios', index, 'steps', at, 'when'], problem.message);
				}
			});
		});
	}
};

function unique(list: unknown[], path: (string | number)[], report: Report): void {
	const seen = new Map<unknown, number>();
	list.forEach((item, index) => {
		const own = isObject(item) ? item.id : undefined;
		if (own === undefined) return;
		const first = seen.get(own);
		if (first === undefined) seen.set(own, index);
		else
			report([...path, index, 'id'], `the id "${String(own)}" is used twice here: entry ${first + 1} has it already`);
	});
}

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
		...(given.file === undefined ? {} : { file: str(given.file) })
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
		const key = Object.keys(given.body).find((name) => name !== 'type');
		if (key) {
			spec.body = { kind: key, value: given.body[key] as Json };
			if (given.body.type !== undefined) spec.body.type = str(given.body.type);
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

/** A collection in full, defaults filled in. */
export function parseCollection(name: string, value: Json): Collection {
	const given = isObject(value) ? value : {};
	return {
		name,
		title: str(given.title, name),
		connection: str(given.connection),
		credential: str(given.credential),
		scenarios: list(given.scenarios).map(parseScenario)
	};
}
