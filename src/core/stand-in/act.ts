import { isObject, writeJson, type Json, type JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import type { Answer } from '../documents/stand-in.ts';
import { utf8, type Names } from '../values/index.ts';
import type { Reading } from './asked.ts';
import { problemOf } from './problem.ts';
import type { Done } from './store.ts';
import { EMPTY, type Made, type Work } from './work.ts';

/** What is done with a store; the answer that goes with it, where the file gives none. */
export async function act(
	{ spec, memory, ports, evaluator, scope }: Work,
	answer: Answer,
	reading: Reading,
	path: Record<string, string>,
	trial: boolean
): Promise<{
	names: Partial<Names>;
	usual: Made;
	/** It is there already, or it is not. */
	failed: boolean;
}> {
	const { verb, name } = answer.store!;
	const store = spec.stores.get(name)!;
	const live = memory.stores.get(name)!;
	const now = ports.now();
	const things = trial ? live.copy() : live;
	const key = path[store.key] ?? Object.values(path).at(-1) ?? '';
	const json = (status: number, value: Json, headers: HeaderList = []) => ({
		...{ status, body: utf8(writeJson(value)) },
		headers: [...headers, ['Content-Type', 'application/json']] as HeaderList
	});
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
		if (verb !== 'change' && !isObject(body))
			return { names: {}, usual: problemOf(400, 'an object of JSON is wanted'), failed: true };
		const value = body as JsonObject;
		if (verb === 'add') {
			const { [store.key]: own, ...rest } = value;
			// counted as the answer itself is: what was removed leaves its number
			const count = (memory.counts.get(answer.id) ?? 0) + (trial ? 1 : 0);
			const made =
				own === undefined || own === null
					? { [store.key]: await evaluator.deep(store.make, scope(reading, path, { asked: count })), ...rest }
					: value;
			done = things.add(made, now);
		} else if (verb === 'put') done = things.put(key, value, now);
		else if (verb === 'replace') done = things.replace(key, value, now);
		else done = things.change(key, body, now);
	}
	if ('value' in done) {
		const { value } = done;
		const own = value[store.key];
		const location: HeaderList =
			verb === 'add'
				? [
						[
							'Location',
							`${reading.path.replace(/\/+$/, '')}/${encodeURIComponent(typeof own === 'string' ? own : writeJson(own ?? null))}`
						]
					]
				: [];
		const usual =
			verb === 'remove' ? { status: 204, headers: [], body: EMPTY } : json(verb === 'add' ? 201 : 200, value, location);
		return { names: { stored: value }, usual, failed: false };
	}
	if ('page' in done) return { names: {}, usual: json(200, done.page.items), failed: false };
	if ('full' in done)
		return { names: {}, usual: problemOf(507, `the store ${name} is full: ${done.full}`), failed: true };
	const usual =
		'exists' in done
			? problemOf(409, `${name} holds ${store.key} ${done.exists} already`)
			: problemOf(404, `${name} holds no ${store.key} ${done.missing}`);
	return { names: {}, usual, failed: true };
}
