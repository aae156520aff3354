import { unescapeAddress } from '../values/index.ts';
import { HeronError, textOf } from '../errors.ts';
import { isObject, parseJson, type Json, type JsonObject } from '../model/json.ts';
import { readYamlExactly, shapeTrouble } from '../model/yaml.ts';
import { keysOf, pointerKey } from './pointer.ts';
import { namesId, resolveNames } from './schema-ids.ts';

/** The versions that are read: OpenAPI 3.0 and 3.1, and Swagger 2.0, as it was called. */
type OpenapiVersion = '2.0' | '3.0' | '3.1';

/** A value of a document, with the file that it stands in and its JSON Pointer there. */
export interface Node<T = Json> {
	value: T;
	file: string;
	pointer: string;
}

/** An OpenAPI document. What it refers to in other files is read when it is asked for. */
export interface OpenapiDocument {
	file: string;
	version: OpenapiVersion;
	title: string;
	root: Node<JsonObject>;
	/**
	 * Follows references until something stands there (OpenAPI 3.1 section 4.8.23).
	 * @throws HeronError definition.wrong for what leads nowhere, out of the project, or in a circle
	 */
	follow(node: Node): Node;
	/** What a reference in a file points at. @throws HeronError definition.wrong */
	at(file: string, reference: string): Node;
}

const MARK = /^\s*(?:["']?)(openapi|swagger)(?:["']?)\s*:\s*["']?(\d+\.\d+)/m;
const MARK_JSON = /[{,]\s*"(?:openapi|swagger)"\s*:\s*"\d/;
/** A mark in so much of a text is taken for the document's own; further down it may be one of an example. */
const HEAD = 20_000;

/** Whether a text looks like an OpenAPI document; it is read only when its version stands far down. */
export function looksLikeOpenapi(text: string): boolean {
	const head = text.slice(0, HEAD);
	if (MARK.test(head) || MARK_JSON.test(head)) return true;
	if (!MARK.test(text) && !MARK_JSON.test(text)) return false;
	try {
		const value = parse('', text);
		return isObject(value) && /^\d/.test(String(value.openapi ?? value.swagger ?? ''));
	} catch {
		return false;
	}
}

/** The files that a text refers to with $ref, as written, each once. */
export function filesReferred(text: string): string[] {
	const isId = namesId(text);
	const found = text.matchAll(/["']?\$ref["']?\s*:\s*(?:"([^"#\n]+)|'([^'#\n]+)|((?:[^"'#\s{},]|\{[^{}\s]*\})+))/g);
	const named = new Set([...found].map(([, double, single, plain]) => (double ?? single ?? plain)!));
	return [...named].filter((one) => !isId(one));
}

const HOPS = 50;
const LOCAL = 'definitions/';

/** The error for a document that cannot be used. */
export const wrong = (file: string, detail: string, cause?: unknown): HeronError =>
	new HeronError('definition.wrong', { file, detail }, cause === undefined ? undefined : { cause });

function parse(file: string, text: string): Json {
	const plain = text.replace(/^\uFEFF/, '');
	try {
		// JSON is YAML, and is read twenty times as fast by itself
		const value = /^\s*[{[]/.test(plain) ? quickly(plain) : readYamlExactly(plain);
		const odd = plain.includes('&') ? shapeTrouble(value) : undefined;
		if (odd) throw new Error(`at ${odd.path.join('.') || 'its beginning'}: ${odd.message}`);
		return value as Json;
	} catch (error) {
		throw wrong(file, error instanceof RangeError ? 'it is nested too deep' : textOf(error), error);
	}
}
function quickly(text: string): unknown {
	try {
		return parseJson(text);
	} catch (error) {
		if (/^\s*\{\s*"/.test(text)) throw error;
		return readYamlExactly(text);
	}
}

/** The path of a file that another one names, inside the project; undefined for what is somewhere else. */
function pathFrom(file: string, named: string): string | undefined {
	if (/^[a-z][a-z0-9+.-]*:/i.test(named) || named.startsWith('/')) return undefined;
	const parts = file.split('/').slice(0, -1);
	for (const part of unescapeAddress(named).split('/')) {
		if (part === '..') {
			if (parts.length === 0) return undefined;
			parts.pop();
		} else if (part !== '.' && part !== '') parts.push(part);
	}
	return parts.join('/');
}

/** A node inside another one. */
export const inside = <T = Json>({ value, file, pointer }: Node<JsonObject>, key: string): Node<T | undefined> => ({
	value: (Object.hasOwn(value, key) ? value[key] : undefined) as T | undefined,
	file,
	pointer: `${pointer}/${pointerKey(key)}`
});

/** The members of a node that is an object. */
export function members(node: Node<Json | undefined>): [name: string, node: Node][] {
	const { value } = node;
	if (!isObject(value)) return [];
	return Object.keys(value).map((name) => [name, inside(node as Node<JsonObject>, name) as Node]);
}

/** Those of its members that hold anything themselves: objects and lists. */
export function holders(node: Node<Json | undefined>): [name: string, node: Node][] {
	const { value } = node;
	const out: [string, Node][] = [];
	if (isObject(value))
		for (const [name, one] of Object.entries(value as JsonObject))
			if (typeof one === 'object' && one !== null) out.push([name, inside(node as Node<JsonObject>, name) as Node]);
	return out;
}

/** The items of a node that is a list. */
export const items = ({ value, file, pointer }: Node<Json | undefined>): Node[] =>
	Array.isArray(value) ? value.map((one, index) => ({ value: one, file, pointer: `${pointer}/${index}` })) : [];

/** Asks for the texts of all files that a document names, near and far: whoever keeps it knows what it was made of. */
function lookAhead(file: string, readText: (path: string) => string | undefined): void {
	const seen = new Set([file]);
	for (const next of seen)
		for (const named of filesReferred(readText(next) ?? '')) {
			const path = pathFrom(next, named);
			if (path !== undefined) seen.add(path);
		}
}

/**
 * Reads a document.
 * @param readText the text of a file of the project, or undefined
 * @throws HeronError definition.wrong, file.missing
 */
export function readOpenapi(file: string, readText: (path: string) => string | undefined): OpenapiDocument {
	const files = new Files(readText);
	lookAhead(file, readText);
	const value = files.open(file);
	if (!isObject(value)) throw wrong(file, 'it holds no keys');
	const declared = String(value.openapi ?? value.swagger ?? '');
	const version = /^(2\.0|3\.[01])(?:\.|$)/.exec(declared)?.[1] as OpenapiVersion | undefined;
	if (!version)
		throw wrong(
			file,
			declared ? `its version is ${declared}; 2.0, 3.0 and 3.1 are read` : 'it does not say openapi: 3.1.0'
		);
	if (!isObject(value.paths) && !isObject(value.webhooks) && !isObject(value.components))
		throw wrong(file, 'it has no paths');
	const at = (from: string, reference: string): Node => files.at(file, from, reference);
	return {
		file,
		version,
		title: isObject(value.info) ? String(value.info.title ?? '') : '',
		root: { value: value as JsonObject, file, pointer: '' },
		at,
		follow(node) {
			let here = node;
			for (let hops = 0; isObject(here.value) && typeof here.value.$ref === 'string'; hops++) {
				if (hops > HOPS) throw wrong(file, `${node.pointer} refers in a circle`);
				here = at(here.file, here.value.$ref);
			}
			return here;
		}
	};
}

/** The files of a document, each read once. */
class Files {
	readonly #readText: (path: string) => string | undefined;
	readonly #parsed = new Map<string, Json>();
	readonly #anchors = new Map<string, Map<string, string>>();

	constructor(readText: (path: string) => string | undefined) {
		this.#readText = readText;
	}

	/** @throws HeronError definition.wrong, file.missing */
	open(path: string): Json {
		let value = this.#parsed.get(path);
		if (value === undefined) {
			const text = this.#readText(path);
			if (text === undefined) throw new HeronError('file.missing', { file: path });
			value = parse(path, text);
			if (/\$(?:id|dynamicRef)\b/.test(text)) resolveNames(value);
			this.#parsed.set(path, value);
		}
		return value;
	}

	/** The pointers of what bears a name in a file (JSON Schema 2020-12 section 8.2.2). */
	#anchorsIn(path: string): Map<string, string> {
		let found = this.#anchors.get(path);
		if (!found) {
			found = new Map();
			const waiting: { value: Json; pointer: string }[] = [{ value: this.open(path), pointer: '' }];
			for (let next = waiting.pop(); next; next = waiting.pop()) {
				const { value, pointer } = next;
				if (typeof value !== 'object' || value === null) continue;
				if (isObject(value))
					for (const anchor of [value.$anchor, value.$dynamicAnchor])
						if (typeof anchor === 'string') found.set(anchor, pointer);
				for (const [key, part] of Object.entries(value))
					waiting.push({ value: part as Json, pointer: `${pointer}/${pointerKey(key)}` });
			}
			this.#anchors.set(path, found);
		}
		return found;
	}

	/** What a reference leads to. @param file the document @param from the file in which the reference stands */
	at(file: string, from: string, reference: string): Node {
		const [named = '', pointer = ''] = reference.split('#');
		const path = named === '' ? from : pathFrom(from, named);
		if (path === undefined || !(path === file || path.startsWith(LOCAL) || path.startsWith('schemas/')))
			throw wrong(file, `it refers to ${reference}, which is not in the project`);
		let text = unescapeAddress(pointer);
		if (text !== '' && !text.startsWith('/')) {
			const anchored = this.#anchorsIn(path).get(text);
			if (anchored === undefined)
				throw wrong(file, `it refers to ${reference}, and nothing there has the $anchor ${text}`);
			text = anchored;
		}
		let found: Json | undefined = this.open(path);
		for (const key of keysOf(text)) {
			found =
				typeof found === 'object' && found !== null && Object.hasOwn(found, key)
					? (found as Record<string, Json>)[key]
					: undefined;
			if (found === undefined) throw wrong(file, `it refers to ${reference}, and nothing is there`);
		}
		return { value: found!, file: path, pointer: text };
	}
}
