import type { Json } from '../model/json.ts';
import { cookiesSent, headerValues, mediaType, type HeaderList } from '../model/reply.ts';
import { decodeForm } from '../values/index.ts';

/**
 * A call as far as it is known: one that was made, or one that a step would make. A value that is only known when it is
 * sent is undefined; a name that is not given gives undefined in place of a list.
 */
export interface Call {
	/** Where it is from: `collection/scenario/step`. */
	step: string;
	method: string;
	/** Its path; `OPEN_PART` for what is only known when it is sent. */
	path: string;
	/** The path as it is told to people. */
	shown: string;
	/** The path of its connection's base, without a slash at its end. */
	base: string;
	/** What stands behind `#` in the address of its step. */
	fragment: string;
	query(name: string): (string | undefined)[] | undefined;
	header(name: string): (string | undefined)[] | undefined;
	cookie(name: string): (string | undefined)[] | undefined;
	/** The media type of its body, in small letters; undefined without one. */
	media: string | undefined;
	body: Json | undefined;
	/** Whether its connection shows a certificate of its own. */
	certificate: boolean;
	/** Statuses that it got, or that it is checked for. */
	statuses: number[];
}

/** Stands in a path for what is only known when it is sent. */
export const OPEN_PART = 'known-when-sent';

/** Values of a name; undefined where there are none. */
export const given = <T>(list: T[]): T[] | undefined => (list.length > 0 ? list : undefined);

/** A call that was made. */
export function madeCall(one: {
	step: string;
	method: string;
	url: string;
	base: string;
	fragment?: string | undefined;
	headers: HeaderList;
	/** Data of its body, where that is JSON. */
	body?: Json | undefined;
	hasBody: boolean;
	certificate?: boolean;
	status?: number | undefined;
}): Call {
	const { pathname, search } = new URL(one.url);
	const pairs = decodeForm(search.slice(1));
	const cookies = cookiesSent(one.headers);
	return {
		...{
			step: one.step,
			method: one.method,
			path: pathname,
			shown: pathname,
			base: one.base,
			fragment: one.fragment ?? ''
		},
		query: (name) =>
			given(
				pairs
					.filter(([own]) => own === name || own === `${name}[]` || own.startsWith(`${name}[`))
					.map(([, value]) => value)
			),
		header: (name) => given(headerValues(one.headers, name)),
		cookie: (name) => given(Object.hasOwn(cookies, name) ? [cookies[name]!] : []),
		media: one.hasBody ? mediaType(one.headers).type : undefined,
		body: one.body,
		certificate: one.certificate === true,
		statuses: one.status === undefined ? [] : [one.status]
	};
}
