import { findVolatile } from '../baselines/index.ts';
import { isStatic, type Recorded } from '../exchange/index.ts';
import { isObject, parseJson, same, writeJson, type Json, type JsonObject } from '../model/json.ts';
import { setIn } from '../model/path.ts';
import { isJsonType, isXmlType, type HeaderList } from '../model/reply.ts';
import { singularPath } from '../selectors/index.ts';

/** Entries of a stand-in that answer as was recorded. */
export interface RecordedAnswers {
	answers: JsonObject[];
	/** How many calls they stand for. */
	calls: number;
	/** What was left out, in words. */
	notes: string[];
	/** The base path that all of them lie below, and are written without; empty when there is none. */
	base: string;
}

/** Fields that each answer has anew, or that speak of how it was carried. */
const OWN =
	/^(date|content-length|content-encoding|connection|keep-alive|transfer-encoding|server|via|set-cookie|alt-svc|age)$/i;

const typeOf = (headers: HeaderList): string =>
	headers.find(([name]) => name.toLowerCase() === 'content-type')?.[1] ?? '';
const plainType = (type: string): string => type.split(';')[0]!.trim().toLowerCase();
const literal = (text: string): string => text.replaceAll('{$', '\\{$');

/** The origins of calls, those with most of them first; what pages fetch for themselves does not count. */
export function originsOf(list: readonly Recorded[]): { origin: string; calls: number }[] {
	const counts = new Map<string, number>();
	for (const { url, headers } of list)
		if (!isStatic(plainType(typeOf(headers))))
			counts.set(new URL(url).origin, (counts.get(new URL(url).origin) ?? 0) + 1);
	return [...counts].map(([origin, calls]) => ({ origin, calls })).sort((a, b) => b.calls - a.calls);
}

interface Group {
	method: string;
	path: string;
	query: Record<string, string>;
	/** The body of the request: data where it is JSON. */
	body: Json | undefined;
	came: Recorded[];
}

/**
 * Entries that answer as was recorded: the same request gets the same answer; of several answers to it each in turn, or,
 * where they differ in times, ids and counters alone, one with expressions in those places.
 * @param origin calls to others are left out
 * @param bases paths that calls of connections begin with: what is below one is written without it
 */
export function answersOf(list: readonly Recorded[], origin: string, bases: readonly string[] = []): RecordedAnswers {
	const longest = bases.filter((base) => base !== '').sort((a, b) => b.length - a.length);
	const used = new Set<string>();
	const notes: string[] = [];
	const groups = new Map<string, Group>();
	let [elsewhere, fetched, unread, calls] = [0, 0, 0, 0];
	for (const one of list) {
		const url = new URL(one.url);
		if (url.origin !== origin) {
			elsewhere++;
			continue;
		}
		if (isStatic(plainType(typeOf(one.headers)))) {
			fetched++;
			continue;
		}
		if (one.body === undefined && Number(one.headers.find(([name]) => /^content-length$/i.test(name))?.[1] ?? 0) > 0) {
			unread++;
			continue;
		}
		calls++;
		const base = longest.find((one) => url.pathname === one || url.pathname.startsWith(`${one}/`)) ?? '';
		used.add(base);
		const path = url.pathname.slice(base.length) || '/';
		const body = dataOf(one.requestBody, typeOf(one.requestHeaders));
		const query = Object.fromEntries(new URLSearchParams(url.search) as unknown as Iterable<[string, string]>);
		const key = writeJson([one.method, path, query, body ?? null]);
		const found = groups.get(key);
		if (found) found.came.push(one);
		else groups.set(key, { method: one.method, path, query, body, came: [one] });
	}
	if (elsewhere > 0) notes.push(`${elsewhere} to other hosts`);
	if (fetched > 0) notes.push(`${fetched} for pictures, styles, scripts and fonts`);
	if (unread > 0) notes.push(`${unread} whose body is no text`);
	const bySame = new Map<string, Group[]>();
	for (const group of groups.values()) {
		const key = `${group.method} ${group.path}`;
		bySame.set(key, [...(bySame.get(key) ?? []), group]);
	}
	const ids = new Set<string>();
	const answers: JsonObject[] = [];
	for (const [asks, alike] of bySame)
		for (const group of alike) {
			const must = alike.length > 1 ? tellApart(group, alike) : [];
			answers.push({
				id: idFor(asks, ids),
				ask: `${group.method} ${group.path.replace(/\{/g, '%7B').replace(/\}/g, '%7D')}`,
				...(must.length > 0 ? { must } : {}),
				answer: turnsOf(group)
			});
		}
	return { answers, calls, notes, base: used.size === 1 ? [...used][0]! : '' };
}

function idFor(asks: string, taken: Set<string>): string {
	const words =
		asks
			.toLowerCase()
			.replace(/[^a-z0-9]+/g, '-')
			.replace(/^-+|-+$/g, '') || 'answer';
	let id = words;
	for (let n = 2; taken.has(id); n++) id = `${words}-${n}`;
	taken.add(id);
	return id;
}

function dataOf(text: string | undefined, type: string): Json | undefined {
	if (text === undefined || text === '') return undefined;
	if (!isJsonType(plainType(type))) return text;
	try {
		return parseJson(text);
	} catch {
		return text;
	}
}

/** Checks that tell a request from others to the same path: by what differs in query and body. */
function tellApart({ query, body }: Group, alike: readonly Group[]): JsonObject[] {
	const must: JsonObject[] = [];
	const names = new Set(alike.flatMap((one) => Object.keys(one.query)));
	for (const name of names)
		if (alike.some((one) => one.query[name] !== query[name]))
			must.push(query[name] === undefined ? { query: name, present: false } : { query: name, equals: query[name] });
	const leaves = new Set(alike.flatMap((one) => leavesOf(one.body).map(([selector]) => selector)));
	const own = new Map(leavesOf(body));
	for (const selector of leaves) {
		const value = own.get(selector);
		if (!alike.some((one) => !sameLeaf(new Map(leavesOf(one.body)).get(selector), value))) continue;
		must.push(value === undefined ? { body: selector, present: false } : { body: selector, equals: value });
	}
	return must;
}
const sameLeaf = (a: Json | undefined, b: Json | undefined): boolean =>
	a === undefined || b === undefined ? a === b : same(a, b);

const MOST_LEAVES = 50;
/** Values of a body that are no lists and objects, by their selectors; a text is one value. */
function leavesOf(body: Json | undefined, selector = '$'): [string, Json][] {
	if (body === undefined) return [];
	if (!isObject(body) && !Array.isArray(body)) return [[selector === '$' ? '' : selector, body]];
	const entries: [string, Json][] = Array.isArray(body)
		? (body as Json[]).map((one, index) => [`${selector}[${index}]`, one])
		: Object.entries(body as JsonObject).map(([key, one]) => [
				/^[A-Za-z_]\w*$/.test(key) ? `${selector}.${key}` : `${selector}[${writeJson(key)}]`,
				one
			]);
	return entries.flatMap(([at, one]) => leavesOf(one, at)).slice(0, MOST_LEAVES);
}

/** What is answered: once, in turn, or with expressions where only times, ids and counters differ. */
function turnsOf({ came }: Group): Json {
	const turns: { turn: JsonObject; times: number }[] = [];
	for (const one of came) {
		const turn = turnOf(one);
		const last = turns.at(-1);
		if (last && same(last.turn, turn)) last.times++;
		else turns.push({ turn, times: 1 });
	}
	if (turns.length === 1) return turns[0]!.turn;
	const general = inGeneral(turns.map(({ turn }) => turn));
	if (general) return general;
	return turns.map(({ turn, times }, index) => (times > 1 && index < turns.length - 1 ? { ...turn, times } : turn));
}

function turnOf({ status, headers, body }: Recorded): JsonObject {
	const type = typeOf(headers);
	const kept = headers.filter(([name]) => !OWN.test(name) && name.toLowerCase() !== 'content-type');
	const twice = new Set(kept.map(([name]) => name)).size < kept.length;
	const fields: Json = twice
		? kept.map(([name, value]): Json => [name, literal(value)])
		: Object.fromEntries(kept.map(([name, value]) => [name, literal(value)]));
	return {
		status,
		...(kept.length > 0 ? { headers: fields } : {}),
		...(body ? { body: bodyOf(body, type) } : {})
	};
}

function bodyOf(text: string, type: string): JsonObject {
	const plain = plainType(type);
	if (isJsonType(plain))
		try {
			const value = literally(parseJson(text));
			// a text would be taken as JSON that is written already
			if (typeof value !== 'string') return type === 'application/json' ? { json: value } : { json: value, type };
		} catch {
			// what says that it is JSON, and is not, is kept as it came
		}
	if (isXmlType(plain)) return { xml: literal(text), type };
	return { text: literal(text), ...(type ? { type } : {}) };
}
const literally = (value: Json): Json =>
	typeof value === 'string'
		? literal(value)
		: Array.isArray(value)
			? value.map(literally)
			: isObject(value)
				? Object.fromEntries(Object.entries(value as JsonObject).map(([key, one]) => [key, literally(one)]))
				: value;

const MADE: Partial<Record<string, (seen: Json | undefined) => Json | undefined>> = {
	time: (seen) =>
		typeof seen === 'number'
			? seen > 1e11
				? '{$millis()}'
				: '{$floor($millis() / 1000)}'
			: typeof seen === 'string' && /^\d{4}-\d\d-\d\dT/.test(seen)
				? '{$now()}'
				: undefined,
	id: (seen) => (typeof seen === 'string' && /^[0-9a-f]{8}-[0-9a-f]{4}-/i.test(seen) ? '{$uuid()}' : undefined),
	counter: (seen) => (typeof seen === 'number' ? `{$asked + ${seen - 1}}` : undefined)
};

/** One answer for several that differ in times, ids and counters alone; undefined when they differ in more. */
function inGeneral(turns: JsonObject[]): JsonObject | undefined {
	const [first] = turns;
	const bodies = turns.map(({ body }) => (isObject(body) ? body.json : undefined));
	if (!first || bodies.some((one) => one === undefined)) return undefined;
	if (!turns.every((one) => same({ ...one, body: null }, { ...first, body: null }))) return undefined;
	// as they came, before times and ids are found in them
	let json: Json = bodies[0]!;
	for (const { selector, reason, order } of findVolatile(bodies as Json[])) {
		const path = singularPath(selector);
		if (order || !path) return undefined;
		let seen: Json | undefined = bodies[0];
		for (const key of path) seen = (seen as Record<string | number, Json> | undefined)?.[key];
		const made = MADE[reason]?.(seen);
		if (made === undefined) return undefined;
		json = setIn(json, path, made) ?? null;
	}
	return { ...first, body: { ...(first.body as JsonObject), json } };
}
