import { compareData, differenceSentence } from '../diff/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { wrong, type Node } from './document.ts';
import { NAMED_SCHEMAS } from './keywords.ts';
import type { OpenapiOperation } from './operations.ts';

/** More than that is written to exhaust whoever reads it. */
const MOST_PARTS = 500_000;
/** Keys whose members bear names, which may be any. */
const NAMED = new Set([
	...NAMED_SCHEMAS,
	...[
		'responses',
		'headers',
		'content',
		'encoding',
		'mapping',
		'variables',
		'links',
		'callbacks',
		'schemas',
		'parameters'
	]
]);
/** What describes, and neither asks for anything nor promises anything. */
const DESCRIBES = new Set([
	'summary',
	'description',
	'externalDocs',
	'tags',
	'example',
	'examples',
	'title',
	'xml',
	'$comment'
]);
/** What is a value of the service, whatever its keys. */
const DATA = new Set(['enum', 'const', 'default']);

/** A part of a document without what only describes it. */
function plain(value: Json, named = false): Json {
	if (Array.isArray(value)) return value.map((one) => plain(one));
	if (!isObject(value)) return value;
	return Object.fromEntries(
		Object.entries(value as JsonObject).flatMap(([key, one]) => {
			if (!named && (DESCRIBES.has(key) || key.startsWith('x-'))) return [];
			return [[key, DATA.has(key) && !named ? one : plain(one, !named && NAMED.has(key))]];
		})
	);
}

/** How a parameter is told apart: by its name and place, or what it refers to. */
const parameterName = (given: Json): string =>
	!isObject(given)
		? ''
		: typeof given.$ref === 'string'
			? given.$ref.replace(/^.*[#/]/, '')
			: `${String(given.name)} (${String(given.in)})`;

interface Said {
	value: Json;
	/** The references in it, in their order. */
	references: string[];
	parts: number;
}
const said = new WeakMap<object, Said>();
/** What a part of a document says by itself; of what is referred to by many once. */
function saidIn(given: Json): Said {
	const before = typeof given === 'object' && given !== null ? said.get(given) : undefined;
	if (before) return before;
	const value = plain(given);
	const references: string[] = [];
	let parts = 0;
	const inner: Json[] = [value];
	for (let one = inner.pop(); one !== undefined; one = inner.pop()) {
		parts++;
		if (typeof one !== 'object' || one === null) continue;
		if (isObject(one) && typeof one.$ref === 'string') references.push(one.$ref);
		for (const part of Object.values(one) as Json[]) inner.push(part);
	}
	const made = { value, references, parts };
	if (typeof given === 'object' && given !== null) said.set(given, made);
	return made;
}

/** What an operation says with all that it refers to, by name; its own under the empty name. */
function saidBy({ document, node, shared }: OpenapiOperation): Map<string, Json> {
	const given = [
		...shared.map(({ value }) => value),
		...(Array.isArray(node.value.parameters) ? node.value.parameters : [])
	];
	const own = { ...node.value, parameters: Object.fromEntries(given.map((one) => [parameterName(one), one])) };
	const out = new Map<string, Json>();
	const seen = new Set<string>();
	const names = new Set<string>(['']);
	const waiting: { name: string; node: Node }[] = [{ name: '', node: { ...node, value: own } }];
	let parts = 0;
	for (const next of waiting) {
		const one = saidIn(next.node.value);
		out.set(next.name, one.value);
		parts += one.parts;
		if (parts > MOST_PARTS) throw wrong(document.file, `an operation has more than ${MOST_PARTS} parts`);
		for (const reference of one.references) {
			const found = document.at(next.node.file, reference);
			const key = `${found.file}#${found.pointer}`;
			if (seen.has(key)) continue;
			seen.add(key);
			const last = found.pointer.split('/').pop() || found.file;
			const name = names.has(last) ? key : last;
			names.add(name);
			waiting.push({ name, node: found });
		}
	}
	return out;
}

const SHOWN = 40;
/** So many differences of one part are told. */
const MOST_SHOWN = 5;

/**
 * What an operation asks for or promises otherwise than before, also far away from where it stands; empty for the same.
 * Descriptions and examples do not count.
 * @throws HeronError definition.wrong for references that lead nowhere
 */
export function changesBetween(before: OpenapiOperation, after: OpenapiOperation): string[] {
	const old = saidBy(before);
	const now = saidBy(after);
	const out: string[] = [];
	for (const [name, value] of now) {
		const was = old.get(name);
		if (was !== undefined) out.push(...differencesOf(was, value, name));
	}
	return out;
}

const differing = new WeakMap<object, WeakMap<object, { name: string; sentences: string[] }>>();
/** What two parts say differently, in sentences; of what many operations refer to once. */
function differencesOf(was: Json, is: Json, name: string): string[] {
	const keeps = name !== '' && typeof was === 'object' && was !== null && typeof is === 'object' && is !== null;
	const before = keeps ? differing.get(was)?.get(is) : undefined;
	if (before?.name === name) return before.sentences;
	const differences = compareData(was, is, {
		unordered: (path) => path.at(-1) === 'required' || path.at(-1) === 'enum'
	});
	const at = (path: readonly (string | number)[]) => [name, ...path].filter((key) => key !== '').join('.') || 'it';
	const sentences = differences.slice(0, MOST_SHOWN).map((one) => differenceSentence(one, SHOWN, at));
	if (differences.length > MOST_SHOWN) sentences.push(`${differences.length - MOST_SHOWN} more in ${name || 'it'}`);
	if (keeps) {
		const of = differing.get(was) ?? new WeakMap<object, { name: string; sentences: string[] }>();
		differing.set(was, of.set(is, { name, sentences }));
	}
	return sentences;
}
