import type { HeronError } from '../errors.ts';
import type { TlsFacts } from '../model/exchange.ts';
import type { StageKey } from './diagnoses.ts';
import { judgeHttp2 } from './http.ts';
import { baseFix, withScheme } from './fixes.ts';
import { judgeProxy } from './proxy.ts';
import { found, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';
import { judgeTrust } from './trust.ts';
import { acceptsFact, inRange, judgeVersion } from './version.ts';
import { sentence } from './words.ts';

/** How far the opening of a connection came. */
interface Opening {
	ms: number;
	/** The first that was not reached. */
	stage: StageKey;
	tls?: TlsFacts;
	/** Of TLS, which the other side accepts. */
	versions?: string[];
	/** A plain request to the same port was answered in HTTP. */
	plainAnswers?: boolean;
	now: number;
	limits: { range: string };
}

/** What kept a connection from being opened; the stage is the first that was not reached. */
export function judgeOpening(target: ReachTarget, error: HeronError, context: Opening): Stage {
	const { host, port } = target;
	const { ms, stage, tls, versions, now } = context;
	const { values, code } = error;
	const more = { ms };
	switch (code) {
		case 'send.name':
			return found('name.notFound', { host }, more);
		case 'send.refused':
			return found('tcp.refused', { host, port }, more);
		case 'send.unreachable':
			return found('tcp.noRoute', { host }, more);
		case 'send.proxyAuth':
		case 'send.proxy':
			return judgeProxy(target, error, ms);
		case 'tls.identity':
		case 'tls.pem':
		case 'file.missing':
			return found('tls.identity', { detail: sentence(error.message) }, more);
		case 'tls.client':
			return found(
				values.reason === 'refused' ? 'tls.clientRefused' : 'tls.clientMissing',
				{ detail: sentence(values.detail) },
				more
			);
		case 'tls.version':
			return judgeVersion(target, versions ?? [], error, ms);
		case 'tls.trust':
			return judgeTrust(target, String(values.reason), tls!, now, ms);
		case 'send.tls':
			return judgeHandshake(target, error, context);
		case 'send.http2':
			return judgeHttp2(target, error, ms);
		case 'send.timeout':
			return judgeTimeout(target, error, context);
		case 'send.reset':
			return judgeReset(target, error, context);
		default:
			return found(stage === 'tls' ? 'tls.failed' : 'settings.wrong', { detail: sentence(error.message) }, more);
	}
}

function judgeHandshake(target: ReachTarget, error: HeronError, context: Opening): Stage {
	const { ms, versions, plainAnswers, limits } = context;
	const { reason, detail } = error.values;
	if (reason === 'notTls') {
		const fixes = plainAnswers ? baseFix(target, 'Use http://', withScheme('http')) : [];
		return found('tls.notTls', {}, { ms, fixes, facts: plainAnswers ? [['answers', 'plain HTTP at this port']] : [] });
	}
	if (reason !== 'cipher')
		return found('tls.failed', { detail: sentence(detail) }, { ms, facts: acceptsFact(versions) });
	if (isOutside(target, versions)) return judgeVersion(target, versions, error, ms);
	return found('tls.cipher', { range: limits.range }, { ms, facts: acceptsFact(versions) });
}

/** Whether the versions of TLS that the other side accepts are known, and none is one of ours. */
const isOutside = (target: ReachTarget, versions: string[] | undefined): versions is string[] =>
	versions !== undefined && versions.length > 0 && !inRange(target, versions);

function judgeTimeout({ host, port, proxy }: ReachTarget, { values }: HeronError, { ms, stage }: Opening): Stage {
	const limit = String(values.limit ?? '');
	if (stage === 'name') return found('name.timeout', { host, limit }, { ms });
	if (stage === 'proxy')
		return found('proxy.unreachable', { proxy, detail: `It does not answer within ${limit}` }, { ms });
	return found(stage === 'tls' ? 'tls.timeout' : 'tcp.timeout', { host, port, limit }, { ms });
}

function judgeReset(target: ReachTarget, error: HeronError, { ms, stage, versions }: Opening): Stage {
	const { host, port } = target;
	if (stage !== 'tls') return found('tcp.reset', { host, port }, { ms, facts: [] });
	if (isOutside(target, versions)) return judgeVersion(target, versions, error, ms);
	return found('tls.reset', { host, port }, { ms, facts: acceptsFact(versions) });
}
