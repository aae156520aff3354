import { credentialKind } from '#core/auth/index.ts';
import { HeronError } from '#core/errors.ts';
import { inEnvironment, type Connection } from '#core/model/connection.ts';
import type { Exchange } from '#core/model/exchange.ts';
import type { Reply } from '#core/model/reply.ts';
import { plainTransport, relays, type Transport } from '#core/model/transport.ts';
import {
	found,
	judgeAnswer,
	judgeAuthentication,
	judgeHeaderNames,
	judgeHttpError,
	judgeOpening,
	judgeRedirects,
	judgeRelayed,
	judgeSecurity,
	judgeSkew,
	notNeeded,
	notReached,
	outcomeOf,
	passed,
	schemeFixes,
	schemesOf,
	STAGES,
	wantsOther,
	type ReachReport,
	type ReachTarget,
	type Stage
} from '#core/reach/index.ts';
import { blankRequest, prepareCall, signIn, type StepContext, type StartNames } from '#core/run/index.ts';
import { freshMarks, openSocket, proxyError, versionsOf } from '../send/index.ts';
import { aim, bare, credentialName, type ReachOrder } from './aim.ts';
import { accepts, failedStage, openedStages } from './opening.ts';
import { acceptedVersions, answersPlain, speaksTls } from './probe.ts';
import { pastProxy } from './past-proxy.ts';

export type { ReachOrder } from './aim.ts';

/**
 * Checks stage by stage whether a connection or an address can be reached; `onStage` hears of each stage as it is known.
 * @throws HeronError reach.target when there is no such target
 */
export async function reach(
	order: ReachOrder,
	context: StepContext & { start: StartNames },
	onStage: (stage: Stage) => void = () => {}
): Promise<ReachReport> {
	const { ports, redactor, signal, agent, environment, workspace } = context;
	const startedAt = Date.now();
	const begun = performance.now();
	const stages: Stage[] = [];
	const exchanges: Exchange[] = [];
	let url = order.target;
	/** Stages that the next one may still overturn: a proxy that passes calls on is known by its answer only. */
	const pending: Stage[] = [];
	const placeOf = ({ key }: Stage) => STAGES.indexOf(key);
	const add = (stage: Stage) => {
		for (const one of pending.splice(0)) if (placeOf(one) < placeOf(stage)) tell(one);
		tell(stage);
	};
	const tell = (stage: Stage) => {
		// a fix may hold what somebody wrote: only the stage's own words stay
		const { key, state, code, fixes } = stage;
		// what a fix writes into files is never masked: a file would hold the mask
		const shown = fixes.map((fix) => ({
			...redactor.record(fix),
			edits: fix.edits,
			...(fix.files ? { files: fix.files } : {})
		}));
		const hidden: Stage = { ...redactor.record(stage), key, state, ...(code ? { code } : {}), fixes: shown };
		stages.push(hidden);
		onStage(hidden);
	};
	const report = (): ReachReport => {
		for (const one of pending.splice(0)) tell(one);
		for (const key of STAGES) if (!stages.some((stage) => stage.key === key)) add(notReached(key));
		const done: ReachReport = {
			target: order.target,
			url,
			environment,
			startedAt,
			ms: performance.now() - begun,
			stages,
			exchanges,
			outcome: outcomeOf(stages)
		};
		return { ...redactor.record(done), stages, outcome: done.outcome };
	};

	/** Where what could be fixed is written. */
	const written = (one: Connection | undefined): Pick<ReachTarget, 'connection' | 'variables'> => ({
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
	let aimed: Awaited<ReturnType<typeof aim>>;
	let call: Awaited<ReturnType<typeof prepareCall>>;
	try {
		aimed = await aim(order, context);
		call = await prepareCall(aimed.chosen, { ...aimed.step, credential: 'none' }, aimed.memory, context, aimed.scope);
	} catch (error) {
		if (error instanceof HeronError && error.code === 'reach.target') throw error;
		const fixes = schemeFixes(written(workspace.connections.get(order.target)));
		add(found('settings.wrong', { detail: error instanceof HeronError ? error.message : String(error) }, { fixes }));
		return report();
	}
	const { memory, scope, named, settled, chosen } = aimed;
	const request = order.path ? call.request : { ...call.request, url: bare(call.request.url, settled) };
	url = request.url;
	const at = new URL(url);
	const secure = at.protocol === 'https:';
	const host = at.hostname.replace(/^\[|\]$/g, '');
	const port = Number(at.port || (secure ? 443 : 80));
	const { transport } = request;
	const name = order.credential ?? credentialName(context, named);
	const credential = workspace.credentials.get(name);
	const target: ReachTarget = {
		url,
		host,
		port,
		secure,
		path: order.path ?? '',
		proxy: transport?.proxy ? `${transport.proxy.host}:${transport.proxy.port}` : '',
		...written(named),
		credential: { name, kind: credential?.kind ?? '', label: credentialKind(credential?.kind)?.label ?? '' },
		others: [...workspace.credentials.values()].filter((one) => one.name !== name)
	};
	const way = await signInWay(name, transport);
	if (way.stage) {
		add(notNeeded('name', host));
		add(way.stage);
		return report();
	}

	target.shows = way.transport?.tls.client !== undefined;

	const relay = relays(transport?.proxy, secure) ? transport?.proxy : undefined;
	// name, connection, proxy, TLS: by the opener that calls use
	const marks = freshMarks();
	const place = { host, port, transport };
	const now = () => Date.now();
	const route = { host, secure, proxy: target.proxy, transport };
	try {
		const socket = await openSocket({
			host,
			port,
			secure,
			connectLimit: request.timeouts.connect,
			transport: way.transport,
			alpn: transport?.http === '2' ? ['h2'] : transport?.http === 'auto' ? ['h2', 'http/1.1'] : ['http/1.1'],
			withPem: true,
			marks
		});
		socket.destroy();
		const taken = secure && !transport?.proxy ? await accepts(place, order.suites) : [];
		for (const stage of openedStages(marks, route)) {
			const full = stage.key === 'tls' ? { ...stage, facts: [...stage.facts, ...taken] } : stage;
			if (relay && placeOf(stage) >= STAGES.indexOf('proxy')) pending.push(full);
			else add(full);
		}
	} catch (error) {
		const known = error instanceof HeronError ? error : new HeronError('send.failed', { detail: String(error) });
		const stage = failedStage(marks, known);
		for (const one of openedStages(marks, route, stage)) add(one);
		const unspoken =
			known.code === 'send.proxy' && known.values.reason === 'other' && transport?.proxy?.scheme === 'http';
		// a proxy that hangs up on plain text may have wanted TLS
		if (unspoken && (await speaksTls({ ...place, ...proxyPlace(transport) }))) known.values.reason = 'tls';
		const probing =
			secure &&
			stage === 'tls' &&
			known.code !== 'tls.trust' &&
			known.code !== 'tls.identity' &&
			known.code !== 'send.http2';
		const versions = probing && !transport?.proxy ? await acceptedVersions(place) : [];
		const plainAnswers = probing && versions.length === 0 && !transport?.proxy ? await answersPlain(place) : false;
		const ms =
			performance.now() -
			(
				{
					name: marks.start,
					connection: marks.name || marks.start,
					proxy: marks.connect || marks.name || marks.start,
					tls: marks.proxy || marks.connect || marks.start
				} as Record<string, number>
			)[stage]!;
		const { min, max } = versionsOf((way.transport ?? plainTransport()).tls);
		add(
			judgeOpening(target, known, {
				ms,
				stage,
				versions,
				plainAnswers,
				now: now(),
				limits: { range: min === max ? min : `${min} to ${max}` },
				...(marks.facts ? { tls: marks.facts } : {})
			})
		);
		return report();
	}
	if (signal?.aborted) return report();

	// HTTP: without a credential, to see what is asked for
	let open = {
		...request,
		redirects: { ...request.redirects, follow: 10 },
		...(way.transport ? { transport: way.transport } : {})
	};
	const started = performance.now();
	let { step } = aimed;
	let first = await ports.send(open, memory.session, signal);
	const taken = first.exchanges.at(-1)?.reply;
	if (aimed.soap && taken && wantsOther(taken)) {
		({ step } = await aim({ ...order, soap: '1.2' }, context));
		const { headers, origins, body } = (
			await prepareCall(chosen, { ...step, credential: 'none' }, memory, context, scope)
		).request;
		open = { ...open, headers, origins, body };
		first = await ports.send(open, memory.session, signal);
	}
	exchanges.push(...first.exchanges);
	const httpMs = performance.now() - started;
	const reply = first.exchanges.at(-1)?.reply;
	const circle = judgeRedirects(target, first.exchanges, httpMs);
	if (circle?.state === 'failed') {
		add(circle);
		return report();
	}
	if (!reply || first.error) {
		const error = first.error ?? new HeronError('send.failed', { detail: 'there is no reply' });
		if (relay && ['send.notHttp', 'send.reset'].includes(error.code)) {
			const proxyTls = relay.scheme === 'http' && (await speaksTls({ ...place, ...proxyPlace(transport) }));
			const reason = proxyTls ? 'tls' : 'other';
			add(judgeHttpError(target, proxyError(relay, reason, error.message), httpMs, false));
			return report();
		}
		const turned =
			!secure && ['send.notHttp', 'send.reset'].includes(error.code)
				? (await acceptedVersions(place)).length > 0
				: false;
		add(judgeHttpError(target, error, httpMs, turned));
		return report();
	}
	if (relay) {
		const { direct, whoever } = await pastProxy(relay, open, reply, (call) => ports.send(call, memory.session, signal));
		const ofProxy = judgeRelayed(target, reply, direct, whoever, httpMs);
		if (ofProxy) {
			add(ofProxy);
			return report();
		}
	}
	if (!secure && reply.status === 400 && (await acceptedVersions(place)).length > 0) {
		add(judgeHttpError(target, new HeronError('send.notHttp', { start: '' }), httpMs, true));
		return report();
	}
	add(
		circle ??
			passed(
				'http',
				httpMs,
				`${reply.version} answers ${reply.status} ${reply.reason}`.trim(),
				[['server', reply.headers.find(([n]) => n.toLowerCase() === 'server')?.[1] ?? '']].filter(
					([, value]) => value
				) as Stage['facts']
			)
	);

	// authentication: what is asked for, and whether what we have will do
	const authStarted = performance.now();
	let answer: Reply = reply;
	let signed = open;
	if (name) {
		try {
			const full = await prepareCall(chosen, { ...step, credential: name }, memory, context, scope);
			const outcome = await ports.send({ ...open }, memory.session, signal, full.signIn?.authorizer);
			exchanges.push(...(full.signIn?.legs ?? []), ...outcome.exchanges);
			const last = outcome.exchanges.at(-1);
			if (outcome.error || !last?.reply)
				throw outcome.error ?? new HeronError('send.failed', { detail: 'there is no reply' });
			answer = last.reply;
			const added = last.requestHeaders.map(([n, v]) => ({
				n,
				v,
				own: !open.headers.some(([name_, value]) => name_ === n && value === v)
			}));
			signed = {
				...open,
				headers: added.map(({ n, v }): [string, string] => [n, v]),
				origins: added.map(({ own }, i) => (own ? 'credential' : (open.origins[i] ?? 'added')))
			};
		} catch (error) {
			const known = error instanceof HeronError ? error : new HeronError('send.failed', { detail: String(error) });
			if (known.code === 'tls.client') add(judgeHttpError(target, known, performance.now() - authStarted, false));
			else
				add(
					found('auth.failed', { detail: known.message.replace(/\.$/, '') }, { ms: performance.now() - authStarted })
				);
			return report();
		}
	}
	const authMs = performance.now() - authStarted;
	if (aimed.soap) {
		const secured = judgeSecurity(target, answer, authMs);
		if (secured) {
			for (const stage of secured) add(stage);
			return report();
		}
	}
	const skew = judgeSkew(answer, now(), authMs);
	const denied =
		judgeHeaderNames(target, signed, answer, credential?.value, authMs) ?? judgeAuthentication(target, answer, authMs);
	if (denied && answer.status >= 400) {
		if (skew) denied.facts = [...denied.facts, ['clocks', skew.finding]];
		add(denied);
		if (
			answer.status === 401 ||
			answer.status === 403 ||
			denied.code === 'auth.missingHeader' ||
			denied.code === 'auth.headerSlip'
		)
			return report();
	} else if (denied && denied.code === 'auth.headerSlip') add({ ...denied, state: 'warning' });
	else if (skew) add(skew);
	else if (name) {
		const asked = reply.status === 401 ? `the server asks for ${schemesOf(reply).words}; ` : '';
		add(passed('authentication', authMs, `${asked}${name} (${target.credential.label}) is accepted`));
	} else add(passed('authentication', authMs, 'nothing is asked for'));

	const trouble = judgeAnswer(answer, httpMs);
	add(trouble ?? passed('answer', httpMs, `${answer.status} ${answer.reason}`.trim(), answerFacts(answer)));
	return report();

	/** A credential that changes the transport (a client certificate) is needed before TLS. */
	async function signInWay(
		credentialName: string,
		usual: Transport | undefined
	): Promise<{ transport: Transport | undefined; stage?: Stage }> {
		if (credential?.kind !== 'client-certificate') return { transport: usual };
		try {
			const made = await signIn(credentialName, context, scope, memory.session, settled);
			const shown = await made!.authorizer.apply({
				...blankRequest('GET', url, agent),
				...(usual ? { transport: usual } : {})
			});
			return { transport: shown.transport };
		} catch (error) {
			return {
				transport: usual,
				stage: found('tls.identity', {
					detail: error instanceof HeronError ? error.message.replace(/\.$/, '') : String(error)
				})
			};
		}
	}
}

/** Where the proxy itself is, for probes. */
const proxyPlace = (transport: Transport | undefined) => ({
	host: transport?.proxy?.host ?? '',
	port: transport?.proxy?.port ?? 0
});

const answerFacts = (reply: Reply): Stage['facts'] => {
	const type = reply.headers.find(([name]) => name.toLowerCase() === 'content-type')?.[1];
	return [...(type ? [['type', type] as [string, string]] : []), ['size', `${reply.body.length} B`]];
};
