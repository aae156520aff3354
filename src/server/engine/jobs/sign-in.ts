import { type AuthTools, createFlow, credentialKind, type Flow } from '#core/auth/index.ts';
import { HeronError } from '#core/errors.ts';
import { inEnvironment } from '#core/documents/connection.ts';
import type { Json, JsonObject } from '#core/model/json.ts';
import type { Redactor } from '#core/redact/index.ts';
import {
	blankRequest,
	emptyMemory,
	type Exchange,
	type PreparedRequest,
	scopeOf,
	type StartNames,
	type StepContext,
	transportOfLegs
} from '#core/run/index.ts';
import type { FlowAnswer } from '../protocol.ts';
import { contextOf, type Handler } from './context.ts';

const flows = new Map<string, { flow: Flow; environment: string; credential: string; redactor: Redactor }>();
const FLOWS_KEPT = 50;

export const flow: Handler<'flow'> = async (job, redactor) => {
	const { order } = job;
	if (order.action === 'start') {
		const context = await contextOf(job, order.environment, redactor);
		const credential = context.workspace.credentials.get(order.credential);
		if (credential?.kind !== 'oauth2')
			throw new HeronError('request.notFound', { what: `an OAuth 2.0 credential "${order.credential}"` });
		const made = await openFlow(credential.name, credential.value, context, order.redirect);
		const id = made.state;
		if (flows.size >= FLOWS_KEPT) flows.delete(flows.keys().next().value!);
		flows.set(id, { flow: made, environment: order.environment, credential: order.credential, redactor });
		return show(id);
	}
	if (order.action === 'callback') {
		const id = order.flow ?? new URLSearchParams(order.params).get('state') ?? '';
		const found = flows.get(id);
		if (!found)
			throw new HeronError('auth.callback', {
				detail: 'its state belongs to no sign-in that was begun here: begin again on the credential’s page'
			});
		await found.flow.callback(order.params);
		return show(id);
	}
	const found = flows.get(order.flow);
	if (!found) throw new HeronError('request.notFound', { what: 'this sign-in (begin again)' });
	if (order.action === 'act') await found.flow.act(order.leg);
	return show(order.flow);

	function show(id: string): FlowAnswer {
		const { flow: shown, credential, redactor: own } = flows.get(id)!;
		const { legs, token, ...rest } = shown.view();
		return {
			...own.record(rest),
			legs: legs.map((leg) => ({ ...own.record(leg), key: leg.key, state: leg.state })),
			// its names are the server's
			...(token ? { token: { ...token, reply: own.deep(token.reply) } } : {}),
			flow: id,
			credential
		};
	}
};

async function openFlow(
	name: string,
	value: JsonObject,
	context: StepContext & { start: StartNames },
	redirect: string
): Promise<Flow> {
	const { ports, evaluator, redactor, agent, environment } = context;
	const memory = emptyMemory(ports);
	const scope = scopeOf(context, memory);
	const given: JsonObject = {};
	for (const [key, item] of Object.entries(value)) given[key] = await evaluator.deep(item as Json, scope);
	for (const field of credentialKind('oauth2')!.fields) {
		if (field.secret && typeof given[field.name] === 'string')
			redactor.learn(`${name}.${field.name}`, String(given[field.name]));
	}
	// without a call it takes the way of a connection that uses it
	const user = [...context.workspace.connections.values()].find((one) => one.credential === name);
	const way = await transportOfLegs(given.connection, user && inEnvironment(user, environment), context, scope);
	const tools: AuthTools = {
		name,
		environment,
		evaluator,
		scope,
		ports,
		state: memory.session.auth,
		learn: (what, secret) => redactor.learn(what, secret),
		made: (what, secret) => redactor.made(what, secret),
		async leg(title: string, request: PreparedRequest): Promise<Exchange> {
			const transport = request.transport ?? way(request.url);
			const { exchanges } = await ports.send(
				{ ...request, ...(transport ? { transport } : {}) },
				memory.session,
				undefined
			);
			return { ...exchanges.at(-1)!, leg: title };
		},
		blank: (method, url) => blankRequest(method, url, agent)
	};
	const kept = ports.tokens.read(name, environment);
	for (const member of ['access_token', 'refresh_token', 'id_token']) {
		if (typeof kept?.reply[member] === 'string') redactor.learn(`${name}.${member}`, String(kept.reply[member]));
	}
	return createFlow(given, tools, redirect);
}
