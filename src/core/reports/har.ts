import { writeJson } from '../model/json.ts';
import { headerValue, mediaType, type HeaderList } from '../model/reply.ts';
import type { Exchange, StepResult } from '../run/index.ts';
import { bytesToBase64, decodeForm, decodeText } from '../values/index.ts';
import type { ReportKind } from './kind.ts';
import { placeOfResult } from './sentence.ts';

/** Longer bodies are cut, which a comment says. */
const BODY_CAP = 256_000;

const named = (headers: HeaderList) => headers.map(([name, value]) => ({ name, value }));

/** The cookies of a request, or those that a reply sets. */
const cookiesIn = (headers: HeaderList, name: string) =>
	headers
		.filter(([own]) => own.toLowerCase() === name)
		.flatMap(([, value]) => (name === 'cookie' ? value.split(/;\s*/) : [value.split(';')[0]!]))
		.filter(Boolean)
		.map((pair) => {
			const at = pair.indexOf('=');
			return { name: at < 0 ? pair : pair.slice(0, at), value: at < 0 ? '' : pair.slice(at + 1) };
		});

/** A body as text where it is text, else as base64. */
function textOf(bytes: Uint8Array, headers: HeaderList): { text: string; encoding?: 'base64'; comment?: string } {
	const kept = bytes.subarray(0, BODY_CAP);
	const { text, valid } = decodeText(kept, mediaType(headers).charset);
	const comment = bytes.length > BODY_CAP ? { comment: `the first ${BODY_CAP} of ${bytes.length} bytes` } : {};
	return valid || bytes.length > BODY_CAP
		? { text, ...comment }
		: { text: bytesToBase64(kept), encoding: 'base64', ...comment };
}

function entry(result: StepResult, exchange: Exchange): object {
	const { method, url, requestHeaders, requestBody, reply, error, startedAt } = exchange;
	const round = (ms: number) => Math.round(ms * 1000) / 1000;
	const phases = reply?.phases;
	const query = URL.canParse(url)
		? decodeForm(new URL(url).search.slice(1)).map(([name, value]) => ({ name, value }))
		: [];
	const sent = textOf(requestBody, requestHeaders);
	return {
		startedDateTime: new Date(startedAt).toISOString(),
		time: round(phases?.total ?? result.ms),
		request: {
			...{ method, url, httpVersion: reply?.version ?? 'HTTP/1.1' },
			...{ headers: named(requestHeaders), queryString: query, cookies: cookiesIn(requestHeaders, 'cookie') },
			...{ headersSize: -1, bodySize: requestBody.length },
			...(requestBody.length > 0
				? { postData: { mimeType: headerValue(requestHeaders, 'content-type') ?? '', params: [], ...sent } }
				: {})
		},
		response: {
			...{ status: reply?.status ?? 0, statusText: reply?.reason ?? '', httpVersion: reply?.version ?? '' },
			...{ headers: named(reply?.headers ?? []), cookies: cookiesIn(reply?.headers ?? [], 'set-cookie') },
			content: {
				size: reply?.body.length ?? 0,
				mimeType: headerValue(reply?.headers ?? [], 'content-type') ?? '',
				...(reply && reply.body.length > 0 ? textOf(reply.body, reply.headers) : {})
			},
			redirectURL: headerValue(reply?.headers ?? [], 'location') ?? '',
			...{ headersSize: -1, bodySize: reply?.wireSize ?? -1 },
			...(error ? { comment: error.message } : {})
		},
		cache: {},
		// a connection that was kept has no phases of its own; connect holds ssl (HAR 1.2, timings)
		timings: phases
			? {
					blocked: -1,
					dns: phases.name > 0 ? round(phases.name) : -1,
					connect: phases.connect + phases.tls > 0 ? round(phases.connect + phases.tls) : -1,
					ssl: phases.tls > 0 ? round(phases.tls) : -1,
					send: round(phases.send),
					wait: round(phases.wait),
					receive: round(phases.body)
				}
			: { send: 0, wait: round(result.ms), receive: 0 },
		comment: `${placeOfResult(result)}${exchange.leg ? ` (${exchange.leg})` : ''}`
	};
}

/** HTTP Archive 1.2: every exchange with its phases, written while the run goes on. */
export const har: ReportKind = {
	key: 'har',
	ending: 'har',
	label: 'HTTP Archive',
	doc: 'HAR 1.2: every exchange with its phases, as browsers and many tools read it.',
	open({ version }) {
		let first = true;
		return {
			event(event) {
				if (event.type === 'run') {
					const head = writeJson({ version: '1.2', creator: { name: 'Loyal Heron', version }, pages: [] });
					return `{"log":${head.slice(0, -1)},"entries":[\n`;
				}
				if (event.type !== 'step') return '';
				return event.result.exchanges
					.map((exchange) => {
						const comma = first ? '' : ',\n';
						first = false;
						return comma + writeJson(entry(event.result, exchange));
					})
					.join('');
			},
			end: () => '\n]}}\n'
		};
	}
};
