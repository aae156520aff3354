import { requestNames } from '../auth/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { cookiesSent, headerValue, type HeaderList } from '../model/reply.ts';
import { viewRequest, type ReplyView } from '../model/view.ts';
import type { Namespaces, XmlPort } from '../model/xml.ts';
import type { Names } from '../values/index.ts';

/** A request that came in, as it crossed the wire. */
export interface Asked {
	method: string;
	/** Path and query, as in the request line. */
	target: string;
	headers: HeaderList;
	body: Uint8Array;
	/** The address under which it was asked, without path. */
	origin: string;
	/** The certificate that the caller showed. */
	certificate?: { subject: string; issuer: string; fingerprint: string };
}

/** What the header of a message says, once it is believed: `$request.security`. */
export type Believed = { user?: string; created?: string; expires?: string; certificate?: JsonObject };

/** What is known of a request while it is answered; each part is read when it is first asked for. */
export interface Reading {
	asked: Asked;
	/** Without the query. */
	path: string;
	query: Record<string, string>;
	view: ReplyView;
	/** What its Security header says, where that was looked at and believed. */
	security?: Believed;
	/** `$request`, as in steps, and `$path` and `$query`. */
	names(path: Record<string, string>): Pick<Names, 'request' | 'path' | 'query'>;
}

/** What came in, taken apart as checks and answers look at it. */
export function readAsked(asked: Asked, xml: XmlPort | undefined, namespaces: Namespaces = {}): Reading {
	const mark = asked.target.indexOf('?');
	const path = mark < 0 ? asked.target : asked.target.slice(0, mark);
	let query: Record<string, string> | undefined;
	let view: ReplyView | undefined;
	const readQuery = () =>
		(query ??=
			mark < 0 ? {} : firstValues(new URLSearchParams(asked.target.slice(mark + 1)) as Iterable<[string, string]>));
	const readView = () => (view ??= viewRequest(asked, xml, namespaces));
	let request: Record<string, unknown> | undefined;
	const readRequest = () =>
		(request ??= Object.defineProperties(
			requestNames({
				method: asked.method,
				url: asked.origin + asked.target,
				headers: asked.headers,
				body: asked.body
			}),
			{
				cookies: { value: cookiesSent(asked.headers), enumerable: true },
				certificate: { value: asked.certificate, enumerable: true },
				security: { get: () => reading.security, enumerable: true },
				body: { get: (): Json => readView().body(), enumerable: true },
				text: { get: () => readView().text }
			}
		));
	const reading: Reading = {
		asked,
		path,
		get query() {
			return readQuery();
		},
		get view() {
			return readView();
		},
		names: (values) => ({
			path: values,
			get query() {
				return readQuery();
			},
			get request() {
				return readRequest();
			}
		})
	};
	return reading;
}

/** The first value of each name: those that come after it are seen in $request.query alone. */
function firstValues(pairs: Iterable<[string, string]>): Record<string, string> {
	const out: Record<string, string> = {};
	for (const [name, value] of pairs) if (!Object.hasOwn(out, name)) out[name] = value;
	return out;
}

/** The trace and the step of a `traceparent` (W3C Trace Context section 3.2); undefined when there is none. */
export function traceOf(headers: HeaderList): { trace: string; span: string } | undefined {
	const match = /^[\da-f]{2}-([\da-f]{32})-([\da-f]{16})-/.exec(headerValue(headers, 'traceparent') ?? '');
	return match ? { trace: match[1]!, span: match[2]! } : undefined;
}
