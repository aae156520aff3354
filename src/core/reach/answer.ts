import { headerValue, isJsonType, mediaType, type Reply } from '../model/reply.ts';
import { shortened } from '../model/shortened.ts';
import { found, type Fix, type Stage } from './stage.ts';
import { saidIn, startOf } from './words.ts';

/** What the first answer says of the address. Undefined when it is an answer of an API. */
export function judgeAnswer(reply: Reply, ms: number): Stage | undefined {
	const { status } = reply;
	const { type } = mediaType(reply.headers);
	const facts: Stage['facts'] = [
		['status', `${status} ${reply.reason}`.trim()],
		...(type ? [['type', type] as [string, string]] : [])
	];
	const more = { ms, facts };
	if (status === 404 || status === 410) return found('answer.notFound', {}, more);
	if (status === 405) {
		const allowed = (headerValue(reply.headers, 'allow') ?? '')
			.split(',')
			.map((one) => one.trim().toUpperCase())
			.filter(Boolean);
		const safe = allowed.filter((method) => method === 'HEAD' || method === 'OPTIONS');
		const fixes: Fix[] = safe.slice(0, 1).map((method) => ({ label: `Check with ${method}`, edits: [], method }));
		return found('answer.method', { methods: allowed.join(', ') || 'none that it names' }, { ...more, fixes });
	}
	if (status === 429) {
		const after = headerValue(reply.headers, 'retry-after');
		return found('answer.tooMany', { detail: after ? ` of ${/^\d+$/.test(after) ? `${after} s` : after}` : '' }, more);
	}
	if (status >= 500) return found('answer.trouble', { status, detail: saidIn(reply) }, more);
	if (status >= 400 && status !== 401 && status !== 403)
		return found('answer.refused', { status, detail: saidIn(reply) }, more);
	const text = startOf(reply);
	if (!isJsonType(type) && (type === 'text/html' || /^\s*<(!doctype html|html)/i.test(text))) {
		const page =
			/<title[^>]*>([^<]*)/i.exec(text)?.[1]?.trim() ??
			text
				.replace(/<[^>]*>/g, ' ')
				.replace(/\s+/g, ' ')
				.trim();
		return found('answer.html', { page: page ? shortened(page, 60) : 'a page without a title' }, more);
	}
	return undefined;
}
