import { isObject, type Json } from './json.ts';
import type { DocumentKind } from './kind.ts';
import { checkParams, parseParams, PARAMS_SCHEMA, type Param } from './params.ts';
import { duration, record, shaped, text, version, whole } from './shape.ts';
import { parseDuration } from './units.ts';

/** Time limits in milliseconds. */
export interface Timeouts {
	connect: number;
	reply: number;
	whole: number;
}

export interface Connection {
	name: string;
	title: string;
	base: string;
	headers: Param[];
	timeouts: Timeouts;
	/** How many redirects are followed. */
	redirects: number;
}

export const DEFAULT_TIMEOUTS: Timeouts = { connect: 5000, reply: 30_000, whole: 60_000 };

export const connection: DocumentKind = {
	name: 'connection',
	folder: 'connections',
	doc: 'Where calls go: base address, default headers, time limits.',
	schema: record(
		{
			heron: version,
			title: text('The name that people read.'),
			base: text('The address that paths are appended to.', 'an address is wanted, such as https://host/v1'),
			headers: shaped(PARAMS_SCHEMA, checkParams),
			timeouts: record({
				connect: duration('Until name, connection and TLS are there.'),
				reply: duration('From the request’s end to the first byte of the reply.'),
				whole: duration('The whole exchange, redirects included.')
			}),
			redirects: whole('How many redirects are followed; 0 for none.', 0, 50)
		},
		{ heron: 'the version of the format, heron: 1', base: 'the address that paths are appended to' }
	),
	example: {
		heron: 1,
		title: 'Reedmere API',
		base: '{$env.reedmere}',
		headers: { Accept: 'application/json' },
		timeouts: { connect: '5 s', reply: '30 s', whole: '60 s' },
		redirects: 5
	}
};

/** A connection in full, defaults filled in. */
export function parseConnection(name: string, value: Json): Connection {
	const given = isObject(value) ? value : {};
	const limits = isObject(given.timeouts) ? given.timeouts : {};
	return {
		name,
		title: String(given.title ?? name),
		base: String(given.base ?? ''),
		headers: parseParams(given.headers),
		timeouts: {
			connect: parseDuration(limits.connect) ?? DEFAULT_TIMEOUTS.connect,
			reply: parseDuration(limits.reply) ?? DEFAULT_TIMEOUTS.reply,
			whole: parseDuration(limits.whole) ?? DEFAULT_TIMEOUTS.whole
		},
		redirects: typeof given.redirects === 'number' ? given.redirects : 5
	};
}
