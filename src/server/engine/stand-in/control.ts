import { HeronError, textOf } from '#core/errors.ts';
import { isObject, parseJson, writeJson, type Json, type JsonObject } from '#core/model/json.ts';
import { lookUp } from '#core/model/lookup.ts';
import { headerValue, type HeaderList } from '#core/model/reply.ts';
import type { StandIn } from '#core/documents/stand-in.ts';
import { parseDuration } from '#core/model/units.ts';
import {
	problemOf,
	type Answered,
	type Asked,
	type CallRecord,
	type Remembered,
	type Service
} from '#core/stand-in/index.ts';
import { standInIdentity } from './identity.ts';
import type { CallLog } from './log.ts';

/** The path of a stand-in's own. */
export const CONTROL = '/.stand-in/';
const LONGEST_WAIT_MS = 60_000;

type Made = Pick<Answered['given'], 'status' | 'headers' | 'body'>;
const NO_CONTENT: Made = { status: 204, headers: [], body: new Uint8Array() };

/** What a stand-in can be asked of itself. */
export interface ControlTools {
	spec: StandIn;
	log: CallLog;
	/** Undefined while it is only starting. */
	service(): Service | undefined;
	/** Lets a call of its own go out. @throws HeronError standIn.call */
	send(id: string, asked: Asked): Promise<{ later: number; record: Promise<CallRecord | undefined> }>;
	/** Told when it was reset, or its faults or memory were set. */
	changed(): void;
	/** Where it listens. */
	host: string;
	/** It ends. */
	signal: AbortSignal;
}

const json = (status: number, value: Json): Made => ({
	status,
	headers: [['Content-Type', 'application/json']],
	body: Buffer.from(writeJson(value))
});

/** What is asked of a stand-in itself. */
interface Order {
	asked: Asked;
	tools: ControlTools;
	service: Service;
	/** A value of the query. */
	at(name: string): string | undefined;
	/** Whether whoever asked is gone. */
	gone(): boolean;
}

/** Calls that came, as soon as there are some that are asked for, and no later than is waited. */
async function callsThatCame({ tools: { log, signal: ends }, at, gone }: Order): Promise<Made> {
	const filter = {
		after: Number(at('after') ?? 0) || 0,
		since: Number(at('since') ?? 0) || 0,
		...{ method: at('method'), path: at('path'), by: at('by'), value: at('value') }
	};
	let calls = log.find(filter);
	const wait = at('wait') === undefined ? 0 : (parseDuration(at('wait')) ?? 0);
	const signal = AbortSignal.any([ends, AbortSignal.timeout(Math.min(wait, LONGEST_WAIT_MS))]);
	while (calls.length === 0 && wait > 0 && !signal.aborted && !gone()) {
		await log.more(signal);
		calls = log.find(filter);
	}
	return json(200, {
		count: calls.length,
		last: log.count(),
		calls: (at('whole') === undefined ? calls.map(forReading) : calls) as unknown as Json
	});
}

async function send(id: string, { asked, tools }: Order): Promise<Made> {
	try {
		const { later, record: sent } = await tools.send(decodeURIComponent(id), asked);
		if (later > 0) return { ...NO_CONTENT, status: 202 };
		const kept = await sent;
		if (!kept?.status) return problemOf(502, kept?.notes.join('; ') ?? 'it was stopped');
		return json(200, forReading(kept) as Json);
	} catch (error) {
		return problemOf(error instanceof HeronError && error.code === 'standIn.call' ? 404 : 500, textOf(error));
	}
}

function reset({ tools, service }: Order): Made {
	service.reset();
	tools.changed();
	return NO_CONTENT;
}

function recall({ asked, tools, service }: Order): Made {
	const given = rememberedIn(asked.body);
	if (!given) return problemOf(400, 'what GET gives is wanted: { stores, state, counts }');
	service.recall(given);
	tools.changed();
	return NO_CONTENT;
}

function setFaults({ asked, tools, service }: Order): Made {
	try {
		const given: unknown = parseJson(new TextDecoder().decode(asked.body));
		if (!Array.isArray(given)) throw new Error('a list of faults is wanted, by name or as { status: 503 }');
		service.setFaults(given as (string | JsonObject)[]);
	} catch (error) {
		return problemOf(400, textOf(error));
	}
	tools.changed();
	return json(200, service.faults());
}

const ORDERS: Record<string, (order: Order) => Made | Promise<Made>> = {
	'GET calls': callsThatCame,
	'DELETE calls'({ tools }) {
		tools.log.clear();
		return NO_CONTENT;
	},
	'POST reset': reset,
	'GET state': ({ service }) => json(200, service.remembered() as unknown as Json),
	'PUT state': recall,
	'GET faults': ({ service }) => json(200, service.faults()),
	'PUT faults': setFaults
};

/**
 * What a stand-in tells of itself, below a path of its own.
 * @param below the target behind that path
 * @param gone whether whoever asked is gone
 */
export async function control(asked: Asked, below: string, tools: ControlTools, gone: () => boolean): Promise<Made> {
	const { tls } = tools.spec;
	const service = tools.service();
	const { pathname, searchParams: query } = new URL(below, 'http://here.invalid/');
	const what = pathname.slice(1);
	const stranger = strangerOf(asked, tools.host);
	if (stranger) return problemOf(403, stranger);
	if (!service) return problemOf(503, 'it is only starting');
	const order: Order = { asked, tools, service, at: (name) => query.get(name) ?? undefined, gone };
	if (what.startsWith('send/') && asked.method === 'POST') return send(what.slice('send/'.length), order);
	const known = lookUp(ORDERS, `${asked.method} ${what}`);
	if (known) return known(order);
	if (what === 'authority.pem' && asked.method === 'GET' && tls.on)
		return {
			status: 200,
			headers: [['Content-Type', 'application/x-pem-file']],
			body: Buffer.from((await standInIdentity()).authority)
		};
	return problemOf(
		404,
		`below ${CONTROL} are calls (GET, DELETE), reset (POST), send/ID (POST), state (GET, PUT), faults (GET, PUT)${tls.on ? ', authority.pem (GET)' : ''}`
	);
}

/** Names by which this machine knows itself. */
const LOCAL = /^(localhost|127(\.\d+){3}|\[::1\])(:\d+)?$/i;

/**
 * Why who asks may not look at what is below its own path: a page of another origin, or one that has made a name of its own
 * lead here.
 */
function strangerOf({ headers, origin }: Asked, listens: string): string | undefined {
	const host = headerValue(headers, 'host') ?? '';
	if (/^(127\.|::1$|localhost$)/.test(listens) && !LOCAL.test(host))
		return `it does not answer below ${CONTROL} to the name ${host || 'nothing'}`;
	const page = headerValue(headers, 'origin');
	const own = URL.canParse(origin) ? new URL(origin).port : '';
	if (page !== undefined && !(URL.canParse(page) && LOCAL.test(new URL(page).host) && new URL(page).port === own))
		return `a page of ${page} may not look below ${CONTROL}`;
	return undefined;
}

/** What was remembered, as it is given back; undefined when it is not that. */
function rememberedIn(body: Uint8Array): Remembered | undefined {
	let given: unknown;
	try {
		given = parseJson(new TextDecoder().decode(body));
	} catch {
		return undefined;
	}
	const maps = (value: unknown): value is JsonObject => value === undefined || isObject(value);
	if (!isObject(given) || !maps(given.stores) || !maps(given.state) || !maps(given.counts)) return undefined;
	const stores = Object.entries(given.stores ?? {});
	if (!stores.every(([, list]) => Array.isArray(list) && list.every((one) => isObject(one)))) return undefined;
	const counts = Object.entries(given.counts ?? {}).filter(([, count]) => typeof count === 'number');
	return {
		stores: Object.fromEntries(stores) as Record<string, JsonObject[]>,
		state: given.state ?? {},
		counts: Object.fromEntries(counts) as Record<string, number>
	};
}

/** For whoever reads a log as data: bodies that are JSON as what they say. */
function forReading(one: CallRecord): Record<string, unknown> {
	const dataOf = (text: string): unknown => {
		if (!/^\s*[[{]/.test(text)) return text;
		try {
			return parseJson(text);
		} catch {
			return text;
		}
	};
	const fields = (headers: HeaderList) =>
		Object.fromEntries(headers.map(([name, value]) => [name.toLowerCase(), value]));
	const { requestHeaders, requestBody, headers, body, ...rest } = one;
	return {
		...rest,
		path: one.target.split('?')[0],
		query: Object.fromEntries(new URLSearchParams(one.target.split('?').slice(1).join('?'))),
		request: { headers: fields(requestHeaders), body: dataOf(requestBody) },
		answer: { headers: fields(headers), body: dataOf(body) }
	};
}
