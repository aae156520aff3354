import { checkCheck, stepKinds } from '../steps/index.ts';
import { templateProblem } from '../values/index.ts';
import { ID } from './collection.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { DocumentKind } from './kind.ts';
import { checkEach, EACH_SCHEMA, rows } from '../model/rows.ts';
import {
	duration,
	flag,
	listOf,
	names,
	record,
	shaped,
	text,
	unknownKey,
	version,
	type OtherWords,
	type Report
} from '../model/shape.ts';
import { parseDuration } from '../model/units.ts';

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

const RETRY_FIELDS = ['times', 'every', 'growth', 'on'];
/** What else people call what says how often something is tried. */
const TRY_WORDS: OtherWords = {
	times: ['count', 'max', 'attempts', 'tries', 'limit'],
	every: ['interval', 'delay', 'wait', 'pause'],
	growth: ['backoff', 'factor'],
	within: ['timeout', 'for', 'deadline']
};

function checkRetry(value: unknown, report: Report): void {
	const times = isObject(value) ? value.times : value;
	if (isObject(value) && times === undefined) report([], 'times is missing: how often it is tried again');
	else if (!Number.isInteger(times) || (times as number) < 0 || (times as number) > 100) {
		report(isObject(value) ? ['times'] : [], 'a whole number from 0 to 100 is wanted');
	}
	if (!isObject(value)) return;
	for (const key of Object.keys(value))
		if (!RETRY_FIELDS.includes(key)) report([key], unknownKey(key, RETRY_FIELDS, TRY_WORDS));
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

/** Fields that steps of some kind have, and others have not. */
const KIND_FIELDS: ReadonlySet<string> = new Set(stepKinds.flatMap(({ fields }) => fields.map(({ name }) => name)));

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
	const meant = new Set(Object.values(TRY_WORDS).flat());
	for (const key of Object.keys(value)) if (meant.has(key)) report([key], unknownKey(key, UNTIL_FIELDS, TRY_WORDS));
	const check = Object.fromEntries(
		Object.entries(value).filter(([key]) => !UNTIL_FIELDS.includes(key) && !meant.has(key))
	);
	if (Object.keys(check).length > 0) checkCheck(check, 0, ([, ...at], message) => report(at, message));
}

const valueMap = (doc: string) =>
	shaped({ type: 'object', description: doc }, (value, report) => {
		if (!isObject(value)) return report([], 'names with values are wanted');
		for (const name of Object.keys(value))
			if (!/^[A-Za-z_]\w*$/.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
	});

/** What else people call the keys of a step. */
const OTHER_WORDS = {
	title: ['name', 'description'],
	send: ['method', 'url', 'request'],
	query: ['params', 'parameters'],
	body: ['data', 'payload', 'json', 'xml', 'form', 'multipart'],
	credential: ['auth', 'authorization'],
	checks: ['assert', 'assertions', 'expect', 'tests', 'verify'],
	keep: ['extract', 'save', 'store'],
	set: ['variables', 'vars'],
	wait: ['delay', 'sleep', 'pause'],
	when: ['if', 'condition'],
	each: ['loop', 'repeat', 'foreach'],
	cleanup: ['finally', 'always', 'teardown'],
	off: ['skip', 'skipped', 'disabled']
};

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
		if (value.until !== undefined && !kind!.until) report(['until'], `"until" does not fit a step of ${kind!.key}`);
		if (kind!.until === 'that' && isObject(value.until)) {
			const odd = Object.keys(value.until).find((key) => key !== 'that' && !UNTIL_FIELDS.includes(key));
			if (odd) report(['until', odd], `a ${kind!.key} is repeated until \`that\` is true, or until all passes`);
		}
		const own = kinds[0]!;
		for (const key of Object.keys(value))
			if (KIND_FIELDS.has(key) && !own.fields.some(({ name }) => name === key))
				report([key], `"${key}" does not fit a step of ${own.key}`);
	},
	OTHER_WORDS
);

const SCENARIO_WORDS: OtherWords = {
	title: ['name', 'description'],
	rows: ['data', 'dataset', 'each', 'examples'],
	steps: ['requests', 'calls'],
	credential: ['auth', 'authorization'],
	off: ['skip', 'skipped', 'disabled']
};

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
	{ id: 'suites and the command speak of the scenario by it' },
	undefined,
	SCENARIO_WORDS
);

export const collection: DocumentKind = {
	name: 'collection',
	folder: 'collections',
	doc: 'A titled document of scenarios about one subject.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			folder: text('The folder in which it is listed, such as Locks/At night.'),
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
