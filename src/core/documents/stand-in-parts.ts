import { answerBodies } from '../bodies/index.ts';
import { requestChecks } from '../checks/index.ts';
import { checkFault } from '../stand-in/faults/index.ts';
import { parsePath } from '../model/route.ts';
import { bodySchema, checkBody, checkCheck, checkSchema } from '../steps/index.ts';
import { hasExpression } from '../values/index.ts';
import { ID } from './collection.ts';
import { isObject, type Json } from '../model/json.ts';
import { checkParams, PARAMS_SCHEMA } from '../model/params.ts';
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
	whole,
	type Report
} from '../model/shape.ts';
import { CALL, NAME, parseAsk, STORE, VERBS } from './stand-in.ts';
import { parseDuration } from '../model/units.ts';

function checkAsk(value: unknown, report: Report): void {
	const ask = typeof value === 'string' ? parseAsk(value) : undefined;
	if (!ask) return report([], 'a method and a path are wanted, such as GET /notices/{number}');
	if (ask.operation) return;
	const parts = parsePath(ask.path);
	if (typeof parts === 'string') report([], parts);
	if (ask.method && ask.method !== ask.method.toUpperCase())
		report([], `methods are case-sensitive: ${ask.method.toUpperCase()}, not ${ask.method}`);
}

/** What is asked: a method and a path, or an operation. */
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
/** A status, which may be computed. */
const status = computed({ type: 'integer', minimum: 200, maximum: 599 }, 'The status, 200 when left out.', (value) =>
	Number.isInteger(value) && (value as number) >= 200 && (value as number) <= 599
		? undefined
		: 'a status from 200 to 599 is wanted'
);
const params = shaped(PARAMS_SCHEMA, checkParams);
/** A body of an answer or a call, as its kind says. */
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

const CALL_OUT = {
	send: shaped({ type: 'string', description: 'METHOD and an address, mostly one that came in.' }, (value, report) => {
		const target = typeof value === 'string' ? CALL.exec(value.trim())?.[2] : undefined;
		if (!target || !(hasExpression(target) || isHttp(target)))
			report([], 'a method and an address are wanted, such as POST {$request.body.callback}');
	}),
	after: duration('How long after the answer.'),
	headers: params,
	body
};
const callOut = record(CALL_OUT, { send: 'what is called: POST {$request.body.callback}' });
/** The id of an answer or a call. */
const id = (doc: string) =>
	shaped({ type: 'string', pattern: ID.source, description: doc }, (value, report) => {
		if (typeof value !== 'string' || !ID.test(value)) report([], 'an id is made of letters, digits, _ . and -');
	});
const SOONEST_MS = 100;
/** A call that a stand-in makes by itself: by a button, or over and over. */
export const ownCall = record(
	{
		...CALL_OUT,
		id: id('The name by which it is told to go out.'),
		title: text('The name that people read.'),
		webhook: text('The webhook of the definition that it is.'),
		after: duration('How long after the start, or after it was told to.'),
		every: shaped(
			{ type: 'string', description: 'How often it goes out; only when it is told to when left out.' },
			(value, report) => {
				const ms = parseDuration(value);
				if (ms === undefined) report([], 'a duration is wanted, such as 30 s');
				else if (ms < SOONEST_MS) report([], `${SOONEST_MS} ms is the soonest`);
			}
		),
		off: flag('Left out.')
	},
	{ id: 'it is told to go out by it', send: 'what is called: POST {$env.hook}' }
);

/** A fault, as its kind says. */
export const fault = shaped(
	{ type: 'object', description: 'What goes wrong on purpose, how often, for which answers.' },
	(value, report) => checkFault(value, report)
);

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

/** An answer, or a resource that is answered from a store. */
export const answer = record(
	{
		id: id('The name by which the log speaks of it.'),
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

/** A store: what it holds at first, and how one is told from another. */
export const store = record(
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

/** A map of names with what each is. */
export const named = (schema: Parameters<typeof findProblems>[0], doc: string, pattern = NAME) =>
	shaped({ type: 'object', description: doc, additionalProperties: jsonSchemaOf(schema) }, (value, report) => {
		if (!isObject(value)) return report([], 'names with what they are is wanted');
		for (const [name, one] of Object.entries(value)) {
			if (!pattern.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
			for (const found of findProblems(schema, one)) report([name, ...found.path], found.message);
		}
	});
