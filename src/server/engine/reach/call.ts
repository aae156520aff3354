import { HeronError } from '#core/errors.ts';
import type { PreparedRequest } from '#core/model/exchange.ts';
import type { Reply } from '#core/model/reply.ts';
import { judgeHttpError, judgeRedirects, judgeRelayed, passed, wantsOther, type Stage } from '#core/reach/index.ts';
import { prepareCall } from '#core/run/index.ts';
import { proxyError } from '../send/index.ts';
import { aim } from './aim.ts';
import { proxyPlace, serverPlace, type Check } from './check.ts';
import { pastProxy } from './past-proxy.ts';
import { acceptedVersions, speaksTls } from './probe.ts';

/** A call without a credential, and what was answered. */
export interface OpenCall {
	request: PreparedRequest;
	step: Check['aimed']['step'];
	reply: Reply;
	ms: number;
}

/** Sends without a credential, to see what is asked for; undefined where the check ends there. */
export async function checkHttp(check: Check): Promise<OpenCall | undefined> {
	const { log, target, relay, context, aimed } = check;
	const { ports, signal } = context;
	const { first, request, step, ms } = await sendOpen(check);
	log.exchanges.push(...first.exchanges);
	const reply = first.exchanges.at(-1)?.reply;
	const circle = judgeRedirects(target, first.exchanges, ms);
	if (circle?.state === 'failed') return void log.add(circle);
	if (!reply || first.error) {
		const error = first.error ?? new HeronError('send.failed', { detail: 'there is no reply' });
		return void log.add(await unanswered(check, error, ms));
	}
	if (relay) {
		const send = (call: PreparedRequest) => ports.send(call, aimed.memory.session, signal);
		const { direct, whoever } = await pastProxy(relay, request, reply, send);
		const ofProxy = judgeRelayed(target, reply, direct, whoever, ms);
		if (ofProxy) return void log.add(ofProxy);
	}
	if (!target.secure && reply.status === 400 && (await speaksTls(serverPlace(check))))
		return void log.add(judgeHttpError(target, new HeronError('send.notHttp', { start: '' }), ms, true));
	const server = reply.headers.find(([name]) => name.toLowerCase() === 'server')?.[1];
	const facts: Stage['facts'] = server ? [['server', server]] : [];
	const words = `${reply.version} answers ${reply.status} ${reply.reason}`.trim();
	log.add(circle ?? passed('http', ms, words, facts));
	return { request, step, reply, ms };
}

/** The first call; an envelope goes again as SOAP 1.2 where the server wants that. */
async function sendOpen({ order, context, aimed, request: given, transport }: Check) {
	const { ports, signal } = context;
	const { memory, chosen, scope } = aimed;
	let { step } = aimed;
	let request: PreparedRequest = {
		...given,
		redirects: { ...given.redirects, follow: 10 },
		...(transport ? { transport } : {})
	};
	const started = performance.now();
	let first = await ports.send(request, memory.session, signal);
	const taken = first.exchanges.at(-1)?.reply;
	if (aimed.soap && taken && wantsOther(taken)) {
		({ step } = await aim({ ...order, soap: '1.2' }, context));
		const other = await prepareCall(chosen, { ...step, credential: 'none' }, memory, context, scope);
		const { headers, origins, body } = other.request;
		request = { ...request, headers, origins, body };
		first = await ports.send(request, memory.session, signal);
	}
	return { first, request, step, ms: performance.now() - started };
}

/** What it means that no reply came. */
async function unanswered(check: Check, error: HeronError, ms: number): Promise<Stage> {
	const { target, relay } = check;
	const strange = error.code === 'send.notHttp' || error.code === 'send.reset';
	if (relay && strange) {
		const proxyTls = relay.scheme === 'http' && (await speaksTls(proxyPlace(check)));
		return judgeHttpError(target, proxyError(relay, proxyTls ? 'tls' : 'other', error.message), ms, false);
	}
	const turned = !target.secure && strange && (await acceptedVersions(serverPlace(check))).length > 0;
	return judgeHttpError(target, error, ms, turned);
}
