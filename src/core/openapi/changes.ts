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

/** What an operation says with all that it refers to, by name; its own under the empty name. */
function saidBy({ document, node, shared }: OpenapiOperation): Map<string, Json> {
	const given = [
		...shared.map(({ value }) => value),
		...(Array.isArray(node.value.parameters) ? node.value.parameters : [])
	];
	const own = { ...node.value, parameters: Object.fromEntries(given.map((one) => [parameterName(one), one])) };
	const out = new Map<string, Json>();
	const seen = new Set<string>();
	const waiting: { name: string; node: Node }[] = [{ name: '', node: { ...node, value: own } }];
	let parts = 0;
	for (let next = waiting.shift(); next; next = waiting.shift()) {
		const value = plain(next.node.value);
		out.set(next.name, value);
		const inner: Json[] = [value];
		for (let one = inner.pop(); one !== undefined; one = inner.pop()) {
			if (++parts > MOST_PARTS) throw wrong(document.file, `an operation has more than ${MOST_PARTS} parts`);
			if (typeof one !== 'object' || one === null) continue;
			const reference = isObject(one) ? one.$ref : undefined;
			if (typeof reference === 'string') {
				const found = document.at(next.node.file, reference);
				const key = `${found.file}#${found.pointer}`;
				if (!seen.has(key)) {
					seen.add(key);
					const last = found.pointer.split('/').pop() || found.file;
					waiting.push({ name: out.has(last) || waiting.some(({ name }) => name === last) ? key : last, node: found });
				}
			}
			for (const part of Object.values(one) as Json[]) inner.push(part);
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
		if (was === undefined) continue;
		const differences = compareData(was, value, {
			unordered: (path) => path.at(-1) === 'required' || path.at(-1) === 'enum'
		});
		const at = (path: readonly (string | number)[]) => [name, ...path].filter((key) => key !== '').join('.') || 'it';
		for (const one of differences.slice(0, MOST_SHOWN)) out.push(differenceSentence(one, SHOWN, at));
		if (differences.length > MOST_SHOWN) out.push(`${differences.length - MOST_SHOWN} more in ${name || 'it'}`);
	}
	return out;
}
