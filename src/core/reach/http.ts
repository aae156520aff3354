import type { HeronError } from '../errors.ts';
import type { Exchange } from '../model/exchange.ts';
import { headerValue } from '../model/reply.ts';
import { baseFix, movedFix, settingFix, withScheme } from './fixes.ts';
import { judgeProxy } from './proxy.ts';
import { found, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';
import { sentence } from './words.ts';

/** Two sides that do not agree on a version of HTTP. */
export function judgeHttp2(target: ReachTarget, error: HeronError, ms: number): Stage {
	if (error.values.reason === 'only') {
		const version = target.secure ? 'auto' : '2';
		return found('http.only2', {}, { ms, fixes: settingFix(target, 'Use HTTP/2', ['http'], version) });
	}
	const fixes = settingFix(target, 'Use HTTP/1.1', ['http'], '1.1');
	return found('http.version', { detail: sentence(error.values.detail) }, { ms, fixes });
}

/** Whether and why the call itself failed, once the connection was there. */
export function judgeHttpError(target: ReachTarget, error: HeronError, ms: number, speaksTls: boolean): Stage {
	if (speaksTls) return found('http.isTls', {}, { ms, fixes: baseFix(target, 'Use https://', withScheme('https')) });
	const { code, values } = error;
	if (code === 'tls.client')
		return found(
			values.reason === 'refused' ? 'tls.clientRefused' : 'tls.clientMissing',
			{ detail: sentence(values.detail) },
			{ ms }
		);
	if (code === 'send.notHttp') return found('http.notHttp', { start: String(values.start) }, { ms });
	if (code === 'send.timeout')
		return found('http.timeout', { limit: String(values.limit), phase: String(values.phase) }, { ms });
	if (code === 'send.reset' && target.shows)
		return found('tls.clientRefused', { detail: 'It closed the connection when our certificate was shown' }, { ms });
	if (code === 'send.reset') return found('http.reset', {}, { ms });
	if (code === 'send.http2') return judgeHttp2(target, error, ms);
	if (code === 'send.proxyAuth' || code === 'send.proxy') return judgeProxy(target, error, ms);
	return found('http.failed', { detail: sentence(error.message) }, { ms });
}

/** Redirects of the first call: where they lead, and whether they ever end. */
export function judgeRedirects(target: ReachTarget, exchanges: Exchange[], ms: number): Stage | undefined {
	const hops = exchanges.filter(
		(exchange) =>
			(exchange.reply?.status ?? 0) >= 300 &&
			(exchange.reply?.status ?? 0) < 400 &&
			headerValue(exchange.reply!.headers, 'location')
	);
	if (hops.length === 0) return undefined;
	const seen = new Set<string>();
	for (const { url } of exchanges) {
		if (seen.has(url)) return found('http.redirectLoop', { count: exchanges.length - 1, address: url }, { ms });
		seen.add(url);
	}
	const last = exchanges.at(-1)!;
	const final =
		last.reply && last.reply.status >= 300 && last.reply.status < 400
			? new URL(headerValue(last.reply.headers, 'location')!, last.url).href
			: last.url;
	const facts: Stage['facts'] = hops.map((hop) => [
		String(hop.reply!.status),
		headerValue(hop.reply!.headers, 'location')!
	]);
	const fixes = movedFix(target, withoutPath(final, target.path));
	return found('http.redirect', { address: final, status: hops[0]!.reply!.status }, { ms, facts, fixes });
}

/** An address without the path that was asked for behind the base; as it is, where it does not end with that. */
function withoutPath(address: string, path: string): string {
	const tail = path.replace(/^\/*/, '/');
	return path && address.endsWith(tail) ? address.slice(0, -tail.length) : path ? '' : address;
}
