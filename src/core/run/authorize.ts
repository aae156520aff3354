import { credentialKind, type Authorizer, type AuthTools } from '../auth/index.ts';
import { HeronError } from '../errors.ts';
import type { SendSpec } from '../model/step.ts';
import {
	DEFAULT_REDIRECTS,
	DEFAULT_TIMEOUTS,
	inEnvironment,
	settleConnection,
	type Connection
} from '../documents/connection.ts';
import type { Exchange, PreparedRequest } from '../model/exchange.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { transportOf } from '../model/transport.ts';
import type { Workspace } from '../project/index.ts';
import type { Chosen } from './plan.ts';
import type { StepContext } from './context.ts';
import type { Session } from './ports.ts';
import type { Scope } from '../values/index.ts';

/** Which credential a step uses, and who says so. */
export interface Inherited {
	/** Empty for none. */
	name: string;
	from: 'step' | 'scenario' | 'collection' | 'connection' | '';
}

/**
 * The credential of a step: its own, else its scenario's, its collection's, its connection's.
 * A step that goes through another connection than its scenario takes that connection's, so that nothing is shown to strangers.
 */
export function inheritedCredential(
	workspace: Workspace,
	chosen: Pick<Chosen, 'collection' | 'connection' | 'scenario'>,
	spec: Pick<SendSpec, 'connection' | 'credential' | 'target'>,
	environment: string,
	/** The connection that the step goes through, where what is written is an expression. */
	through = spec.connection || chosen.connection
): Inherited {
	const said = (name: string, from: Inherited['from']): Inherited => ({ name: name === 'none' ? '' : name, from });
	if (spec.credential) return said(spec.credential, 'step');
	const elsewhere = spec.connection !== '' && spec.connection !== chosen.connection;
	if (!elsewhere) {
		if (chosen.scenario.credential) return said(chosen.scenario.credential, 'scenario');
		const collection = workspace.collections.get(chosen.collection);
		const own = collection?.credential ?? '';
		// a scenario that goes elsewhere than its collection is a stranger too
		if (own && chosen.connection === collection?.connection) return said(own, 'collection');
	}
	const connection = workspace.connections.get(through);
	const name = connection ? inEnvironment(connection, environment).credential : '';
	// an absolute address may be anybody's: the connection's credential is not for it
	if (!name || /^https?:\/\//i.test(spec.target)) return { name: '', from: '' };
	return said(name, 'connection');
}

/** Who proves who somebody is for the steps that follow, and what was sent for it. */
export interface SignIn {
	authorizer: Authorizer;
	/** Exchanges of the sign-in itself, in order. */
	legs: Exchange[];
}

/** The way that the legs of a sign-in take: of the connection that the credential names, else of the one that is given. */
export async function transportOfLegs(
	named: unknown,
	otherwise: Connection | undefined,
	{ workspace, ports, evaluator, environment }: Pick<StepContext, 'workspace' | 'ports' | 'evaluator' | 'environment'>,
	scope: Scope
): Promise<(url: string) => PreparedRequest['transport']> {
	const own = typeof named === 'string' && named ? workspace.connections.get(named) : undefined;
	if (typeof named === 'string' && named && !own)
		throw new HeronError('model.reference', { kind: 'connection', name: named, nearest: '' });
	const found = own ? inEnvironment(own, environment) : otherwise;
	const connection = found && (await settleConnection(found, (value: Json) => evaluator.deep(value, scope)));
	return (url) => connection && transportOf(connection, new URL(url).hostname, (path) => ports.readFile?.(path));
}

/** A request without anything, sent the way of another: for the legs of a sign-in. */
export function blankRequest(method: string, url: string, agent: string, like?: PreparedRequest): PreparedRequest {
	return {
		method,
		url,
		headers: [
			['Host', new URL(url).host],
			['User-Agent', agent],
			['Accept', 'application/json'],
			['Accept-Encoding', 'gzip, deflate, br, zstd'],
			['Connection', 'keep-alive']
		],
		origins: Array.from({ length: 5 }, () => 'added' as const),
		body: new Uint8Array(),
		timeouts: like?.timeouts ?? DEFAULT_TIMEOUTS,
		redirects: { ...DEFAULT_REDIRECTS, follow: 0 },
		...(like?.transport ? { transport: like.transport } : {})
	};
}

/**
 * Makes a credential ready for a step that goes through a connection.
 * @throws HeronError auth.*, value.*
 */
export async function signIn(
	name: string,
	context: Pick<StepContext, 'workspace' | 'ports' | 'evaluator' | 'redactor' | 'agent' | 'signal' | 'environment'>,
	scope: Scope,
	session: Session,
	connection: Connection | undefined,
	above: string[] = []
): Promise<SignIn | undefined> {
	if (above.includes(name))
		throw new HeronError('auth.wrong', { name, detail: `it is used beside itself: ${[...above, name].join(' → ')}` });
	const credential = context.workspace.credentials.get(name);
	if (!credential) throw new HeronError('model.reference', { kind: 'credential', name, nearest: '' });
	const kind = credentialKind(credential.kind);
	if (!kind || kind.key === 'none') return undefined;
	const { ports, evaluator, redactor, agent, signal } = context;
	const legs: Exchange[] = [];
	const given: JsonObject = {};
	for (const [key, value] of Object.entries(credential.value)) {
		const field = kind.fields.find((one) => one.name === key);
		given[key] = field?.lazy ? value : await evaluator.deep(value as Json, scope);
		if (field?.secret && typeof given[key] === 'string') redactor.learn(`${name}.${key}`, given[key]);
	}
	const way = await transportOfLegs(given.connection, connection, context, scope);
	const tools: AuthTools = {
		name,
		environment: context.environment,
		evaluator,
		scope,
		ports,
		state: session.auth,
		learn: (what, value) => redactor.learn(what, value),
		made: (what, value) => redactor.made(what, value),
		async leg(title, request) {
			const transport = request.transport ?? way(request.url);
			const { exchanges } = await ports.send({ ...request, ...(transport ? { transport } : {}) }, session, signal);
			for (const exchange of exchanges) exchange.leg = title;
			legs.push(...exchanges);
			return exchanges.at(-1)!;
		},
		blank: (method, url) => blankRequest(method, url, agent)
	};
	const authorizer = kind.open(given, tools);
	const other = typeof given.beside === 'string' && given.beside ? given.beside : undefined;
	const beside = other && (await signIn(other, context, scope, session, connection, [...above, name]));
	return beside ? { authorizer: both(authorizer, beside.authorizer), legs: beside.legs } : { authorizer, legs };
}

/** What proves who we are in the message, and after it what does so on the way: the latter may sign what the former wrote. */
const both = (message: Authorizer, transport: Authorizer): Authorizer => ({
	apply: async (request) => transport.apply(await message.apply(request)),
	...(transport.retry ? { retry: (request, reply, attempt) => transport.retry!(request, reply, attempt) } : {}),
	...(transport.seen ? { seen: (request, reply) => transport.seen!(request, reply) } : {}),
	...(transport.token ? { token: () => transport.token!() } : {})
});
