import { seeded } from '../../model/seed.ts';
import { HeronError } from '../../errors.ts';
import { type PreparedRequest } from '../../model/exchange.ts';
import { writeJson, isObject, type Json, type JsonObject } from '../../model/json.ts';
import { parseParams } from '../../model/params.ts';
import { utf8, type Evaluator, type FunctionPorts, type Scope } from '../../values/index.ts';

import { traceRecipe, type Trace } from '../recipe.ts';

/** The body of a test vector: a text, or one of the kinds of a step that are text. */
function vectorBody(given: unknown): { text: string; type?: string } {
	if (given === undefined || given === null) return { text: '' };
	if (typeof given !== 'object') return { text: String(given as string | number | boolean) };
	const [[kind, value] = [], ...more] = Object.entries(given as JsonObject);
	if (more.length === 0 && value !== undefined) {
		if (kind === 'json') return { text: writeJson(value), type: 'application/json' };
		if (kind === 'text' || kind === 'xml')
			return { text: plainOf(value), type: kind === 'xml' ? 'application/xml' : 'text/plain; charset=utf-8' };
		if (kind === 'form' && isObject(value)) {
			const pairs = parseParams(value).map(({ name, value: one }) => [name, String(one ?? '')]);
			return { text: new URLSearchParams(pairs).toString(), type: 'application/x-www-form-urlencoded' };
		}
	}
	throw new HeronError('auth.vector', { detail: 'its body is a text, or one of json, form, text and xml as in steps' });
}

/** The request of a test vector. */
export function vectorRequest(vector: JsonObject): PreparedRequest {
	const given = isObject(vector.request) ? vector.request : {};
	const [, method = 'GET', url = ''] = /^\s*(\S+)\s+(\S+)\s*$/.exec(String(given.send ?? '')) ?? [];
	if (!URL.canParse(url))
		throw new HeronError('auth.vector', {
			detail: 'its request wants a method and a whole address, such as GET https://host/path'
		});
	const headers = parseParams(given.headers).map(({ name, value }): [string, string] => [name, String(value ?? '')]);
	if (!headers.some(([name]) => name.toLowerCase() === 'host')) headers.unshift(['Host', new URL(url).host]);
	const body = vectorBody(given.body);
	if (body.type && !headers.some(([name]) => name.toLowerCase() === 'content-type'))
		headers.push(['Content-Type', body.type]);
	return {
		method,
		url,
		headers,
		origins: headers.map(() => 'step' as const),
		body: utf8(body.text),
		timeouts: { connect: 0, reply: 0, whole: 0 },
		redirects: { follow: 0, keepMethod: false, keepCredentials: false }
	};
}

/** Whether a recipe gives what its test vector says. */
export interface VectorVerdict extends Trace {
	agrees: boolean;
	/** The first line, or `header NAME`, that differs. */
	first?: string;
}

/** Computes a recipe for its test vector and compares all that the vector names: lines, and results by the name they are put under. */
export async function checkVector(given: JsonObject, evaluator: Evaluator): Promise<VectorVerdict> {
	const vector = isObject(given.vector) ? (given.vector as JsonObject) : {};
	const expect = isObject(vector.expect) ? vector.expect : {};
	const when =
		vector.time === undefined
			? 0
			: typeof vector.time === 'number'
				? vector.time * 1000
				: Date.parse(String(vector.time));
	if (Number.isNaN(when))
		throw new HeronError('auth.vector', {
			detail: `its time "${String(vector.time)}" is not a time such as 2026-03-01T12:00:00Z`
		});
	const secrets = isObject(vector.secrets)
		? Object.fromEntries(Object.entries(vector.secrets).map(([k, v]) => [k, String(v ?? '')]))
		: {};
	const variables = isObject(vector.variables) ? (vector.variables as JsonObject) : {};
	let counter = 0;
	const ports: FunctionPorts = {
		now: () => when,
		randomBytes: (n) => new Uint8Array(n),
		seed: 1,
		random: seeded(1),
		next: () => ++counter,
		...(vector.nonce === undefined ? {} : { nonce: String(vector.nonce) })
	};
	const scope: Scope = {
		names: { env: variables, secret: secrets, row: {}, steps: {}, run: {} },
		ports,
		hint: (root, name) =>
			root === 'secret'
				? `: the test vector gives no secret ${name}`
				: root === 'env'
					? `: the test vector gives no variable ${name}`
					: ''
	};
	const trace = await traceRecipe(given, vectorRequest(vector), { evaluator, scope });
	const first = firstDifference(trace, expect);
	return {
		...trace,
		agrees: first === undefined && trace.error === undefined,
		...(first === undefined ? {} : { first })
	};
}

/** Marks the lines that are as expected; the name of the first line or result that is not. @throws HeronError auth.vector */
function firstDifference(trace: Trace, expect: Record<string, unknown>): string | undefined {
	const left = new Map(Object.entries(expect).map(([name, value]) => [name, String(value)]));
	let first: string | undefined;
	for (const line of trace.lines) {
		const expected = left.get(line.name);
		if (expected === undefined) continue;
		left.delete(line.name);
		line.expected = expected;
		line.agrees = line.error === undefined && plainOf(line.value) === expected;
		if (!line.agrees) first ??= line.name;
	}
	for (const { name, value } of trace.placed) {
		const expected = left.get(name);
		if (expected === undefined) continue;
		left.delete(name);
		if (value !== expected) first ??= name;
	}
	const [unknown] = left.keys();
	if (unknown !== undefined)
		throw new HeronError('auth.vector', {
			detail: `it expects a value for "${unknown}", which is neither a line nor a result`
		});
	if (Object.keys(expect).length === 0)
		throw new HeronError('auth.vector', { detail: 'it expects nothing: name a line and the value it should have' });
	return first;
}

const plainOf = (value: Json | undefined): string => (typeof value === 'string' ? value : writeJson(value ?? null));
