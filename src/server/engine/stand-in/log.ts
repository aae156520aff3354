import type { HeaderList } from '#core/model/reply.ts';
import type { Redactor } from '#core/redact/index.ts';
import type { CallRecord } from '#core/stand-in/index.ts';

/** What a log is looked through for. */
export interface CallFilter {
	/** Only those after this id. */
	after?: number | undefined;
	method?: string | undefined;
	/** Milliseconds since 1970. */
	since?: number | undefined;
	/** The path, without its query. */
	path?: string | undefined;
	by?: string | undefined;
	/** A text that stands anywhere in them. */
	value?: string | undefined;
	most?: number | undefined;
}

const MOST_CALLS = 2000;
const MOST_OCTETS = 40_000_000;
const BODY_KEPT = 64_000;

/** The calls of one stand-in, the oldest let go. */
export interface CallLog {
	add(record: CallRecord): void;
	/** All that fit in order, at most so many of the newest. */
	find(filter: CallFilter): CallRecord[];
	/** How many there were. */
	count(): number;
	clear(): void;
	next(): number;
	/** Resolves when another call was added, or the signal is aborted. */
	more(signal: AbortSignal): Promise<void>;
}

/** Puts a call into the log; gives it as it stands there, secrets masked. */
export type Recording = (one: Omit<CallRecord, 'id' | 'standIn'>) => CallRecord;

const weight = (one: CallRecord): number => 600 + one.requestBody.length + one.body.length;

export function createLog(): CallLog {
	let list: CallRecord[] = [];
	let octets = 0;
	let last = 0;
	const waiting = new Set<() => void>();
	return {
		add(record) {
			list.push(record);
			octets += weight(record);
			let gone = 0;
			while (list.length - gone > MOST_CALLS || (octets > MOST_OCTETS && list.length - gone > 1))
				octets -= weight(list[gone++]!);
			// shifting one by one costs as much as the log is long
			if (gone > 0) list = list.slice(gone);
			for (const wake of [...waiting]) wake();
		},
		find({ after = 0, since = 0, method, path, by, value, most = MOST_CALLS }) {
			const found = list.filter(
				(one) =>
					one.id > after &&
					one.at >= since &&
					(!method || one.method === method) &&
					(!path || one.target.split('?')[0] === path) &&
					(by === undefined || one.by === by) &&
					(!value || holds(one, value))
			);
			return found.slice(-most);
		},
		count: () => last,
		clear() {
			list = [];
			octets = 0;
		},
		next: () => ++last,
		more: (signal) =>
			new Promise((resolve) => {
				const wake = () => {
					waiting.delete(wake);
					signal.removeEventListener('abort', wake);
					resolve();
				};
				if (signal.aborted) return resolve();
				waiting.add(wake);
				signal.addEventListener('abort', wake, { once: true });
			})
	};
}

/** Whether a text stands in a call: in its address, header fields or bodies. */
export function holds(one: CallRecord, value: string): boolean {
	const inHeaders = (headers: HeaderList) => headers.some(([name, text]) => `${name}: ${text}`.includes(value));
	return (
		one.target.includes(value) ||
		one.requestBody.includes(value) ||
		one.body.includes(value) ||
		inHeaders(one.requestHeaders) ||
		inHeaders(one.headers)
	);
}

/**
 * A body as a log keeps it: text as it is, anything else in short; secrets masked.
 * @param cut whether there was more of it
 */
export function bodyText(bytes: Uint8Array, redactor: Redactor, cut = bytes.length > BODY_KEPT): string {
	if (bytes.length === 0) return '';
	const text = new TextDecoder('utf-8').decode(bytes.subarray(0, BODY_KEPT));
	// a character that none stands for: these are no letters
	if (text.slice(0, 2000).includes('\0')) return `${bytes.length} octets that are no text`;
	return redactor.active ? redactor.text(text, cut) : text;
}
