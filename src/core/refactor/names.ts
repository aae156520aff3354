import { writeJson, isObject, type Json, type JsonObject } from '../model/json.ts';
import { setIn } from '../model/path.ts';
import { LOCAL_FILE } from '../documents/local.ts';
import { parseTemplate, referencesIn } from '../values/index.ts';

type Path = (string | number)[];
/** A name that expressions of all documents speak of: a variable, a secret. */
export type Root = 'env' | 'secret';

/** A place where a name is used, or where it is defined. */
export interface NameUse {
	file: string;
	path: Path;
	/** The text as it stands there. */
	text: string;
	defines?: true;
}

/** Keys whose text is an expression without braces. */
const BARE = new Set(['when', 'that', 'where', 'each']);
const isBare = (key: string | number | undefined, text: string): boolean =>
	typeof key === 'string' && BARE.has(key) && !text.trim().startsWith('{$');

function* texts(value: Json, path: Path): Generator<{ path: Path; text: string; bare: boolean; key?: true }> {
	if (typeof value === 'string') yield { path, text: value, bare: isBare(path.at(-1), value) };
	else if (Array.isArray(value)) for (const [index, item] of value.entries()) yield* texts(item, [...path, index]);
	else if (isObject(value))
		for (const [name, item] of Object.entries(value)) {
			if (name.includes('{$')) yield { path: [...path, name], text: name, bare: false, key: true };
			yield* texts(item as Json, [...path, name]);
		}
}

interface Doc {
	path: string;
	value: Json;
}

/** The maps of variables in the file of this machine's values. */
function localPlaces(value: Record<string, unknown>): { path: Path; values: JsonObject }[] {
	const out: { path: Path; values: JsonObject }[] = [];
	const add = (path: Path, values: unknown) => isObject(values) && out.push({ path, values: values as JsonObject });
	add(['variables'], value.variables);
	for (const [name, values] of Object.entries(isObject(value.environments) ? value.environments : {}))
		add(['environments', name], values);
	return out;
}

/** Where a document defines a name: `variables` of environments and the project, `secrets` of environments. */
function definitions({ path, value }: Doc, root: Root, name: string): NameUse[] {
	if (!isObject(value)) return [];
	const uses: NameUse[] = [];
	if (root === 'env' && (path === 'heron.yaml' || path.startsWith('environments/')) && isObject(value.variables)) {
		if (Object.hasOwn(value.variables, name))
			uses.push({ file: path, path: ['variables', name], text: writeJson(value.variables[name]), defines: true });
	}
	if (root === 'env' && path === LOCAL_FILE) {
		for (const at of localPlaces(value))
			if (Object.hasOwn(at.values, name))
				uses.push({ file: path, path: [...at.path, name], text: writeJson(at.values[name]), defines: true });
	}
	if (root === 'secret' && Array.isArray(value.secrets)) {
		const index = value.secrets.indexOf(name);
		if (index >= 0) uses.push({ file: path, path: ['secrets', index], text: name, defines: true });
	}
	if (root === 'secret' && isObject(value.secretHosts) && Object.hasOwn(value.secretHosts, name))
		uses.push({ file: path, path: ['secretHosts', name], text: writeJson(value.secretHosts[name]), defines: true });
	return uses;
}

/** All places where a name is used and defined, documents in their order. */
export function usesOfName(documents: Iterable<Doc>, root: Root, name: string): NameUse[] {
	const out: NameUse[] = [];
	for (const document of documents) {
		out.push(...definitions(document, root, name));
		for (const { path, text, bare } of texts(document.value, [])) {
			if (referencesIn(text, bare).some((one) => one.root === root && one.name === name))
				out.push({ file: document.path, path, text });
		}
	}
	return out;
}

/** How often each name is used, by `root.name`. */
export function countUses(documents: Iterable<Doc>): Map<string, number> {
	const counts = new Map<string, number>();
	for (const { value } of documents)
		for (const { text, bare } of texts(value, [])) {
			if (!text.includes('$')) continue;
			for (const key of new Set(referencesIn(text, bare).map((one) => `${one.root}.${one.name}`)))
				counts.set(key, (counts.get(key) ?? 0) + 1);
		}
	return counts;
}

/** What is renamed: `['env', 'host']` for `$env.host`, `['steps', 'book', 'reference']` for `$steps.book.reference`. */
export type Chain = readonly [root: string, ...names: string[]];

const escaped = (text: string): string => text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');

/** The expression with another name at the end of a chain; quoted names and longer ones are told apart. */
function renamedSource(source: string, [root, ...names]: Chain, to: string): string {
	// a name stands plain or in quotes
	const either = (name: string) => `(?:${escaped(name)}|"${escaped(name)}"|\`${escaped(name)}\`)`;
	const head = [`\\$${escaped(root)}`, ...names.slice(0, -1).map(either)].join('\\.');
	const last = escaped(names.at(-1)!);
	return source.replace(
		new RegExp(`(${head}\\.)(?:${last}(?![\\w])|"${last}"|\`${last}\`)`, 'g'),
		(found: string, start: string) => {
			const quote = /^["`]/.exec(found.slice(start.length))?.[0] ?? '';
			return start + quote + to + quote;
		}
	);
}

/** A text with a name renamed inside its expressions, and nowhere else. */
export function renamedText(text: string, bare: boolean, chain: Chain, to: string): string {
	if (bare) return renamedSource(text, chain, to);
	if (!text.includes('{$')) return text;
	let parts: ReturnType<typeof parseTemplate>;
	try {
		parts = parseTemplate(text);
	} catch {
		return text;
	}
	let out = '';
	let at = 0;
	for (const part of parts) {
		if (!('source' in part)) continue;
		out += text.slice(at, part.start) + renamedSource(text.slice(part.start, part.end), chain, to);
		at = part.end;
	}
	return out + text.slice(at);
}

/** Plain data with a name renamed in all its expressions; order is kept, and what did not change is the same object. */
export function renamedValue(value: Json, chain: Chain, to: string, key?: string | number): Json {
	if (typeof value === 'string') return renamedText(value, isBare(key, value), chain, to);
	if (Array.isArray(value)) {
		const next = value.map((item, index) => renamedValue(item, chain, to, index));
		return next.some((item, index) => item !== value[index]) ? next : value;
	}
	if (!isObject(value)) return value;
	const before = Object.entries(value as JsonObject);
	const after = before.map(
		([name, item]) => [renamedText(name, false, chain, to), renamedValue(item, chain, to, name)] as const
	);
	const changed = after.some(([name, item], index) => name !== before[index]![0] || item !== before[index]![1]);
	return changed ? Object.fromEntries(after) : value;
}

/** A document with a variable or secret renamed, where it is used and where it is defined; order is kept. */
export function renamedDocument(document: Doc, root: Root, from: string, to: string): Json {
	const value = renamedValue(document.value, [root, from], to);
	if (!isObject(value)) return value;
	const out = { ...value } as JsonObject;
	const isHome = !document.path.includes('/') || document.path.startsWith('environments/');
	const keyed = (map: JsonObject): JsonObject =>
		Object.fromEntries(Object.entries(map).map(([name, item]) => [name === from ? to : name, item]));
	for (const key of ['variables', 'notes']) {
		const map = out[key];
		if (root === 'env' && isHome && isObject(map)) out[key] = keyed(map as JsonObject);
	}
	if (root === 'env' && document.path === LOCAL_FILE && isObject(out.environments))
		out.environments = Object.fromEntries(
			Object.entries(out.environments).map(([name, map]) => [name, isObject(map) ? keyed(map as JsonObject) : map])
		) as JsonObject;
	if (root === 'secret' && isHome && Array.isArray(out.secrets))
		out.secrets = out.secrets.map((name) => (name === from ? to : name));
	if (root === 'secret' && isHome && isObject(out.secretHosts)) out.secretHosts = keyed(out.secretHosts as JsonObject);
	return out;
}

/** A dataset by the name that `rows:` or `each:` gives it. */
type IsDataset = (name: string) => boolean;

/** The scenarios and steps of a collection that run over a dataset: their paths, and what columns are called there. */
function* placesOfDataset(document: Doc, isIt: IsDataset): Generator<{ path: Path; value: Json; names: JsonObject }> {
	const scenarios =
		isObject(document.value) && document.path.startsWith('collections/') ? document.value.scenarios : [];
	for (const [at, scenario] of (Array.isArray(scenarios) ? scenarios : []).entries()) {
		if (!isObject(scenario)) continue;
		const { rows } = scenario;
		const spec: Record<string, unknown> = isObject(rows) ? rows : { data: rows };
		const path = ['scenarios', at];
		if (typeof spec.data === 'string' && isIt(spec.data)) {
			yield { path, value: scenario as Json, names: (isObject(spec.names) ? spec.names : {}) as JsonObject };
			continue;
		}
		for (const [index, step] of (Array.isArray(scenario.steps) ? scenario.steps : []).entries()) {
			const each = isObject(step) ? step.each : undefined;
			const name = isObject(each) ? each.data : each;
			if (typeof name === 'string' && isIt(name))
				yield {
					path: [...path, 'steps', index],
					value: step as Json,
					names: (isObject(each) && isObject(each.names) ? each.names : {}) as JsonObject
				};
		}
	}
}

/**
 * Where a column is used by scenarios and steps that run over its dataset: as `$row.NAME`, and as `$env.NAME`, which it wins over.
 * @param name as expressions call it, unless a scenario's `names` call it otherwise
 * @param title as the file has it
 */
export function usesOfColumn(documents: Iterable<Doc>, isIt: IsDataset, name: string, title: string): NameUse[] {
	const out: NameUse[] = [];
	for (const document of documents)
		for (const { path, value, names } of placesOfDataset(document, isIt)) {
			const own = Object.entries(names).find(([, column]) => column === title || column === name);
			const called = own?.[0] ?? name;
			if (own) out.push({ file: document.path, path, text: `${called}: ${title}`, defines: true });
			for (const found of texts(value, path))
				if (
					referencesIn(found.text, found.bare).some(
						(one) => (one.root === 'row' || one.root === 'env') && one.name === called
					)
				)
					out.push({ file: document.path, path: found.path, text: found.text });
		}
	return out;
}

/** A collection after a column got another title: mappings name the new one; where there is none, uses take the new name. */
export function withColumnRenamed(
	document: Doc,
	isIt: IsDataset,
	from: { name: string; title: string },
	to: { name: string; title: string }
): Json {
	let { value } = document;
	for (const place of placesOfDataset(document, isIt)) {
		const own = Object.entries(place.names).find(([, column]) => column === from.title || column === from.name);
		let next: Json;
		if (own) {
			const key = place.path.length === 2 ? 'rows' : 'each';
			const spec = (place.value as JsonObject)[key] as JsonObject;
			next = { ...(place.value as JsonObject), [key]: { ...spec, names: { ...place.names, [own[0]]: to.title } } };
		} else next = renamedValue(renamedValue(place.value, ['row', from.name], to.name), ['env', from.name], to.name);
		if (next !== place.value) value = setIn(value, place.path, next);
	}
	return value;
}
