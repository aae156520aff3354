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

/** What kept a connection from being opened; the stage is the first that was not reached. */
export function judgeOpening(
	target: ReachTarget,
	error: HeronError,
	context: {
		ms: number;
		stage: StageKey;
		tls?: TlsFacts;
		versions?: string[];
		/** A plain request to the same port was answered in HTTP. */
		plainAnswers?: boolean;
		now: number;
		limits: { range: string };
	}
): Stage {
	const { host, port, proxy } = target;
	const { ms, stage, tls, versions, now } = context;
	const { values, code } = error;
	const limit = String(values.limit ?? '');
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
			if (values.reason === 'notTls') {
				const fixes = context.plainAnswers ? baseFix(target, 'Use http://', withScheme('http')) : [];
				return found(
					'tls.notTls',
					{},
					{ ms, fixes, facts: context.plainAnswers ? [['answers', 'plain HTTP at this port']] : [] }
				);
			}
			if (values.reason === 'cipher') {
				if (versions && versions.length > 0 && !inRange(target, versions))
					return judgeVersion(target, versions, error, ms);
				return found('tls.cipher', { range: context.limits.range }, { ms, facts: acceptsFact(versions) });
			}
			return found('tls.failed', { detail: sentence(values.detail) }, { ms, facts: acceptsFact(versions) });
		case 'send.http2':
			return judgeHttp2(target, error, ms);
		case 'send.timeout':
			if (stage === 'name') return found('name.timeout', { host, limit }, more);
			if (stage === 'proxy')
				return found('proxy.unreachable', { proxy, detail: `It does not answer within ${limit}` }, more);
			return found(stage === 'tls' ? 'tls.timeout' : 'tcp.timeout', { host, port, limit }, more);
		case 'send.reset':
			if (stage === 'tls' && versions && versions.length > 0 && !inRange(target, versions))
				return judgeVersion(target, versions, error, ms);
			return found(
				stage === 'tls' ? 'tls.reset' : 'tcp.reset',
				{ host, port },
				{ ms, facts: stage === 'tls' ? acceptsFact(versions) : [] }
			);
		default:
			return found(stage === 'tls' ? 'tls.failed' : 'settings.wrong', { detail: sentence(error.message) }, more);
	}
}
