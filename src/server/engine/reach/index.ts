import { credentialKind } from '#core/auth/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { inEnvironment, type Connection } from '#core/documents/connection.ts';
import type { Reply } from '#core/model/reply.ts';
import { relays, type Transport } from '#core/model/transport.ts';
import {
	found,
	judgeAnswer,
	notNeeded,
	passed,
	schemeFixes,
	type ReachReport,
	type ReachTarget,
	type Stage
} from '#core/reach/index.ts';
import { blankRequest, prepareCall, signIn } from '#core/run/index.ts';
import { aim, bare, credentialName, type ReachOrder } from './aim.ts';
import { checkHttp } from './call.ts';
import { Log, wordsOf, type Check, type ReachContext } from './check.ts';
import { checkOpening } from './connect.ts';
import { checkSignIn } from './sign-in.ts';

export type { ReachOrder } from './aim.ts';

/**
 * Checks stage by stage whether a connection or an address can be reached; `onStage` hears of each stage as it is known.
 * @throws HeronError reach.target when there is no such target
 */
export async function reach(
	order: ReachOrder,
	context: ReachContext,
	onStage: (stage: Stage) => void = () => {}
): Promise<ReachReport> {
	const log = new Log(order, context, onStage);
	const check = await begin(order, context, log);
	if (check && (await checkOpening(check)) && !context.signal?.aborted) {
		const open = await checkHttp(check);
		const answer = open && (await checkSignIn(check, open));
		if (answer) {
			const words = `${answer.status} ${answer.reason}`.trim();
			log.add(judgeAnswer(answer, open.ms) ?? passed('answer', open.ms, words, answerFacts(answer)));
		}
	}
	return log.report();
}

/** Where the check goes and what would be sent; undefined where that cannot be said. */
async function begin(order: ReachOrder, context: ReachContext, log: Log): Promise<Check | undefined> {
	const { workspace } = context;
	let aimed: Check['aimed'];
	let call: Awaited<ReturnType<typeof prepareCall>>;
	try {
		aimed = await aim(order, context);
		call = await prepareCall(aimed.chosen, { ...aimed.step, credential: 'none' }, aimed.memory, context, aimed.scope);
	} catch (error) {
		if (error instanceof HeronError && error.code === 'reach.target') throw error;
		const fixes = schemeFixes(written(context, workspace.connections.get(order.target)));
		log.add(found('settings.wrong', { detail: textOf(error) }, { fixes }));
		return undefined;
	}
	const { named, settled } = aimed;
	const request = order.path ? call.request : { ...call.request, url: bare(call.request.url, settled) };
	log.url = request.url;
	const credential = order.credential ?? credentialName(context, named);
	const target = targetOf(order, context, request.url, named, credential);
	const { proxy } = request.transport ?? {};
	if (proxy) target.proxy = `${proxy.host}:${proxy.port}`;
	const transport = await transportWith(credential, aimed, request.transport, request.url, context);
	if (transport instanceof HeronError) {
		log.add(notNeeded('name', target.host));
		log.add(found('tls.identity', { detail: wordsOf(transport) }));
		return undefined;
	}
	target.shows = transport?.tls.client !== undefined;
	const relay = relays(proxy, target.secure) ? proxy : undefined;
	return { order, context, log, aimed, target, request, transport, relay, credential };
}

/** Where what could be fixed is written. */
const written = (
	{ environment, workspace }: ReachContext,
	one: Connection | undefined
): Pick<ReachTarget, 'connection' | 'variables'> => ({
	...(one
		? {
				connection: {
					name: one.name,
					raw: inEnvironment(one, environment).raw,
					environment,
					variant: one.variants.has(environment)
				}
			}
		: {}),
	variables: workspace.environments.get(environment)?.variables ?? {}
});

function targetOf(
	order: ReachOrder,
	context: ReachContext,
	url: string,
	named: Connection | undefined,
	name: string
): ReachTarget {
	const { credentials } = context.workspace;
	const at = new URL(url);
	const secure = at.protocol === 'https:';
	const { kind = '' } = credentials.get(name) ?? {};
	return {
		url,
		host: at.hostname.replace(/^\[|\]$/g, ''),
		port: Number(at.port || (secure ? 443 : 80)),
		secure,
		path: order.path ?? '',
		proxy: '',
		...written(context, named),
		credential: { name, kind, label: credentialKind(kind)?.label ?? '' },
		others: [...credentials.values()].filter((one) => one.name !== name)
	};
}

/** A credential that changes the transport (a client certificate) is needed before TLS; why it cannot be used. */
async function transportWith(
	name: string,
	{ scope, memory, settled }: Check['aimed'],
	usual: Transport | undefined,
	url: string,
	context: ReachContext
): Promise<Transport | undefined | HeronError> {
	if (context.workspace.credentials.get(name)?.kind !== 'client-certificate') return usual;
	try {
		const made = await signIn(name, context, scope, memory.session, settled);
		const blank = blankRequest('GET', url, context.agent);
		return (await made!.authorizer.apply({ ...blank, ...(usual ? { transport: usual } : {}) })).transport;
	} catch (error) {
		return error instanceof HeronError ? error : new HeronError('send.failed', { detail: String(error) });
	}
}

const answerFacts = (reply: Reply): Stage['facts'] => {
	const type = reply.headers.find(([name]) => name.toLowerCase() === 'content-type')?.[1];
	return [...(type ? [['type', type] as [string, string]] : []), ['size', `${reply.body.length} B`]];
};
