import { bodyKinds, type BodyKind } from '../bodies/index.ts';
import { checkKinds, relationNames, relationOf, relationsProblem, type CheckKind } from '../checks/index.ts';
import { didYouMean } from '../messages.ts';
import { isObject, type Json } from '../model/json.ts';
import { checkParams, PARAMS_SCHEMA } from '../model/params.ts';
import { selectorProblem } from '../selectors/index.ts';
import { hasExpression } from '../values/index.ts';
import type { StepField, StepKind } from './kind.ts';

type Report = Parameters<StepField['check']>[1];

/** Which of several matches can be kept. */
export const TAKES = ['first', 'last', 'all', 'count'] as const;
/** Which of several matches is kept. */
export type Take = (typeof TAKES)[number];

/** `METHOD target` taken apart; undefined when it is not of that form. RFC 9110 section 9.1: a method is a token. */
export function parseSend(text: string): { method: string; target: string } | undefined {
	const match = /^\s*([!#$%&'*+.^_`|~0-9A-Za-z-]+)\s+(\S[\s\S]*?)\s*$/.exec(text);
	return match ? { method: match[1]!, target: match[2]! } : undefined;
}

const METHODS = ['GET', 'HEAD', 'POST', 'PUT', 'PATCH', 'DELETE', 'OPTIONS', 'TRACE'];

function checkSend(value: unknown, report: Report): void {
	const send = typeof value === 'string' ? parseSend(value) : undefined;
	if (!send) {
		const hint = typeof value === 'string' && /^[/h]/.test(value.trim()) ? `: "GET ${value.trim()}" perhaps` : '';
		return report([], `a method and a path are wanted, such as GET /bookings${hint}`);
	}
	if (METHODS.includes(send.method.toUpperCase()) && send.method !== send.method.toUpperCase()) {
		report([], `methods are case-sensitive: ${send.method.toUpperCase()}, not ${send.method}`);
	}
	if (!/^(\/|https?:\/\/|\{)/i.test(send.target))
		report([], `the path starts with a slash, or the address with http:// or https://: /${send.target} perhaps`);
}

/** @param kinds those that may stand there */
export function checkBody(value: unknown, report: Report, kinds: readonly BodyKind[] = bodyKinds): void {
	const words = kinds.map((k) => k.key);
	const bodyKind = (key: string) => kinds.find((kind) => kind.key === key);
	if (!isObject(value)) return report([], `a kind of body is wanted: ${words.join(', ')}`);
	const keys = Object.keys(value).filter((key) => key !== 'type' && key !== 'schema');
	for (const key of keys) {
		if (!bodyKind(key)) report([key], `unknown kind of body "${key}"${didYouMean(key, [...words, 'type'])}`);
	}
	if (keys.length !== 1) report([], `a body has exactly one of ${words.join(', ')}`);
	for (const key of keys) bodyKind(key)?.check(value[key], (at, message) => report([key, ...at], message));
	if (value.type !== undefined && typeof value.type !== 'string') report(['type'], 'a media type is wanted');
	if (value.schema === undefined) return;
	if (value.json === undefined) report(['schema'], 'a body of JSON alone has a schema');
	else if (typeof value.schema !== 'string' || !/^schemas\/.+\.json$/.test(value.schema))
		report(['schema'], 'a file of schemas/ is wanted: schemas/booking.json');
}

/** @param kinds those that may stand there */
export function checkCheck(value: unknown, at: number, report: Report, kinds: readonly CheckKind[] = checkKinds): void {
	const checkKind = (key: string) => kinds.find((kind) => kind.key === key);
	if (!isObject(value)) return report([at], 'a check is wanted, such as status: 200');
	const subjects = Object.keys(value).filter((key) => checkKind(key));
	const subjectKey = Object.keys(value).find((key) => checkKind(key));
	const settings = (subjectKey ? checkKind(subjectKey)!.settings : undefined) ?? {};
	checkOff(value.off, (path, message) => report([at, 'off', ...path], message));
	if (value.should !== undefined && typeof value.should !== 'boolean')
		report([at, 'should'], 'true or false is wanted');
	for (const [name, { problem }] of Object.entries(settings)) {
		const wrong = value[name] === undefined ? undefined : problem(value[name]);
		if (wrong) report([at, name], wrong);
	}
	const words = kinds.map((k) => k.key);
	const relations = Object.keys(value).filter((key) => relationOf(key));
	const unknown = Object.keys(value).filter(
		(key) => !checkKind(key) && !relationOf(key) && key !== 'off' && key !== 'should' && !Object.hasOwn(settings, key)
	);
	// a word that is wrong in the place of the one that is wanted is one problem
	const inPlaceOf = (wanted: string, known: readonly string[]): void => {
		for (const key of unknown) report([at, key], `"${key}" is ${wanted}${didYouMean(key, known)}`);
	};
	if (subjects.length === 0 && unknown.length > 0) return inPlaceOf('nothing that a check looks at', words);
	const kind = subjects.length === 1 ? checkKind(subjects[0]!)! : undefined;
	if (kind?.form === 'selector' && relations.length === 0 && unknown.length > 0)
		inPlaceOf('no relation', relationNames);
	else
		for (const key of unknown) {
			const known = [...words, ...relationNames, 'off', 'should', ...Object.keys(settings)];
			report([at, key], `unknown key "${key}"${didYouMean(key, known)}`);
		}
	if (!kind) return report([at], `a check looks at exactly one of ${words.join(', ')}`);
	const subject = kind.key;
	const problem = kind.problem(value[subject]);
	if (problem) report([at, subject], problem);
	if (kind.form !== 'selector') {
		for (const name of relations) report([at, name], `"${name}" does not fit a check of ${subject}`);
		return;
	}
	if (relations.length === 0 && unknown.length === 0) {
		report([at], `the check says where to look but not what must hold: ${relationNames.slice(0, 6).join(', ')} …`);
	}
	for (const name of relations) {
		const wrong = relationOf(name)!.problem?.(value[name], relationsProblem);
		if (wrong) report([at, name], wrong);
	}
}

const DAY = /^\d{4}-(0[1-9]|1[0-2])-(0[1-9]|[12]\d|3[01])$/;

/** `off: true`, or why and until when. */
function checkOff(value: unknown, report: Report): void {
	if (value === undefined || typeof value === 'boolean') return;
	if (!isObject(value)) return report([], 'true or false is wanted, or { because: a reason, until: 2027-05-31 }');
	for (const key of Object.keys(value))
		if (key !== 'because' && key !== 'until') report([key], `unknown key "${key}"; known are because, until`);
	if (typeof value.because !== 'string' || !value.because.trim()) report(['because'], 'a reason is wanted');
	if (value.until !== undefined && !DAY.test(String(value.until)))
		report(['until'], 'a day is wanted, such as 2027-05-31');
}

/** Fields of a value that is kept with more than a selector. */
const KEEP_FIELDS = ['from', 'take', 'default', 'file', 'secret'];
const FILE_NAME = /^\w[\w.-]*$/;

function checkKept(value: Record<string, unknown>, report: Report): void {
	// `{ header: Link }`, as a check has it
	const alone = Object.entries(value).find(([key]) => !KEEP_FIELDS.includes(key));
	const meant = alone && typeof value.from !== 'string' && `${alone[0]}:${String(alone[1])}`;
	if (meant && selectorProblem(meant) === undefined)
		return report([alone[0]], `unknown key "${alone[0]}"; did you mean the selector "${meant}"?`);
	for (const key of Object.keys(value))
		if (!KEEP_FIELDS.includes(key)) report([key], `unknown key "${key}"; known are ${KEEP_FIELDS.join(', ')}`);
	const problem = typeof value.from === 'string' ? selectorProblem(value.from) : 'a selector is wanted';
	if (problem) report(['from'], problem);
	if (value.take !== undefined && !TAKES.includes(value.take as Take))
		report(['take'], `one of ${TAKES.join(', ')} is wanted`);
	if (
		value.file !== undefined &&
		!(typeof value.file === 'string' && (hasExpression(value.file) || FILE_NAME.test(value.file)))
	)
		report(['file'], 'the name of a file is wanted, such as permit.pdf');
	if (value.secret !== undefined && typeof value.secret !== 'boolean') report(['secret'], 'true or false is wanted');
}

function checkKeep(value: unknown, report: Report): void {
	if (!isObject(value)) return report([], 'names with selectors are wanted, such as reference: $.reference');
	for (const [name, selector] of Object.entries(value)) {
		if (!/^[A-Za-z_]\w*$/.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
		if (isObject(selector)) {
			checkKept(selector, (at, message) => report([name, ...at], message));
			continue;
		}
		const problem = typeof selector === 'string' ? selectorProblem(selector) : 'a selector is wanted';
		if (problem) report([name], problem);
	}
}

const params = (name: string, doc: string): StepField => ({ name, doc, schema: PARAMS_SCHEMA, check: checkParams });

const relationSchemas = (): Record<string, Json> =>
	Object.fromEntries(relationNames.map((name) => [name, relationOf(name)!.schema]));

/** JSON Schema of a body: one kind, and a media type. */
export const bodySchema = (kinds: readonly BodyKind[] = bodyKinds): Json => ({
	type: 'object',
	properties: {
		...Object.fromEntries(kinds.map((kind) => [kind.key, kind.schema])),
		type: { type: 'string' },
		schema: { type: 'string', description: 'Of JSON: the JSON Schema by which its form is made.' }
	},
	additionalProperties: false,
	oneOf: kinds.map((kind) => ({ required: [kind.key] }))
});

/** JSON Schema of a list of checks. */
export const checkSchema = (kinds: readonly CheckKind[] = checkKinds): Json => ({
	type: 'array',
	items: {
		type: 'object',
		properties: {
			...Object.fromEntries(kinds.map((kind) => [kind.key, { description: kind.doc }])),
			...relationSchemas(),
			...Object.fromEntries(
				kinds.flatMap(({ settings = {} }) =>
					Object.entries(settings).map(([name, { doc, schema }]) => [name, { description: doc, ...(schema as object) }])
				)
			),
			should: { type: 'boolean', description: 'It is reported when it does not hold, and fails nothing.' },
			off: {
				description: 'Left out; with a reason, and a last day.',
				anyOf: [
					{ type: 'boolean' },
					{
						type: 'object',
						properties: { because: { type: 'string' }, until: { type: 'string', pattern: DAY.source } },
						required: ['because'],
						additionalProperties: false
					}
				]
			}
		},
		additionalProperties: false,
		oneOf: kinds.map((kind) => ({ required: [kind.key] }))
	}
});

/** Values that later steps use: of send steps, and of those that receive. */
export const keep: StepField = {
	name: 'keep',
	doc: 'Values kept for later steps: name and selector; with { from, take: first | last | all | count, default, file, secret } for more. What says who calls is hidden like a secret, and so is what is marked with secret: true; secret: false shows it.',
	schema: {
		type: 'object',
		additionalProperties: {
			anyOf: [
				{ type: 'string' },
				{
					type: 'object',
					properties: {
						from: { type: 'string' },
						take: { enum: [...TAKES] },
						default: {},
						file: { type: 'string' },
						secret: { type: 'boolean' }
					},
					required: ['from'],
					additionalProperties: false
				}
			]
		}
	},
	check: checkKeep
};

export const send: StepKind = {
	key: 'send',
	label: 'send',
	doc: 'Sends one request and judges the reply.',
	example: { send: 'GET /moorings', checks: [{ status: 200 }] },
	fields: [
		{
			name: 'send',
			doc: 'METHOD path, relative to the connection’s base address, or METHOD and an absolute address.',
			schema: { type: 'string' },
			check: checkSend
		},
		{
			name: 'connection',
			doc: 'Another connection than the collection’s.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value !== 'string') report([], 'the name of a connection is wanted');
			}
		},
		{
			name: 'credential',
			doc: 'Another credential than the one that is inherited; none for none.',
			schema: { type: 'string' },
			check(value, report) {
				if (typeof value !== 'string') report([], 'the name of a credential is wanted, or none');
			}
		},
		params('path', 'Values of the {names} in the path.'),
		params('query', 'Parameters behind the question mark.'),
		params('headers', 'Header fields.'),
		params('cookies', 'Cookies sent beside those that earlier replies set.'),
		{
			name: 'body',
			doc: 'What is sent: exactly one kind, and `type` for another Content-Type than the kind’s own.',
			schema: bodySchema(),
			check: (value, report) => checkBody(value, report)
		},
		{
			name: 'checks',
			doc: 'What must hold.',
			schema: checkSchema(),
			check(value, report) {
				if (!Array.isArray(value)) return report([], 'a list of checks is wanted');
				value.forEach((item, index) => checkCheck(item, index, report));
			}
		},
		keep
	]
};
