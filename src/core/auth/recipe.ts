import { HeronError, textOf } from '../errors.ts';
import { withBody, withHeader, withQuery, type PreparedRequest } from '../model/exchange.ts';
import { writeJson, isObject, type Json, type JsonObject } from '../model/json.ts';
import { parseParams } from '../model/params.ts';
import { fieldText, headerValue, isJsonType, mediaType } from '../model/reply.ts';
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
			request.headers.map(([name]) => [name.toLowerCase(), fieldText(headerValue(request.headers, name)!)])
		),
		get body() {
			return decodeText(request.body).text;
		},
		get text() {
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
