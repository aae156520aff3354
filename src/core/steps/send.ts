import type { BodyName } from '../bodies/index.ts';
import { bodyKeyOf } from '../model/body-key.ts';
import { parseChecks } from '../checks/index.ts';
import { isObject, type Json } from '../model/json.ts';
import { checkParams, parseParams, PARAMS_SCHEMA } from '../model/params.ts';
import type { Body, SendSpec } from '../model/step.ts';
import { asText } from '../model/written.ts';
import { bodySchema, checkBody } from './fields/body.ts';
import { checks } from './fields/checks.ts';
import { keep, parseKeep } from './fields/keep.ts';
import type { StepField, StepKind } from './kind.ts';

type Report = Parameters<StepField['check']>[1];

/** `METHOD target` taken apart; undefined when it is not of that form. RFC 9110 section 9.1: a method is a token. */
export function parseSend(text: string): { method: string; target: string } | undefined {
	const match = /^\s*([!#$%&'*+.^_`|~0-9A-Za-z-]+)\s+(\S[\s\S]*?)\s*$/.exec(text);
	return match ? { method: match[1]!, target: match[2]! } : undefined;
}

/** So many redirects may be followed. */
const MOST_REDIRECTS = 50;

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

function parseBody(given: unknown): Body | undefined {
	if (!isObject(given)) return undefined;
	const kind = bodyKeyOf(given);
	if (!kind) return undefined;
	// one that nobody knows is told when it would be sent
	const body: Body = { kind: kind as BodyName, value: given[kind] as Json };
	if (given.type !== undefined) body.type = asText(given.type);
	if (given.schema !== undefined) body.schema = asText(given.schema);
	return body;
}

const on = <T extends { off: boolean }>(list: T[]): T[] => list.filter(({ off }) => !off);

const params = (name: string, doc: string): StepField => ({ name, doc, schema: PARAMS_SCHEMA, check: checkParams });

export const send: StepKind<'send', SendSpec> = {
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
			name: 'redirects',
			doc: 'How many redirects are followed, otherwise than the connection says; 0 for none.',
			schema: { type: 'integer', minimum: 0, maximum: MOST_REDIRECTS },
			check(value, report) {
				if (!Number.isInteger(value) || (value as number) < 0 || (value as number) > MOST_REDIRECTS)
					report([], `how many redirects are followed is wanted, 0 to ${MOST_REDIRECTS}; 0 for none`);
			}
		},
		checks('checks', 'What must hold.'),
		keep
	],
	fresh: () => ({ send: 'GET /' }),
	parse(given) {
		const written = asText(given.send);
		const { method, target } = parseSend(written) ?? { method: written || 'GET', target: '' };
		const spec: SendSpec = {
			method,
			target,
			connection: asText(given.connection),
			credential: asText(given.credential),
			path: parseParams(given.path),
			query: parseParams(given.query),
			headers: parseParams(given.headers),
			cookies: parseParams(given.cookies),
			checks: parseChecks(given.checks),
			keep: parseKeep(given.keep)
		};
		const body = parseBody(given.body);
		if (body) spec.body = body;
		if (typeof given.redirects === 'number') spec.redirects = given.redirects;
		return spec;
	},
	summary: ({ method, target }) => `${method} ${target}`,
	note: ({ method, target }) => `sends ${method} ${target}`,
	reads: ({ target, path, query, headers, cookies, body }) => [
		...[target, on(path), on(query), on(headers), on(cookies), body?.value, body?.type]
	],
	checks: (spec) => spec.checks,
	keeps: (spec) => spec.keep,
	names: ({ connection, credential }) => [
		{ what: 'connection', field: 'connection', name: connection },
		{ what: 'credential', field: 'credential', name: credential }
	],
	alone: true,
	until: 'check',
	run: (spec, act) => act.send(spec)
};
