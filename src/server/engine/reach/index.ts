import { credentialKind } from '#core/auth/index.ts';
import { HeronError } from '#core/errors.ts';
import { inEnvironment, settleConnection, type Connection } from '#core/model/connection.ts';
import type { Exchange } from '#core/model/exchange.ts';
import type { Json } from '#core/model/json.ts';
import type { Reply } from '#core/model/reply.ts';
import { plainTransport, type Transport } from '#core/model/transport.ts';
import { parseStep } from '#core/model/collection.ts';
import {
	certificateRows,
	daysLeft,
	found,
	judgeAnswer,
	judgeAuthentication,
	judgeHeaderNames,
	judgeHttpError,
	judgeOpening,
	judgeRedirects,
	judgeSkew,
	notNeeded,
	notReached,
	outcomeOf,
	passed,
	schemesOf,
	STAGES,
	type ReachReport,
	type ReachTarget,
	type Stage,
	type StageKey
} from '#core/reach/index.ts';
import {
	blankRequest,
	emptyMemory,
	prepareCall,
	scopeOf,
	signIn,
	type StepContext,
	type StartNames
} from '#core/run/index.ts';
import { distrustWords, freshMarks, openSocket, versionsOf, type SocketMarks } from '../send/index.ts';
import { acceptedSuites, acceptedVersions, answersPlain } from './probe.ts';
import net from 'node:net';

export interface ReachOrder {
	/** A connection's name, or an address. */
	target: string;
	environment: string;
	method: string;
	/** Also list the cipher suites that the server takes. */
	suites: boolean;
	/** Of the first call, behind the base address. */
	path?: string;
	/** Tried in place of the connection's own. */
	credential?: string;
}

const SOON_DAYS = 21;
const isAddress = (target: string) => /^https?:\/\//i.test(target);

/** Where the check goes: address, way, and what would be sent. @throws HeronError request.wrong, value.* */
async function aim(order: ReachOrder, context: StepContext & { start: StartNames }) {
	const { workspace, environment, ports, evaluator } = context;
	const memory = emptyMemory(ports);
	const scope = scopeOf(context, memory);
	const named = isAddress(order.target) ? undefined : workspace.connections.get(order.target);
	if (!named && !isAddress(order.target)) {
		const { nearest } = await import('#core/messages.ts');
		throw new HeronError('request.wrong', {
			detail: `there is no connection "${order.target}"${nearest(order.target, [...workspace.connections.keys()])}; an address starts with https:// or http://`
		});
	}
	const settled =
		named && (await settleConnection(inEnvironment(named, environment), (value: Json) => evaluator.deep(value, scope)));
	const step = parseStep({ id: 'reach', send: `${order.method} ${named ? order.path || '/' : order.target}` }).send!;
	const chosen = {
		collection: '',
		connection: named?.name ?? '',
		scenario: { id: '', title: '', tags: [], off: false, connection: '', credential: '', steps: [] }
	};
	// the base address by itself, without the slash that a path would bring
	return { memory, scope, named, settled, step, chosen };
}

/** The base address by itself: without the slash that the path of a call brings. */
function bare(address: string, connection: Connection | undefined): string {
	const url = new URL(address);
	if (connection && url.pathname !== '/' && !connection.base.trim().endsWith('/'))
		url.pathname = url.pathname.replace(/\/$/, '');
	return url.href;
}

/**
 * Checks stage by stage whether a connection or an address can be reached; `onStage` hears of each stage as it is known.
 * @throws HeronError request.wrong when there is no such target
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
	const add = (stage: Stage) => {
		const hidden = redactor.deep(stage);
		stages.push(hidden);
		onStage(hidden);
	};
	const report = (): ReachReport => {
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
		return redactor.deep(done);
	};

	let aimed: Awaited<ReturnType<typeof aim>>;
	let call: Awaited<ReturnType<typeof prepareCall>>;
	try {
		aimed = await aim(order, context);
		call = await prepareCall(aimed.chosen, { ...aimed.step, credential: 'none' }, aimed.memory, context, aimed.scope);
	} catch (error) {
		if (error instanceof HeronError && error.code === 'request.wrong') throw error;
		add(found('settings.wrong', { detail: error instanceof HeronError ? error.message : String(error) }));
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
		proxy: transport?.proxy ? `${transport.proxy.host}:${transport.proxy.port}` : '',
		...(named
			? {
					connection: {
						name: named.name,
						raw: inEnvironment(named, environment).raw,
						environment,
						variant: named.variants.has(environment)
					}
				}
			: {}),
		variables: workspace.environments.get(environment)?.variables ?? {},
		credential: { name, kind: credential?.kind ?? '', label: credentialKind(credential?.kind)?.label ?? '' }
	};
	const way = await signInWay(name, transport);
	if (way.stage) {
		add(notNeeded('name', host));
		add(way.stage);
		return report();
	}

	target.shows = way.transport?.tls.client !== undefined;

	// name, connection, proxy, TLS: by the opener that calls use
	const marks = freshMarks();
	const place = { host, port, transport };
	const now = () => Date.now();
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
		for (const stage of opened(marks))
			add(stage.key === 'tls' ? { ...stage, facts: [...stage.facts, ...taken] } : stage);
	} catch (error) {
		const known = error instanceof HeronError ? error : new HeronError('send.failed', { detail: String(error) });
		const stage = failedStage(marks, known);
		for (const one of opened(marks, stage)) add(one);
		const probing = secure && stage === 'tls' && known.code !== 'tls.trust' && known.code !== 'tls.identity';
		const versions = probing && !transport?.proxy ? await acceptedVersions(place) : [];
		const plainAnswers = probing && versions.length === 0 && !transport?.proxy ? await answersPlain(place) : false;
		const ms =
			performance.now() -
			(
				{
					name: marks.start,
					connection: marks.name || marks.start,
					proxy: marks.connect,
					tls: marks.proxy || marks.connect
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
	const open = {
		...request,
		redirects: { ...request.redirects, follow: 10 },
		...(way.transport ? { transport: way.transport } : {})
	};
	const started = performance.now();
	const first = await ports.send(open, memory.session, signal);
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
		const turned =
			!secure && ['send.notHttp', 'send.reset'].includes(error.code)
				? (await acceptedVersions(place)).length > 0
				: false;
		add(judgeHttpError(target, error, httpMs, turned));
		return report();
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
			const full = await prepareCall(chosen, { ...aimed.step, credential: name }, memory, context, scope);
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

	/** Stages of the opener that are behind us, up to the one that failed. */
	function opened(passedMarks: SocketMarks, failed?: StageKey): Stage[] {
		const { start, name: named_, connect, proxy: through, tls: secured, facts, peer } = passedMarks;
		const proxied = transport?.proxy;
		const list: Stage[] = [];
		const far = (key: StageKey) => failed !== undefined && STAGES.indexOf(key) >= STAGES.indexOf(failed);
		const asked = proxied?.host ?? host;
		if (!far('name'))
			list.push(
				net.isIP(asked)
					? notNeeded('name', `${asked} is an address already`)
					: passed('name', named_ - start, `${asked} is ${peer.replace(/:\d+$/, '')}${proxied ? ', the proxy' : ''}`)
			);
		if (!far('connection'))
			list.push(
				passed('connection', connect - (named_ || start), `port ${peer.slice(peer.lastIndexOf(':') + 1)} answers`)
			);
		if (!far('proxy'))
			list.push(
				proxied
					? passed(
							'proxy',
							through ? through - connect : 0,
							`${target.proxy} ${secure ? 'lets us through' : 'is asked for each call'}`
						)
					: notNeeded('proxy', 'none, directly')
			);
		if (!far('tls')) {
			if (!secure) list.push(notNeeded('tls', 'plain HTTP: what is sent can be read on the way'));
			else list.push(tlsStage(secured - (through || connect), facts!));
		}
		return list;
	}

	function tlsStage(ms: number, facts: NonNullable<SocketMarks['facts']>): Stage {
		const rows = certificateRows(facts, now());
		const [leaf] = facts.chain;
		const more = { ms, facts: rows, chain: facts.chain };
		if (facts.distrust)
			return found('tls.notVerified', { detail: distrustWords(facts.distrust, facts.chain, host) }, more);
		const soon = facts.chain.find((one) => daysLeft(one, now()) < SOON_DAYS);
		if (soon)
			return found(
				'tls.endsSoon',
				{ days: daysLeft(soon, now()), date: new Date(soon.validTo).toISOString().slice(0, 10) },
				more
			);
		return {
			...passed(
				'tls',
				ms,
				`${facts.version}, ${facts.cipher}${leaf ? `, ${daysLeft(leaf, now())} days left` : ''}`,
				rows
			),
			chain: facts.chain
		};
	}

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

/** What a server takes, beyond what was agreed on: versions, and suites where they are asked for. */
async function accepts(
	place: { host: string; port: number; transport: Transport | undefined },
	suites: boolean
): Promise<Stage['facts']> {
	const versions = await acceptedVersions(place);
	const rows: Stage['facts'] = [['accepts', versions.map((version) => `TLS ${version}`).join(', ')]];
	if (suites)
		for (const version of versions) rows.push([`TLS ${version}`, (await acceptedSuites(place, version)).join(', ')]);
	return versions.length > 0 ? rows : [];
}

function credentialName(context: StepContext, named: Connection | undefined): string {
	const name = named ? inEnvironment(named, context.environment).credential : '';
	return name === 'none' ? '' : name;
}

/** The first stage that was not reached. */
function failedStage(marks: SocketMarks, error: HeronError): StageKey {
	if (error.code === 'tls.identity' || error.code === 'tls.pem') return 'tls';
	if (error.code === 'send.proxy' || error.code === 'send.proxyAuth') return 'proxy';
	if (!marks.connect)
		return error.code === 'send.name' || (error.code === 'send.timeout' && error.values.phase === 'finding the name')
			? 'name'
			: 'connection';
	return error.values.phase === 'asking the proxy' ? 'proxy' : 'tls';
}

const answerFacts = (reply: Reply): Stage['facts'] => {
	const type = reply.headers.find(([name]) => name.toLowerCase() === 'content-type')?.[1];
	return [...(type ? [['type', type] as [string, string]] : []), ['size', `${reply.body.length} B`]];
};
