import { HeronError, textOf } from '../errors.ts';
import { withBody, withHeader, withQuery, type PreparedRequest } from '../model/exchange.ts';
import { writeJson, isObject, type Json, type JsonObject } from '../model/json.ts';
import { parseParams } from '../model/params.ts';
import { headerValue, isJsonType, mediaType } from '../model/reply.ts';
import {
	Bytes,
	decodeText,
	escapeForm,
	templateProblem,
	utf8,
	type Evaluator,
	type FunctionPorts,
	type Scope
} from '../values/index.ts';
import type { CredentialKind } from './kind.ts';

/** One line of a recipe as it was computed. */
export interface TracedLine {
	name: string;
	/** As written. */
	source: string;
	value?: Json;
	error?: string;
	/** What the test vector says it should be. */
	expected?: string;
	agrees?: boolean;
}

/** A result on its way into the request. */
interface Placed {
	place: 'header' | 'query' | 'body';
	name: string;
	value: string;
}

/** Every line of a recipe with what it gave, and what was placed in the request. */
export interface Trace {
	lines: TracedLine[];
	placed: Placed[];
	/** What kept the results from being placed. */
	error?: string;
}

interface Lines {
	name: string;
	source: string;
}

const PLACES = ['header', 'query', 'body'] as const;

const linesOf = (given: JsonObject): Lines[] =>
	isObject(given.lines)
		? Object.entries(given.lines).map(([name, source]) => ({ name, source: String(source ?? '') }))
		: [];

const putsOf = (given: JsonObject): { place: Placed['place']; name: string; source: string }[] => {
	const put = isObject(given.put) ? given.put : {};
	return PLACES.flatMap((place) =>
		parseParams(put[place])
			.filter((param) => !param.off)
			.map(({ name, value }) => ({ place, name, source: String(value ?? '') }))
	);
};

/** `$request` as expressions see it. Header names are in small letters. */
export function requestNames(
	request: Pick<PreparedRequest, 'method' | 'url' | 'headers' | 'body'>
): Record<string, unknown> {
	const url = new URL(request.url);
	return {
		method: request.method,
		url: request.url,
		scheme: url.protocol.replace(':', ''),
		host: url.host,
		port: Number(url.port || (url.protocol === 'https:' ? 443 : 80)),
		path: url.pathname,
		query: url.search.slice(1),
		target: url.pathname + url.search,
		headers: Object.fromEntries(
			request.headers.map(([name]) => [name.toLowerCase(), headerValue(request.headers, name) as Json])
		),
		get body() {
			return decodeText(request.body).text;
		},
		get bytes() {
			return new Bytes(request.body);
		}
	};
}

/** Computes every line in order, with the clock standing still; an error in a line does not hide the lines that do not need it. */
export async function traceRecipe(
	given: JsonObject,
	request: PreparedRequest,
	tools: { evaluator: Evaluator; scope: Scope }
): Promise<Trace> {
	const { evaluator, scope } = tools;
	const at = scope.ports.now();
	// a function table is kept for each ports object: this one is of this signature alone
	const ports: FunctionPorts = Object.assign(Object.create(scope.ports) as FunctionPorts, { now: () => at });
	const lines: JsonObject = {};
	const broken = new Map(scope.broken ?? []);
	const names = { ...scope.names, request: requestNames(request), lines };
	const here: Scope = {
		...scope,
		names,
		ports,
		broken,
		hint: (root, name) => (root === 'lines' ? ': no line above bears that name' : (scope.hint?.(root, name) ?? ''))
	};
	const traced: TracedLine[] = [];
	for (const { name, source } of linesOf(given)) {
		try {
			const value = (await evaluator.value(source, here)) as Json;
			lines[name] = value;
			traced.push({ name, source, value });
		} catch (error) {
			broken.set(
				`lines.${name}`,
				new HeronError('value.failed', { expression: `$lines.${name}`, detail: textOf(error) })
			);
			traced.push({ name, source, error: textOf(error) });
		}
	}
	const trace: Trace = { lines: traced, placed: [] };
	try {
		for (const { place, name, source } of putsOf(given))
			trace.placed.push({ place, name, value: await evaluator.text(source, here) });
	} catch (error) {
		trace.error = textOf(error);
	}
	return trace;
}

/** The request with the results of a recipe in it. */
function place(request: PreparedRequest, placed: Placed[], credential: string): PreparedRequest {
	let next = request;
	for (const { place: where, name, value } of placed) {
		if (where === 'query') next = withQuery(next, name, value);
		else if (where === 'header') next = withHeader(next, name, oneLine(value, name, credential));
		else next = inBody(next, name, value, credential);
	}
	return next;
}

function oneLine(value: string, name: string, credential: string): string {
	// eslint-disable-next-line no-control-regex
	if (/[\x00-\x08\x0a-\x1f\x7f]/.test(value))
		throw new HeronError('auth.wrong', {
			name: credential,
			detail: `the value for header ${name} holds a line break or control character`
		});
	return value;
}

function inBody(request: PreparedRequest, name: string, value: string, credential: string): PreparedRequest {
	const { type } = mediaType(request.headers);
	const text = decodeText(request.body).text;
	if (type === 'application/x-www-form-urlencoded')
		return withBody(request, utf8(`${text}${text ? '&' : ''}${escapeForm(name)}=${escapeForm(value)}`));
	let body: unknown;
	try {
		body = isJsonType(type) ? JSON.parse(text || '{}') : undefined;
	} catch {
		body = undefined;
	}
	if (!isObject(body))
		throw new HeronError('auth.wrong', {
			name: credential,
			detail: `a result can only be put in a body that is a JSON object or a form, for ${name}`
		});
	return withBody(request, utf8(writeJson({ ...body, [name]: value })));
}

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
	return {
		...trace,
		agrees: first === undefined && trace.error === undefined,
		...(first === undefined ? {} : { first })
	};
}

const plainOf = (value: Json | undefined): string => (typeof value === 'string' ? value : writeJson(value ?? null));

function checkLines(value: unknown, report: (at: (string | number)[], message: string) => void): void {
	if (!isObject(value)) return report([], 'names with expressions are wanted, in the order in which they are computed');
	const above = new Set<string>();
	for (const [name, source] of Object.entries(value)) {
		if (!/^[A-Za-z_]\w*$/.test(name)) report([name], `"${name}" cannot be a name: letters, digits and _ can`);
		for (const [, used] of String(source).matchAll(/\$lines\.(\w+)/g)) {
			if (!above.has(used!)) report([name], `$lines.${used} is not a line above this one`);
		}
		const problem = typeof source === 'string' ? templateProblem(source) : undefined;
		if (problem) report([name], problem.message);
		above.add(name);
	}
}

export const recipe: CredentialKind = {
	key: 'signature-recipe',
	label: 'Signature recipe',
	standard: '',
	doc: 'Named lines, computed in order, of which the last go into headers, query or body; a test vector proves them.',
	fields: [
		{
			name: 'lines',
			label: 'Lines',
			doc: 'Name and expression; each sees $request, $secret, $env and the $lines above it.',
			form: 'data',
			required: true,
			lazy: true,
			check: checkLines,
			schema: { type: 'object', additionalProperties: { type: 'string' } }
		},
		{
			name: 'put',
			label: 'Where results go',
			doc: 'header, query and body, each with names and values.',
			form: 'data',
			required: true,
			lazy: true,
			schema: {
				type: 'object',
				properties: { header: { type: 'object' }, query: { type: 'object' }, body: { type: 'object' } },
				additionalProperties: false
			},
			check(value, report) {
				if (!isObject(value)) return report([], 'header, query or body with names and values are wanted');
				for (const key of Object.keys(value))
					if (!(PLACES as readonly string[]).includes(key))
						report([key], `unknown place "${key}"; known are header, query, body`);
			}
		},
		{
			name: 'vector',
			label: 'Test vector',
			doc: 'A fixed request, time, nonce and test secrets, and what lines must give for them.',
			form: 'data',
			lazy: true,
			schema: {
				type: 'object',
				properties: {
					request: { type: 'object' },
					time: { type: ['string', 'number'] },
					nonce: { type: 'string' },
					secrets: { type: 'object' },
					variables: { type: 'object' },
					expect: { type: 'object' }
				},
				additionalProperties: false
			},
			check(value, report) {
				const known = ['request', 'time', 'nonce', 'secrets', 'variables', 'expect'];
				if (!isObject(value)) return report([], `${known.join(', ')} are wanted`);
				for (const key of Object.keys(value))
					if (!known.includes(key)) report([key], `unknown key "${key}"; known are ${known.join(', ')}`);
			}
		}
	],
	example: {
		kind: 'signature-recipe',
		lines: {
			time: '{$epoch()}',
			joined: '{$lines.time}{$request.path}{$request.query}{$request.body}',
			token: '{$hmac("sha256", $secret.gateSeal, $lines.joined)}'
		},
		put: { header: { 'X-Gate-Time': '{$lines.time}', 'X-Gate-Token': '{$lines.token}' } }
	},
	open(given, { name, evaluator, scope }) {
		return {
			async apply(request) {
				const trace = await traceRecipe(given, request, { evaluator, scope });
				const wrong = trace.lines.find((line) => line.error !== undefined);
				if (trace.error !== undefined)
					throw new HeronError('auth.recipe', {
						name,
						line: wrong?.name ?? 'put',
						detail: wrong?.error ?? trace.error
					});
				return place(request, trace.placed, name);
			}
		};
	}
};

/** Recipes to start from. */
export const readyRecipes: { key: string; label: string; value: JsonObject }[] = [
	{
		key: 'joined',
		label: 'Keyed digest of time, path, query and body',
		value: {
			lines: {
				time: '{$epoch()}',
				joined: '{$lines.time}{$request.path}{$request.query}{$request.body}',
				token: '{$hmac("sha256", $secret.sharedSecret, $lines.joined, "hex")}'
			},
			put: { header: { 'X-Time': '{$lines.time}', 'X-Token': '{$lines.token}' } }
		}
	},
	{
		key: 'canonical',
		label: 'HMAC of a canonical request with derived keys',
		value: {
			lines: {
				time: '{$date("yyyyMMddTHHmmssZ")}',
				day: '{$substring($lines.time, 0, 8)}',
				bodyDigest: '{$hash("sha256", $request.bytes)}',
				headers: '{$headerLines($request.headers, ["host"])}',
				canonical:
					'{$join([$request.method, $request.path, $canonicalQuery($request.query), $lines.headers, "", $lines.bodyDigest], "\\n")}',
				toSign: '{$join(["HMAC-SHA256", $lines.time, $hash("sha256", $lines.canonical)], "\\n")}',
				token:
					'{$hmac("sha256", $hmac("sha256", $hmac("sha256", $secret.sharedSecret, $lines.day, "bytes"), "request", "bytes"), $lines.toSign)}'
			},
			put: { header: { 'X-Time': '{$lines.time}', Authorization: 'HMAC-SHA256 Signed=host, Signature={$lines.token}' } }
		}
	},
	{
		key: 'signed-headers',
		label: 'Body digest header with signed headers',
		value: {
			lines: {
				date: '{$date("http")}',
				digest: 'sha-256=:{$hash("sha256", $request.bytes, "base64")}:',
				toSign:
					'{$join(["(request-target): " & $lowercase($request.method) & " " & $request.target, "host: " & $request.host, "date: " & $lines.date, "content-digest: " & $lines.digest], "\\n")}',
				signature: '{$hmac("sha256", $secret.sharedSecret, $lines.toSign, "base64")}'
			},
			put: {
				header: {
					Date: '{$lines.date}',
					'Content-Digest': '{$lines.digest}',
					Signature:
						'keyId="key-1",algorithm="hmac-sha256",headers="(request-target) host date content-digest",signature="{$lines.signature}"'
				}
			}
		}
	}
];
