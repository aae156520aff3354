import { lookUp } from '../model/lookup.ts';
import type { Check } from '../checks/index.ts';
import type { SendSpec } from '../model/step.ts';
import type { Step } from '../steps/index.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { Param } from '../model/params.ts';
import { fragmentOf } from '../openapi/index.ts';
import { callPlaceOf, type Workspace } from '../project/index.ts';
import { allScenarios, inheritedCredential, type Chosen } from '../run/index.ts';
import { parseSoap, readEnvelope, type SoapModel, type SoapSpec } from '../soap/index.ts';
import { hasExpression } from '../values/index.ts';
import { given, OPEN_PART, type Call } from './call.ts';
import type { Coverage } from '../tallies/index.ts';
import { Collector } from './collector.ts';

/** A text that is known before it is sent. */
const known = (value: Json): string | undefined => {
	const text = typeof value === 'object' && value !== null ? writeJson(value) : String(value);
	return hasExpression(text) ? undefined : text.replaceAll('\\{$', '{$');
};

const MEDIA: Record<string, string> = {
	...{ json: 'application/json', xml: 'application/xml', text: 'text/plain' },
	...{ form: 'application/x-www-form-urlencoded', multipart: 'multipart/form-data', file: 'application/octet-stream' }
};

/** A code; of a range one that hardly any definition names by itself. */
const statusOf = (expected: unknown): number => {
	const range = /^([1-5])XX$/i.exec(String(expected))?.[1];
	return range ? Number(range) * 100 + 99 : Number(expected);
};

/** Statuses that a step is checked for. */
function statusesOf(checks: readonly Check[]): number[] {
	return checks
		.filter(({ kind, off }) => kind === 'status' && !off)
		.flatMap(({ relations }) =>
			relations.flatMap(({ name, expected }) =>
				name === 'status' || name === 'equals' || name === 'in' ? [expected].flat().map(statusOf) : []
			)
		)
		.filter((status) => Number.isInteger(status));
}

const named = (list: readonly Param[], name: string, same: (own: string) => boolean) =>
	given(list.filter((one) => !one.off && same(one.name)).map(({ value }) => known(value ?? '')));

/** The target of a step with the parameters of its path, as far as they are known. */
const targetOf = ({ target, path }: SendSpec): string =>
	target.replace(/(?<!\\)\{\$[^{}]*\}|\{([\w.-]+)\}/g, (_, name?: string) => {
		const value = path.find((one) => !one.off && one.name === name)?.value;
		const text = value === undefined || value === null ? undefined : known(value);
		return text === undefined || text === '' ? OPEN_PART : encodeURIComponent(text);
	});

/** The call that a step would make, as far as its file tells; undefined for one that sends nothing by address. */
function plannedCall(workspace: Workspace, chosen: Chosen, step: Step, environment: string): Call | undefined {
	const { send } = step;
	if (!send) return undefined;
	const place = callPlaceOf(workspace, chosen.collection, { ...step, send: { ...send, target: targetOf(send) } });
	if (!place) return undefined;
	const lower = (text: string) => text.toLowerCase();
	const [, inTarget = ''] = send.target.split('?', 2);
	const written = [...new URLSearchParams(inTarget)].map(([name, value]): Param => ({ name, value, off: false }));
	const query = [...send.query, ...written];
	const connection = workspace.connections.get(send.connection || chosen.connection);
	return {
		certificate:
			connection?.tls?.client !== undefined ||
			credentialKind(workspace, chosen, send, environment) === 'client-certificate',
		...{ step: `${chosen.key}/${step.id}`, method: place.method, path: place.path, base: place.base },
		...{ shown: send.target.split('?')[0]!, fragment: fragmentOf(send.target) },
		query: (name) =>
			named(query, name, (own) => own === name || own === `${name}[]` || own.startsWith(`${name}[`)) ??
			signedIn(workspace, chosen, send, environment, 'query', name),
		header: (name) =>
			named(send.headers, name, (own) => lower(own) === lower(name)) ??
			signedIn(workspace, chosen, send, environment, 'header', name),
		cookie: (name) =>
			named(send.cookies, name, (own) => own === name) ??
			signedIn(workspace, chosen, send, environment, 'cookie', name),
		media: send.body && lower((send.body.type ?? lookUp(MEDIA, send.body.kind) ?? '').split(';')[0]!.trim()),
		body: send.body?.kind === 'json' ? dataOf(send.body.value) : undefined,
		statuses: statusesOf(send.checks)
	};
}

/** The kind of the credential that a step signs in by; empty without one. */
export const credentialKind = (workspace: Workspace, chosen: Chosen, send: SendSpec, environment: string): string =>
	String(workspace.credentials.get(inheritedCredential(workspace, chosen, send, environment).name)?.kind ?? '');

/** JSON of a body as written; a text stands for itself. */
function dataOf(value: Json): Json | undefined {
	if (typeof value !== 'string') return value;
	try {
		return parseJson(value);
	} catch {
		return undefined;
	}
}

/** Whether the credential of a step shows itself in a place; its value is only known when it is sent. */
function signedIn(
	workspace: Workspace,
	chosen: Chosen,
	send: SendSpec,
	environment: string,
	place: 'query' | 'header' | 'cookie',
	name: string
): (string | undefined)[] | undefined {
	const found = workspace.credentials.get(inheritedCredential(workspace, chosen, send, environment).name);
	if (!found) return undefined;
	const value: JsonObject = isObject(found.value) ? (found.value as JsonObject) : {};
	if (found.kind === 'api-key')
		return String(value.in ?? 'header') === place && String(value.name ?? '').toLowerCase() === name.toLowerCase()
			? [undefined]
			: undefined;
	if (place !== 'header' || name.toLowerCase() !== 'authorization') return undefined;
	const scheme = { basic: 'Basic', digest: 'Digest', bearer: 'Bearer', jwt: 'Bearer', oauth2: 'Bearer' }[
		found.kind as string
	];
	return scheme ? [scheme] : undefined;
}

/** What a step asks of a SOAP operation; of an envelope that it holds as text what can be read of it. */
export function soapValues(model: SoapModel, { envelope, values }: SoapSpec): Json | undefined {
	if (envelope === undefined) return values;
	try {
		return readEnvelope(model, envelope).values;
	} catch {
		return undefined;
	}
}

/** What the steps of a project would touch, as far as its files tell. */
export function plannedCoverage(workspace: Workspace, environment: string): Coverage {
	const collector = new Collector(workspace);
	for (const chosen of allScenarios(workspace))
		for (const step of chosen.scenario.steps) {
			const { send } = step;
			if (!send || chosen.scenario.off || step.off) continue;
			const soap = send.body?.kind === 'soap' ? parseSoap(send.body.value) : undefined;
			const at = `${chosen.key}/${step.id}`;
			if (soap) {
				const faults = send.checks
					.filter(({ kind, off }) => kind === 'fault' && !off)
					.flatMap(({ relations }) => relations)
					.filter(({ name, expected }) => !(name === 'present' && expected === false));
				collector.addSoap({
					...{ step: at, ...soap },
					answer: faults.length > 0 ? undefined : 'answer',
					faultWords: faults.map(({ expected }) => String(expected)).join(' '),
					values: (model) => soapValues(model, soap)
				});
				continue;
			}
			const call = plannedCall(workspace, chosen, step, environment);
			const connection = workspace.connections.get(send.connection || chosen.connection);
			if (call) collector.add(call, connection?.definition);
		}
	return collector.result();
}
