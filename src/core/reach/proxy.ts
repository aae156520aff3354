import type { HeronError } from '../errors.ts';
import { headerValue, headerValues, type Reply } from '../model/reply.ts';
import { bypassed, proxySchemeFix, settingFix } from './fixes.ts';
import { found, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';
import { sentence } from './words.ts';

const withoutIt = (target: ReachTarget) =>
	settingFix(target, `Reach ${target.host} without the proxy`, ['proxy'], bypassed(target));

/** Why a proxy does not let us through. */
export function judgeProxy(target: ReachTarget, error: HeronError, ms: number): Stage {
	const { proxy, host, port } = target;
	const { code, values } = error;
	if (code === 'send.proxyAuth') {
		const detail = `It ${String(values.detail)}`;
		return values.denied === 'yes'
			? found('proxy.denied', { detail }, { ms })
			: found('proxy.auth', { detail }, { ms });
	}
	const detail = sentence(values.detail);
	switch (values.reason) {
		case 'unreachable':
			return found('proxy.unreachable', { proxy, detail }, { ms, fixes: withoutIt(target) });
		case 'target':
			return found('proxy.target', { host, port, detail }, { ms, fixes: withoutIt(target) });
		case 'forbidden':
			return found('proxy.refused', { detail }, { ms, fixes: withoutIt(target) });
		case 'tls':
			return found('proxy.isTls', { proxy }, { ms, fixes: proxySchemeFix(target, 'https') });
		case 'notTls':
			return found('proxy.notTls', { proxy }, { ms, fixes: proxySchemeFix(target, 'http') });
		default:
			return found('proxy.failed', { proxy, detail }, { ms, fixes: withoutIt(target) });
	}
}

/** What came of asking the other side itself, past the proxy. */
export type Direct = { status: number } | { error: string };

/**
 * Whether an answer is of the proxy that passes calls on, and not of the API behind it: what it says by itself (RFC 9110
 * section 11.7.1, RFC 9209), or what the API says to the same call without the proxy. Undefined when it is the API’s, or
 * nobody can tell.
 */
export function judgeRelayed(
	target: ReachTarget,
	reply: Reply,
	direct: Direct | undefined,
	/** The same answer came for a user that nobody has. */
	whoever: boolean,
	ms: number
): Stage | undefined {
	const { status } = reply;
	const own =
		headerValues(reply.headers, 'proxy-authenticate').length > 0 ||
		/;\s*error=/.test(headerValue(reply.headers, 'proxy-status') ?? '');
	const differs = direct !== undefined && 'status' in direct && direct.status !== status;
	const silent = direct !== undefined && 'error' in direct;
	const said = `It answered ${`${status} ${reply.reason}`.trim()}`;
	const facts: Stage['facts'] = differs ? [['directly', `${target.host} answers ${direct.status}`]] : [];
	if (status === 401 && (own || differs || whoever))
		return found('proxy.denied', { detail: `${said} for the user that the connection gives` }, { ms, facts });
	if (status === 403 && (own || differs))
		return found('proxy.refused', { detail: said }, { ms, facts, fixes: withoutIt(target) });
	if (status >= 502 && status <= 504 && (own || differs || silent)) {
		const { host, port } = target;
		if (silent) facts.push(['directly', direct.error]);
		const fixes = differs ? withoutIt(target) : [];
		return found('proxy.target', { host, port, detail: said }, { ms, facts, fixes });
	}
	return undefined;
}
