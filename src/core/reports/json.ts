import { writeJson } from '../model/json.ts';
import { isJsonType, isXmlType, mediaType, type HeaderList, type Reply } from '../model/reply.ts';
import type { Exchange, StepResult } from '../run/index.ts';
import { bytesToBase64, decodeText } from '../values/index.ts';
import type { ReportKind } from './kind.ts';

const BODY_CAP = 256_000;

/** A body as text where it is text, else as base64; cut beyond the cap, which is said. */
function bodyOf(bytes: Uint8Array, headers: HeaderList): Record<string, unknown> | undefined {
	if (bytes.length === 0) return undefined;
	const kept = bytes.length > BODY_CAP ? bytes.subarray(0, BODY_CAP) : bytes;
	const { type, charset } = mediaType(headers);
	const decoded = decodeText(kept, charset);
	const texty = isJsonType(type) || isXmlType(type) || type.startsWith('text/') || type.includes('form-urlencoded');
	const content =
		texty || (decoded.valid && !decoded.text.includes('\0')) ? { text: decoded.text } : { base64: bytesToBase64(kept) };
	return { ...content, size: bytes.length, ...(kept === bytes ? {} : { cutAt: BODY_CAP }) };
}

/** An exchange as plain data; what is undefined is left out. */
function exchangeData({
	method,
	url,
	requestHeaders,
	requestBody,
	reply,
	error,
	startedAt,
	notes
}: Exchange): Record<string, unknown> {
	return {
		startedAt: new Date(startedAt).toISOString(),
		request: { method, url, headers: requestHeaders, body: bodyOf(requestBody, requestHeaders) },
		reply: reply && replyData(reply),
		error,
		notes
	};
}

const round = (n: number) => Math.round(n * 100) / 100;
const replyData = (reply: Reply) => {
	const { name, connect, tls, send, wait, body, total } = reply.phases;
	return {
		status: reply.status,
		reason: reply.reason,
		version: reply.version,
		headers: reply.headers,
		body: bodyOf(reply.body, reply.headers),
		wireSize: reply.wireSize,
		phases: {
			name: round(name),
			connect: round(connect),
			tls: round(tls),
			send: round(send),
			wait: round(wait),
			body: round(body),
			total: round(total)
		},
		reused: reply.reused,
		cut: reply.cut,
		note: reply.note
	};
};

/** A step's result as plain data. */
const stepData = (result: StepResult): Record<string, unknown> => ({
	...result,
	startedAt: new Date(result.startedAt).toISOString(),
	ms: Math.round(result.ms * 100) / 100,
	exchanges: result.exchanges.map(exchangeData)
});

/** The full result, one step a line, written while the run goes on. */
export const json: ReportKind = {
	key: 'json',
	ending: 'json',
	label: 'JSON',
	doc: 'The full result with all exchanges; docs/result.md describes it.',
	open({ version }) {
		let first = true;
		return {
			event(event) {
				if (event.type === 'run') {
					const run = { ...event.run, startedAt: new Date(event.run.startedAt).toISOString() };
					const head = writeJson({ heron: 1, version, run, scenarios: event.scenarios });
					return `${head.slice(0, -1)},"steps":[\n`;
				}
				if (event.type !== 'step') return '';
				const comma = first ? '' : ',\n';
				first = false;
				return comma + writeJson(stepData(event.result));
			},
			end(state, exitCode, gate) {
				const outcomes = [...state.scenarios.values()].map(({ scenario, outcome, ms }) => ({
					scenario,
					outcome,
					ms: Math.round(ms)
				}));
				const tail = writeJson({
					outcomes,
					summary: state.summary,
					ms: Math.round(state.ms),
					stopped: state.stopped,
					exitCode,
					...(gate ? { gate } : {})
				});
				return `\n],${tail.slice(1)}\n`;
			}
		};
	}
};
