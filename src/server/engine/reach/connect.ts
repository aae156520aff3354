import { HeronError } from '#core/errors.ts';
import { plainTransport } from '#core/model/transport.ts';
import { judgeOpening, STAGES } from '#core/reach/index.ts';
import { freshMarks, openSocket, versionsOf, type SocketMarks } from '../send/index.ts';
import { placeOf, proxyPlace, serverPlace, type Check } from './check.ts';
import { accepts, failedStage, openedStages } from './opening.ts';
import { acceptedVersions, answersPlain, speaksTls } from './probe.ts';

/** Name, connection, proxy, TLS: by the opener that calls use. Whether all of it can be opened. */
export async function checkOpening(check: Check): Promise<boolean> {
	const { order, log, target, request, relay } = check;
	const { transport } = request;
	const { host, port, secure } = target;
	const marks = freshMarks();
	const route = { host, secure, proxy: target.proxy, transport };
	try {
		const socket = await openSocket({
			...{ host, port, secure },
			connectLimit: request.timeouts.connect,
			transport: check.transport,
			alpn: transport?.http === '2' ? ['h2'] : transport?.http === 'auto' ? ['h2', 'http/1.1'] : ['http/1.1'],
			withPem: true,
			marks
		});
		socket.destroy();
		const taken = secure && !transport?.proxy ? await accepts(serverPlace(check), order.suites) : [];
		for (const stage of openedStages(marks, route)) {
			const full = stage.key === 'tls' ? { ...stage, facts: [...stage.facts, ...taken] } : stage;
			if (relay && placeOf(stage) >= STAGES.indexOf('proxy')) log.hold(full);
			else log.add(full);
		}
		return true;
	} catch (error) {
		const known = error instanceof HeronError ? error : new HeronError('send.failed', { detail: String(error) });
		const stage = failedStage(marks, known);
		for (const one of openedStages(marks, route, stage)) log.add(one);
		log.add(await failedOpening(check, known, stage, marks));
		return false;
	}
}

/** What it means that something could not be opened; the server is asked in other ways where that tells more. */
async function failedOpening(
	check: Check,
	known: HeronError,
	stage: ReturnType<typeof failedStage>,
	marks: SocketMarks
): Promise<ReturnType<typeof judgeOpening>> {
	const { target, request } = check;
	const { transport } = request;
	const unspoken =
		known.code === 'send.proxy' && known.values.reason === 'other' && transport?.proxy?.scheme === 'http';
	// a proxy that hangs up on plain text may have wanted TLS
	if (unspoken && (await speaksTls(proxyPlace(check)))) known.values.reason = 'tls';
	const probing =
		target.secure &&
		stage === 'tls' &&
		known.code !== 'tls.trust' &&
		known.code !== 'tls.identity' &&
		known.code !== 'send.http2';
	const direct = probing && !transport?.proxy;
	const versions = direct ? await acceptedVersions(serverPlace(check)) : [];
	const plainAnswers = direct && versions.length === 0 ? await answersPlain(serverPlace(check)) : false;
	const began: Record<string, number> = {
		name: marks.start,
		connection: marks.name || marks.start,
		proxy: marks.connect || marks.name || marks.start,
		tls: marks.proxy || marks.connect || marks.start
	};
	const { min, max } = versionsOf((check.transport ?? plainTransport()).tls);
	return judgeOpening(target, known, {
		ms: performance.now() - began[stage]!,
		...{ stage, versions, plainAnswers, now: Date.now() },
		limits: { range: min === max ? min : `${min} to ${max}` },
		...(marks.facts ? { tls: marks.facts } : {})
	});
}
