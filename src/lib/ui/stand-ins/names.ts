import { show } from '#core/checks/index.ts';
import { isObject, parseJson, type Json, type JsonObject } from '#core/model/json.ts';
import { fitPath, parsePath, partsOf } from '#core/model/route.ts';
import type { NameHint } from '../editor/names.svelte.ts';
import { headersOf, type MadeUp } from './answers.ts';

const DEEPEST = 3;
const MOST_NAMES = 60;

const simple = (name: string): string => (/^[A-Za-z_]\w*$/.test(name) ? name : `\`${name}\``);

/** Names below a value, each with what it is now; of lists the first item. */
function* below(path: string, value: Json, deep = 0): Generator<NameHint> {
	yield { name: path, detail: show(value, 60) };
	if (deep >= DEEPEST) return;
	if (Array.isArray(value)) {
		if (value.length > 0) yield* below(`${path}[0]`, value[0]!, deep + 1);
	} else if (isObject(value))
		for (const [key, one] of Object.entries(value as JsonObject)) yield* below(`${path}.${simple(key)}`, one, deep + 1);
}

/**
 * The names that expressions of an answer see, with the values that they have for one request: the last one, or one that is
 * made up.
 * @param path of the answer, with `{name}`, below its base
 */
export function requestNames(path: string, base: string, request: MadeUp): NameHint[] {
	const [target = '', search = ''] = request.target.split('?', 2);
	const parts = parsePath(path || '/');
	const inside = base && target.startsWith(base) ? target.slice(base.length) || '/' : target;
	const values = typeof parts === 'string' ? undefined : fitPath(parts, partsOf(inside));
	const out: NameHint[] = [];
	for (const [name, value] of Object.entries(values ?? {})) out.push({ name: `path.${simple(name)}`, detail: value });
	for (const [name, value] of new URLSearchParams(search)) out.push({ name: `query.${simple(name)}`, detail: value });
	out.push({ name: 'request.method', detail: request.method }, { name: 'request.url', detail: 'of what is asked' });
	for (const [name, value] of headersOf(request.headers))
		out.push({ name: `request.headers.${simple(name.toLowerCase())}`, detail: show(value, 60) });
	let body: Json = request.body;
	try {
		if (/^\s*[[{]/.test(request.body)) body = parseJson(request.body);
	} catch {
		// what is no JSON is a text
	}
	if (body !== '') out.push(...[...below('request.body', body)].slice(0, MOST_NAMES));
	return out;
}
