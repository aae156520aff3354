import {
	createTokenKeeper,
	credentialKind,
	type AuthPorts,
	type AuthTools,
	type Authorizer,
	type TokenKeeper
} from '#core/auth/index.ts';
import type { Exchange, PreparedRequest } from '#core/model/exchange.ts';
import { DEFAULT_REDIRECTS, DEFAULT_TIMEOUTS } from '#core/documents/connection.ts';
import type { JsonObject } from '#core/model/json.ts';
import { headerValue } from '#core/model/reply.ts';
import { blankRequest } from '#core/run/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { cryptoPort } from '../../src/server/engine/crypto.ts';

/** A request as a step would make it. */
export function request(call: string, headers: [string, string][] = [], body = ''): PreparedRequest {
	const [method = '', url = ''] = call.split(' ');
	const all: [string, string][] = [['Host', new URL(url).host], ...headers, ['Connection', 'keep-alive']];
	return {
		method,
		url,
		headers: all,
		origins: all.map((_, index) => (index === 0 || index === all.length - 1 ? 'added' : 'step')),
		body: new TextEncoder().encode(body),
		timeouts: DEFAULT_TIMEOUTS,
		redirects: DEFAULT_REDIRECTS
	};
}

export interface Bench {
	authorizer: Authorizer;
	learnt: Map<string, string>;
	legs: Exchange[];
}

export interface BenchOptions {
	now?: number;
	/** What all random bytes are. */
	random?: number;
	secrets?: Record<string, string>;
	files?: Record<string, string>;
	tokens?: TokenKeeper;
	state?: Map<string, unknown>;
	leg?: (title: string, request: PreparedRequest) => Promise<Exchange>;
}

/** What a credential works with, over a clock and randomness that the test chooses. */
export function toolsOf(options: BenchOptions = {}): Omit<Bench, 'authorizer'> & { tools: AuthTools } {
	const { now = 1_700_000_000_000, random = 7, secrets = {}, files = {} } = options;
	const ports: AuthPorts = {
		now: () => now,
		randomBytes: (n) => new Uint8Array(n).fill(random),
		readFile: (path) => (files[path] === undefined ? undefined : new TextEncoder().encode(files[path])),
		seed: 1,
		random: () => 0,
		next: () => 1,
		crypto: cryptoPort,
		tokens: options.tokens ?? createTokenKeeper()
	};
	const learnt = new Map<string, string>();
	const legs: Exchange[] = [];
	const tools: AuthTools = {
		name: 'tested',
		environment: 'local',
		evaluator: createEvaluator(),
		scope: { names: { env: {}, secret: secrets, row: {}, steps: {}, run: {} }, ports },
		ports,
		state: options.state ?? new Map(),
		learn: (name, secret) => void learnt.set(name, secret),
		made: (name, secret) => void learnt.set(name, secret),
		async leg(title, sent) {
			const exchange = await options.leg!(title, sent);
			legs.push(exchange);
			return exchange;
		},
		blank: (method, url) => blankRequest(method, url, 'test')
	};
	return { tools, learnt, legs };
}

/** A credential at work. */
export function open(value: JsonObject, options: BenchOptions = {}): Bench {
	const { tools, learnt, legs } = toolsOf(options);
	return { authorizer: credentialKind(value.kind)!.open(value, tools), learnt, legs };
}

/** A header of the request that a credential makes of another. */
export async function headerOf(
	value: JsonObject,
	sent: PreparedRequest,
	name: string,
	options: BenchOptions = {}
): Promise<string> {
	return headerValue((await open(value, options).authorizer.apply(sent)).headers, name) ?? '';
}
