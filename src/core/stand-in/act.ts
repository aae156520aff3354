import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import type { Answer } from '../documents/stand-in.ts';
import { utf8, type Names } from '../values/index.ts';
import type { Reading } from './asked.ts';
import { problemOf } from './problem.ts';
import type { Done } from './store.ts';
import { EMPTY, type Made, type Work } from './work.ts';

/** What was done with a store. */
interface Acted {
	names: Partial<Names>;
	/** The answer that goes with it, where the file gives none. */
	usual: Made;
	/** It is there already, or it is not. */
	failed: boolean;
}

const json = (status: number, value: Json, headers: HeaderList = []): Made => ({
	...{ status, body: utf8(writeJson(value)) },
	headers: [...headers, ['Content-Type', 'application/json']]
});
const refused = (status: number, detail: string): Acted => ({
	names: {},
	usual: problemOf(status, detail),
	failed: true
});

/** Does what an answer says with a store. @param trial nothing is changed */
export async function act(
	work: Work,
	answer: Answer,
	reading: Reading,
	path: Record<string, string>,
	trial: boolean
): Promise<Acted> {
	const { spec, memory, ports } = work;
	const { verb, name } = answer.store!;
	const { key: keyName } = spec.stores.get(name)!;
	const live = memory.stores.get(name)!;
	const now = ports.now();
	const things = trial ? live.copy() : live;
	const key = path[keyName] ?? Object.values(path).at(-1) ?? '';
	if (verb === 'list') {
		const page = things.list(reading.query, reading.path, now);
		const link: HeaderList = page.next ? [['Link', `<${page.next}>; rel="next"`]] : [];
		return { names: { page: page as unknown as JsonObject }, usual: json(200, page.items, link), failed: false };
	}
	let done: Done;
	if (verb === 'read') done = things.read(key, now);
	else if (verb === 'remove') done = things.remove(key, now);
	else {
		const body = reading.view.json();
		if (verb !== 'change' && !isObject(body)) return refused(400, 'an object of JSON is wanted');
		const value = body as JsonObject;
		if (verb === 'add') done = things.add(await withKey(work, answer, { value, reading, path, trial }), now);
		else if (verb === 'put') done = things.put(key, value, now);
		else if (verb === 'replace') done = things.replace(key, value, now);
		else done = things.change(key, body, now);
	}
	if ('value' in done)
		return { names: { stored: done.value }, usual: usualOf(verb, done.value, reading, keyName), failed: false };
	if ('page' in done) return { names: {}, usual: json(200, done.page.items), failed: false };
	if ('full' in done) return refused(507, `the store ${name} is full: ${done.full}`);
	return 'exists' in done
		? refused(409, `${name} holds ${keyName} ${done.exists} already`)
		: refused(404, `${name} holds no ${keyName} ${done.missing}`);
}

interface Adding {
	value: JsonObject;
	reading: Reading;
	path: Record<string, string>;
	trial: boolean;
}

/** What is to be added, with a key that is made where the caller gives none. */
async function withKey(
	{ spec, memory, evaluator, scope }: Work,
	answer: Answer,
	{ value, reading, path, trial }: Adding
): Promise<JsonObject> {
	const { key, make } = spec.stores.get(answer.store!.name)!;
	const { [key]: own, ...rest } = value;
	if (own !== undefined && own !== null) return value;
	// counted as the answer itself is: what was removed leaves its number
	const count = (memory.counts.get(answer.id) ?? 0) + (trial ? 1 : 0);
	return { [key]: await evaluator.deep(make, scope(reading, path, { asked: count })), ...rest };
}

/** The answer to what was done with a thing. */
function usualOf(verb: string, value: JsonObject, { path }: Reading, key: string): Made {
	if (verb === 'remove') return { status: 204, headers: [], body: EMPTY };
	if (verb !== 'add') return json(200, value);
	const own = value[key];
	const name = encodeURIComponent(typeof own === 'string' ? own : writeJson(own ?? null));
	return json(201, value, [['Location', `${path.replace(/\/+$/, '')}/${name}`]]);
}
