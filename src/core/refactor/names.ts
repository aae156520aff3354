import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { LOCAL_FILE } from '../model/local.ts';
import { parseTemplate, referencesIn } from '../values/index.ts';

type Path = (string | number)[];
/** A name that expressions speak of: a variable, a secret, a column of the row. */
export type Root = 'env' | 'secret' | 'row';

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
			uses.push({ file: path, path: ['variables', name], text: JSON.stringify(value.variables[name]), defines: true });
	}
	if (root === 'env' && path === LOCAL_FILE) {
		for (const at of localPlaces(value))
			if (Object.hasOwn(at.values, name))
				uses.push({ file: path, path: [...at.path, name], text: JSON.stringify(at.values[name]), defines: true });
	}
	if (root === 'secret' && Array.isArray(value.secrets)) {
		const index = value.secrets.indexOf(name);
		if (index >= 0) uses.push({ file: path, path: ['secrets', index], text: name, defines: true });
	}
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

/** The expression with another name for a variable; quoted names and longer ones are told apart. */
function renamedSource(source: string, root: Root, from: string, to: string): string {
	const word = from.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
	return source
		.replace(new RegExp(`(\\$${root}\\.)${word}(?![\\w])`, 'g'), (_, start: string) => start + to)
		.replace(
			new RegExp(`(\\$${root}\\.)(["\`])${word}\\2`, 'g'),
			(_, start: string, quote: string) => start + quote + to + quote
		);
}

/** A text with a name renamed inside its expressions, and nowhere else. */
export function renamedText(text: string, bare: boolean, root: Root, from: string, to: string): string {
	if (bare) return renamedSource(text, root, from, to);
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
		out += text.slice(at, part.start) + renamedSource(text.slice(part.start, part.end), root, from, to);
		at = part.end;
	}
	return out + text.slice(at);
}

function renamedValue(value: Json, path: Path, root: Root, from: string, to: string): Json {
	if (typeof value === 'string') return renamedText(value, isBare(path.at(-1), value), root, from, to);
	if (Array.isArray(value)) return value.map((item, index) => renamedValue(item, [...path, index], root, from, to));
	if (!isObject(value)) return value;
	return Object.fromEntries(
		Object.entries(value as JsonObject).map(([name, item]) => [
			renamedText(name, false, root, from, to),
			renamedValue(item, [...path, name], root, from, to)
		])
	);
}

/** A document with a variable or secret renamed, where it is used and where it is defined; order is kept. */
export function renamedDocument(document: Doc, root: Root, from: string, to: string): Json {
	const value = renamedValue(document.value, [], root, from, to);
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
	return out;
}
