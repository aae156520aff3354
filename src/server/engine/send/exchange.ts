import { HeronError } from '#core/errors.ts';
import { headerValue, type Phases, type Reply } from '#core/model/reply.ts';
import { showSize } from '#core/model/units.ts';
import type { PreparedRequest, TlsFacts } from '#core/run/index.ts';
import { decodeBody } from './decode.ts';
import type { Caps, Reading } from './gathering.ts';
import type { Pool } from './pool.ts';
import type { SocketMarks } from './socket.ts';

/** One request on one connection, up to the end of its reply. */
export interface Sending {
	request: PreparedRequest;
	url: URL;
	pool: Pool;
	caps: Caps;
	reading: Reading;
	signal: AbortSignal | undefined;
	/** A time of `performance.now()` at which the whole exchange ends. */
	deadline: number;
	/** Over no kept connection. */
	fresh?: boolean;
}

/** A reply, and what is known of the connection it came over. */
export interface Sent {
	reply: Reply;
	/** What is odd about it, and was forgiven. */
	notes?: string[];
	tls?: TlsFacts;
	peer?: string;
}

/** Facts of a connection for the record; a kept one repeats no certificates. */
export const connectionFacts = (marks: SocketMarks | undefined, reused: boolean): Omit<Sent, 'reply'> => ({
	...(marks?.facts ? { tls: reused ? { ...marks.facts, chain: marks.facts.chain.slice(0, 1) } : marks.facts } : {}),
	...(marks?.peer ? { peer: marks.peer } : {})
});

/** The phases of an exchange from its marks; a kept connection has no phases before sending. */
export function phasesOf(
	marks: SocketMarks | undefined,
	at: { begun: number; sent: number; first: number; end: number }
): Phases {
	const { begun, sent, first, end } = at;
	const opened = marks ? Math.max(marks.tls, marks.proxy, marks.connect) : begun;
	const start = marks ? marks.start : begun;
	const connected = marks ? Math.max(marks.proxy, marks.connect) : 0;
	return {
		name: marks?.name ? marks.name - marks.start : 0,
		connect: marks ? connected - (marks.name || marks.start) : 0,
		tls: marks?.tls ? marks.tls - connected : 0,
		send: Math.max(0, (sent || end) - Math.max(opened, start)),
		wait: first && sent ? Math.max(0, first - sent) : 0,
		body: first ? end - first : 0,
		total: end - Math.min(start, begun)
	};
}

/** Codings of a body: of the content, then of the transfer, of which chunks are undone already (RFC 9112 section 7). */
const codingsOf = (headers: Reply['headers']): string =>
	[
		headerValue(headers, 'content-encoding'),
		headerValue(headers, 'transfer-encoding')?.replace(/,?\s*chunked\s*$/i, '')
	]
		.filter(Boolean)
		.join(',');

/** A reply of what was read, its codings undone. */
export async function replyOf(
	given: Pick<Reply, 'status' | 'reason' | 'version' | 'headers' | 'reused'>,
	read: { chunks: Buffer[]; size: number; cut: string | undefined; phases: Phases; method: string },
	caps: Caps
): Promise<Reply> {
	const raw = read.chunks.length === 1 ? read.chunks[0]! : Buffer.concat(read.chunks);
	let { cut } = read;
	const hasBody = read.method !== 'HEAD' && given.status !== 204 && given.status !== 304;
	const codings = hasBody ? codingsOf(given.headers) : '';
	const decoded = codings ? await decodeBody(raw, codings, caps.body) : { body: raw, cut: false };
	if (decoded.cut) cut = `cut at ${showSize(caps.body)} after decoding`;
	const { status, reason, version, headers, reused } = given;
	const reply: Reply = {
		status,
		reason,
		version,
		headers,
		body: decoded.body,
		wireSize: read.size,
		phases: read.phases,
		reused
	};
	if (cut) reply.cut = cut;
	// of a body that was not read to its end the data end early as well
	if ('note' in decoded && decoded.note && !read.cut) reply.note = decoded.note;
	return reply;
}

/** Methods whose effect is the same however often they are sent (RFC 9110 section 9.2.2). */
const IDEMPOTENT = new Set(['GET', 'HEAD', 'OPTIONS', 'TRACE', 'PUT', 'DELETE']);
/** Whether a request that may have been looked at may be sent again by itself. */
export const mayRepeat = ({ method }: PreparedRequest): boolean => IDEMPOTENT.has(method);
/** A kept connection that failed before any byte came back: the server may have closed it before it was asked. */
export const isStale = (error: unknown): boolean =>
	error instanceof HeronError &&
	error.code === 'send.reset' &&
	error.values.phase === 'before an answer came' &&
	error.values.reused === 'yes';
