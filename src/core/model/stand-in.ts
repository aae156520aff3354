import { answerBodies } from '../bodies/index.ts';
import { requestChecks, type Check } from '../checks/index.ts';
import { nearest } from '../messages.ts';
import { checkFault, parseFault, type Fault } from '../stand-in/faults/index.ts';
import { parsePath, type PathPart } from '../stand-in/path.ts';
import { bodySchema, checkBody, checkCheck, checkSchema } from '../steps/index.ts';
import { hasExpression } from '../values/index.ts';
import { ID, parseCheck, type Body } from './collection.ts';
import { isObject, type Json, type JsonObject } from './json.ts';
import type { DocumentKind } from './kind.ts';
import { checkParams, parseParams, PARAMS_SCHEMA, type Param } from './params.ts';
import {
	duration,
	findProblems,
	flag,
	isHttp,
	jsonSchemaOf,
	listOf,
	mapOf,
	record,
	shaped,
	text,
	version,
	whole,
	type Report
} from './shape.ts';
import { parseDuration } from './units.ts';

/** What is done with a store. */
export const VERBS = ['list', 'add', 'read', 'put', 'replace', 'change', 'remove'] as const;
export type Verb = (typeof VERBS)[number];

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

export interface StandIn {
	name: string;
	title: string;
	/** 0 for any that is free. */
	port: number;
	/** Before all paths; without a slash at its end. */
	base: string;
	tls: { on: boolean; client: boolean };
	/** A file in definitions/ that its answers are held against. */
	definition: string;
	seed: number;
	stores: Map<string, Store>;
	faults: Map<string, Fault>;
	/** Names of those that are on from the start. */
	faulty: string[];
	answers: Answer[];
	/** What becomes of a request that no answer fits. */
	otherwise: { definition: boolean; forward: string };
}

const NAME = /^[A-Za-z_]\w*$/;
/** `METHOD /path`, `/path` for any method, or `Service.Operation`. */
export function parseAsk(given: string): { method: string; path: string; operation: string } | undefined {
	const match = /^\s*(?:([A-Za-z!#$%&'*+.^_`|~-]+)\s+)?(\/\S*)\s*$/.exec(given);
	if (match) return { method: match[1] ?? '', path: match[2]!, operation: '' };
	return /^\s*[\w-]+(\.[\w-]+)?\s*$/.test(given) ? { method: '', path: '', operation: given.trim() } : undefined;
}

function checkAsk(value: unknown, report: Report): void {
	const ask = typeof value === 'string' ? parseAsk(value) : undefined;
	if (!ask) return report([], 'a method and a path are wanted, such as GET /notices/{number}');
	if (ask.operation) return;
	const parts = parsePath(ask.path);
	if (typeof parts === 'string') report([], parts);
	if (ask.method && ask.method !== ask.method.toUpperCase())
		report([], `methods are case-sensitive: ${ask.method.toUpperCase()}, not ${ask.method}`);
}

const ask = shaped(
	{
		type: 'string',
		description: 'METHOD /path with {name} for any part; /path for any method; Service.Operation of a WSDL.'
	},
	checkAsk
);

const computed = (schema: Json, doc: string, problem: (value: unknown) => string | undefined) =>
	shaped({ description: doc, anyOf: [schema, { type: 'string', pattern: '\\{\\$' }] }, (value, report) => {
		if (typeof value === 'string' && hasExpression(value)) return;
		const wrong = problem(value);
		if (wrong) report([], wrong);
	});
const status = computed({ type: 'integer', minimum: 200, maximum: 599 }, 'The status, 200 when left out.', (value) =>
	Number.isInteger(value) && (value as number) >= 200 && (value as number) <= 599
		? undefined
		: 'a status from 200 to 599 is wanted'
);
const params = shaped(PARAMS_SCHEMA, checkParams);
const body = shaped(
	{ description: 'What it holds: exactly one kind.', ...(bodySchema(answerBodies) as object) },
	(value, report) => checkBody(value, report, answerBodies)
);

const turn = record({
	status,
	headers: params,
	body,
	times: whole('How often, before the next one of the list.', 1, 1_000_000)
});
const turns = shaped(
	{
		description: 'What is answered; of a list each in turn, and the last one from then on.',
		anyOf: [jsonSchemaOf(turn), { type: 'array', items: jsonSchemaOf(turn), minItems: 1 }]
	},
	(value, report) => {
		const list: [unknown, (string | number)[]][] = Array.isArray(value)
			? value.map((one: unknown, index) => [one, [index]])
			: [[value, []]];
		if (list.length === 0) report([], 'an answer is wanted, such as { status: 204 }');
		for (const [one, at] of list) {
			if (!isObject(one)) report(at, 'an answer is wanted, such as { status: 200, body: { json: [] } }');
			else for (const found of findProblems(turn, one)) report([...at, ...found.path], found.message);
		}
	}
);

const DELAYED = /^([A-Z]+)\s+(\S[\s\S]*)$/;
const callOut = record(
	{
		send: shaped(
			{ type: 'string', description: 'METHOD and an address, mostly one that came in.' },
			(value, report) => {
				const target = typeof value === 'string' ? DELAYED.exec(value.trim())?.[2] : undefined;
				if (!target || !(hasExpression(target) || isHttp(target)))
					report([], 'a method and an address are wanted, such as POST {$request.body.callback}');
			}
		),
		after: duration('How long after the answer.'),
		headers: params,
		body
	},
	{ send: 'what is called: POST {$request.body.callback}' }
);

const fault = shaped(
	{ type: 'object', description: 'What goes wrong on purpose, how often, for which answers.' },
	(value, report) => checkFault(value, report)
);

const STORE = new RegExp(`^(?:(${VERBS.join('|')})\\s+)?([A-Za-z_]\\w*)$`);
const storeUse = shaped(
	{ type: 'string', description: `What is done with a store: ${VERBS.map((verb) => `${verb} NAME`).join(', ')}.` },
	(value, report) => {
		if (typeof value !== 'string' || !STORE.test(value.trim()))
			report([], `one of ${VERBS.join(', ')} and the name of a store are wanted, such as read notices`);
	}
);

const row = record(
	{
		from: text('A dataset.'),
		by: mapOf('Columns and the values that they must have.')
	},
	{ from: 'the dataset', by: 'columns and the values that they must have' }
);

const answer = record(
	{
		id: shaped(
			{ type: 'string', pattern: ID.source, description: 'The name by which the log speaks of it.' },
			(value, report) => {
				if (typeof value !== 'string' || !ID.test(value)) report([], 'an id is made of letters, digits, _ . and -');
			}
		),
		title: text('The name that people read.'),
		ask,
		resource: shaped(
			{ type: 'string', description: 'A path under which all that a store can do is answered.' },
			(value, report) => {
				const parts = typeof value === 'string' ? parsePath(value) : 'a path is wanted, such as /notices';
				if (typeof parts === 'string') report([], parts);
			}
		),
		must: shaped(
			{ description: 'What must hold of the request.', ...(checkSchema(requestChecks) as object) },
			(value, report) => {
				if (!Array.isArray(value)) return report([], 'a list of checks is wanted');
				value.forEach((item, index) => checkCheck(item, index, report, requestChecks));
			}
		),
		row,
		store: storeUse,
		set: mapOf('Names that $state has from then on, with their values.', NAME),
		answer: turns,
		missing: turn,
		forward: shaped(
			{
				anyOf: [{ type: 'boolean' }, { type: 'string' }],
				description: 'Passed on: to an address, or (true) to the stand-in’s own.'
			},
			(value, report) => {
				if (value !== true && !(typeof value === 'string' && (hasExpression(value) || isHttp(value))))
					report([], 'true or an address is wanted, such as https://host/v1');
			}
		),
		change: record({
			status,
			headers: params,
			json: shaped({ description: 'A JSON merge patch (RFC 7396).' }, () => {})
		}),
		calls: listOf(callOut, 'Calls that go out when it was answered.'),
		fault,
		off: flag('Left out.')
	},
	{ id: 'the log speaks of the answer by it' },
	(value, report) => {
		if ((value.ask === undefined) === (value.resource === undefined))
			report([], 'an answer has exactly one of ask and resource');
		const store = typeof value.store === 'string' ? STORE.exec(value.store.trim()) : undefined;
		if (value.resource !== undefined) {
			if (value.store === undefined) report([], 'store is missing: a resource is answered from one');
			else if (store?.[1]) report(['store'], `a resource does all that a store can: ${store[2]} alone is wanted`);
			for (const key of ['answer', 'missing', 'row', 'forward', 'change'])
				if (value[key] !== undefined) report([key], `"${key}" does not fit a resource`);
		} else if (store && !store[1])
			report(['store'], `say what is done with it: ${VERBS.map((verb) => `${verb} ${store[2]}`).join(', ')}`);
		if (value.forward !== undefined && value.answer !== undefined)
			report(['answer'], '"answer" does not fit one that is passed on: change says what is changed of it');
		if (value.change !== undefined && value.forward === undefined)
			report(['change'], '"change" fits what is passed on alone: forward is missing');
	}
);

const store = record(
	{
		key: text('The property by which they are told apart.'),
		from: shaped(
			{
				description: 'What is there at first: a dataset, or the things themselves.',
				anyOf: [{ type: 'string' }, { type: 'array', items: { type: 'object' } }]
			},
			(value, report) => {
				if (typeof value === 'string') return;
				if (!Array.isArray(value) || !value.every((one) => isObject(one)))
					report([], 'a dataset, or a list of objects is wanted');
			}
		),
		make: shaped({ description: 'What the key becomes of one that comes without; a UUID when left out.' }, () => {}),
		seenAfter: duration('How long after it was added one can be seen.'),
		page: whole('How many one page holds.', 1, 10_000)
	},
	{ key: 'the property by which they are told apart' }
);

const named = (schema: Parameters<typeof findProblems>[0], doc: string, pattern = NAME) =>
	shaped({ type: 'object', description: doc, additionalProperties: jsonSchemaOf(schema) }, (value, report) => {
		if (!isObject(value)) return report([], 'names with what they are is wanted');
		for (const [name, one] of Object.entries(value)) {
			if (!pattern.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
			for (const found of findProblems(schema, one)) report([name, ...found.path], found.message);
		}
	});

export const standIn: DocumentKind = {
	name: 'stand-in',
	folder: 'stand-ins',
	doc: 'A simulated service: what comes in, and what is answered.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			port: whole('The port; any that is free when left out.', 0, 65_535),
			base: shaped({ type: 'string', description: 'What stands before all paths.' }, (value, report) => {
				if (typeof value !== 'string' || !/^(\/[^/?#\s{}]+)*\/?$/.test(value))
					report([], 'a path is wanted, such as /v1');
			}),
			tls: shaped(
				{
					description: 'HTTPS, with a certificate that is made for it; client asks for one of the caller.',
					anyOf: [
						{ type: 'boolean' },
						{ type: 'object', properties: { client: { type: 'boolean' } }, additionalProperties: false }
					]
				},
				(value, report) => {
					if (typeof value === 'boolean') return;
					if (!isObject(value)) return report([], 'true, or { client: true } is wanted');
					for (const key of Object.keys(value))
						if (key !== 'client') report([key], `unknown key "${key}"${nearest(key, ['client'])}`);
				}
			),
			definition: text('A file in definitions/ that its answers, and what is asked, are held against.'),
			seed: whole('The seed of what is left to chance.'),
			stores: named(store, 'Things that are remembered, by name.'),
			faults: named(fault as never, 'What can go wrong on purpose, by name.', /^[A-Za-z_][\w-]*$/),
			faulty: shaped(
				{ type: 'array', items: { type: 'string' }, description: 'Faults that are on from the start.' },
				(value, report) => {
					if (!Array.isArray(value) || !value.every((one) => typeof one === 'string'))
						report([], 'a list of names of faults is wanted');
				}
			),
			answers: listOf(answer, 'What comes in and what is answered; the first that fits is.'),
			otherwise: shaped(
				{
					description: 'What becomes of a request that no answer fits: as the definition has it, or passed on.',
					anyOf: [
						{ const: 'definition' },
						{
							type: 'object',
							properties: { forward: { type: 'string' } },
							required: ['forward'],
							additionalProperties: false
						}
					]
				},
				(value, report) => {
					if (value === 'definition') return;
					const to = isObject(value) ? value.forward : undefined;
					if (typeof to !== 'string' || !(hasExpression(to) || isHttp(to)))
						report([], 'definition, or { forward: an address } is wanted');
				}
			)
		},
		{ heron: 'the version of the format, heron: 1' },
		(value, report) => {
			if (value.otherwise === 'definition' && value.definition === undefined)
				report(['otherwise'], 'definition: says which file that is');
		}
	),
	example: {
		heron: 1,
		title: 'Harbour master’s notices',
		port: 4720,
		stores: { notices: { key: 'number', from: [{ number: 'N-1', text: 'Berth B-07 is taken' }] } },
		faults: { slow: { delay: '500 ms to 2 s' } },
		answers: [
			{
				id: 'no-token',
				ask: 'POST /notices',
				must: [{ header: 'Authorization', present: false }],
				answer: { status: 401, body: { json: { title: 'A token is wanted' } } }
			},
			{ id: 'notices', resource: '/notices', store: 'notices' }
		]
	},
	check(value, report) {
		if (!isObject(value)) return;
		const answers = Array.isArray(value.answers) ? (value.answers as unknown[]) : [];
		const stores = isObject(value.stores) ? Object.keys(value.stores) : [];
		const faults = isObject(value.faults) ? Object.keys(value.faults) : [];
		const seen = new Map<string, number>();
		answers.forEach((one, index) => {
			if (!isObject(one)) return;
			const id = String(one.id);
			const first = seen.get(id);
			if (first !== undefined)
				report(['answers', index, 'id'], `the id "${id}" is used twice here: entry ${first + 1} has it already`);
			else seen.set(id, index);
			const used = typeof one.store === 'string' ? STORE.exec(one.store.trim())?.[2] : undefined;
			if (used && !stores.includes(used))
				report(['answers', index, 'store'], `there is no store "${used}"${nearest(used, stores)}`);
		});
		for (const [index, name] of (Array.isArray(value.faulty) ? value.faulty : []).entries())
			if (!faults.includes(String(name)))
				report(['faulty', index], `there is no fault "${String(name)}"${nearest(String(name), faults)}`);
	}
};

const numberOf = (value: unknown, otherwise: number): number => (typeof value === 'number' ? value : otherwise);

function parseBody(value: unknown, operation: string, definition: string): Body | undefined {
	if (!isObject(value)) return undefined;
	const kind = Object.keys(value).find((name) => name !== 'type');
	if (!kind) return undefined;
	const given = value[kind] as Json;
	const own = kind === 'soap' && isObject(given) ? { ...(given as JsonObject), operation, definition } : given;
	return { kind, value: own, ...(value.type === undefined ? {} : { type: String(value.type) }) };
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
		calls: (Array.isArray(given.calls) ? given.calls : []).filter(isObject).map((one) => {
			const [, method = 'POST', address = ''] = DELAYED.exec(String(one.send ?? '').trim()) ?? [];
			const held = parseBody(one.body, '', '');
			return {
				...{ method, address, after: parseDuration(one.after) ?? 0, headers: parseParams(one.headers) },
				...(held ? { body: held } : {})
			};
		}),
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
		definition,
		seed: numberOf(given.seed, 1),
		stores,
		faults: new Map(
			Object.entries(isObject(given.faults) ? given.faults : {}).map(([own, one]) => [own, parseFault(one)])
		),
		faulty: Array.isArray(given.faulty) ? given.faulty.map(String) : [],
		answers: (Array.isArray(given.answers) ? given.answers : []).flatMap((one: unknown, index) =>
			isObject(one) ? parseAnswer(one, index, definition, stores) : []
		),
		otherwise: {
			definition: otherwise === 'definition',
			forward: isObject(otherwise) ? String(otherwise.forward ?? '') : ''
		}
	};
}
