import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { unescapeAddress } from '../values/index.ts';
import { keysOf, pointerKey } from './pointer.ts';
import { NAMED_SCHEMAS } from './keywords.ts';

/** What may hold `$id` and `$ref` as data of somebody else. */
const DATA = new Set(['example', 'examples', 'default', 'const', 'enum']);
/** The address of a file that has none. */
const NOWHERE = 'schema://file/';

/** Identifiers of a text lie in so many folders at the most, as far as a name is looked for in them. */
const MOST_FOLDERS = 100;

/** A schema that bears an `$id`, and the `$anchor`s in it. */
interface Resource {
	uri: string;
	pointer: string;
	value: JsonObject;
	anchors: Map<string, string>;
}
interface Part {
	value: Json;
	pointer: string;
	resource: Resource | undefined;
	/** Its keys are names that somebody gave. */
	named: boolean;
}

function resolved(reference: string, base: string): URL | undefined {
	try {
		return new URL(reference, base);
	} catch {
		return undefined;
	}
}
const withoutHash = ({ href, hash }: URL): string =>
	hash === '' ? href.replace(/#$/, '') : href.slice(0, -hash.length);

const holds = (value: Json, pointer: string): boolean => {
	let here: Json | undefined = value;
	for (const key of keysOf(pointer))
		here =
			typeof here === 'object' && here !== null && Object.hasOwn(here, key) ? (here as JsonObject)[key] : undefined;
	return here !== undefined;
};

const written = (pointer: string): string => `#${encodeURI(pointer).replace(/#/g, '%23')}`;

/** Where a reference leads that stands in a resource, or names one; undefined when that is none of this file. */
function placeOf(reference: string, from: Resource | undefined, resources: Map<string, Resource>): string | undefined {
	const url = resolved(reference, from?.uri ?? NOWHERE);
	const target = url && resources.get(withoutHash(url));
	if (!target) return undefined;
	const fragment = unescapeAddress(url.hash.slice(1));
	if (fragment === '') return target.pointer;
	if (!fragment.startsWith('/')) return target.anchors.get(fragment);
	return holds(target.value, fragment) ? target.pointer + fragment : undefined;
}

/**
 * A schema with an `$id` is a place of its own: what it holds refers to it, and others refer to it by that name (JSON Schema
 * 2020-12 sections 8.2.1 and 9.1.1). Such references are changed to JSON Pointers of the file. What leads to no such schema stays:
 * it is meant as it is without an `$id`. A `$dynamicRef` for which there is one place alone is a reference like any other
 * (section 8.2.3.2).
 */
export function resolveNames(file: Json): void {
	const resources = new Map<string, Resource>();
	/** Where a `$dynamicAnchor` stands; empty where it stands several times. */
	const dynamic = new Map<string, string>();
	const references: { holder: JsonObject; resource: Resource | undefined }[] = [];
	const waiting: Part[] = [{ value: file, pointer: '', resource: undefined, named: false }];
	// an anchor of YAML stands in several places
	const seen = new Set<Json>();
	for (let next = waiting.pop(); next; next = waiting.pop()) {
		const { value, pointer, named } = next;
		if (seen.has(value)) continue;
		seen.add(value);
		let { resource } = next;
		if (isObject(value) && !named) {
			const holder = value as JsonObject;
			const url = typeof holder.$id === 'string' && resolved(holder.$id, resource?.uri ?? NOWHERE);
			if (url) {
				resource = { uri: withoutHash(url), pointer, value: holder, anchors: new Map() };
				if (!resources.has(resource.uri)) resources.set(resource.uri, resource);
			}
			for (const anchor of [holder.$anchor, holder.$dynamicAnchor])
				if (typeof anchor === 'string') resource?.anchors.set(anchor, pointer);
			const anchor = typeof holder.$dynamicAnchor === 'string' && `#${holder.$dynamicAnchor}`;
			if (anchor) dynamic.set(anchor, dynamic.has(anchor) ? '' : pointer);
			if (typeof holder.$ref === 'string' || typeof holder.$dynamicRef === 'string')
				references.push({ holder, resource });
		}
		for (const [key, part] of Object.entries(value as object))
			if (typeof part === 'object' && part !== null && (named || !DATA.has(key)))
				waiting.push({
					value: part as Json,
					pointer: `${pointer}/${pointerKey(key)}`,
					resource,
					named: !named && NAMED_SCHEMAS.has(key)
				});
	}
	for (const { holder, resource } of references) {
		const meant = typeof holder.$dynamicRef === 'string' && dynamic.get(holder.$dynamicRef);
		if (meant && holder.$ref === undefined) {
			delete holder.$dynamicRef;
			holder.$ref = written(meant);
		} else if (typeof holder.$ref === 'string') {
			const place = placeOf(holder.$ref, resource, resources);
			if (place !== undefined) holder.$ref = written(place);
		}
	}
}

/** Whether a reference names a schema of the same text by its `$id`, and no file. */
export function namesId(text: string): (reference: string) => boolean {
	const ids = [...text.matchAll(/["']?\$id["']?\s*:\s*(?:"([^"\n]+)"|'([^'\n]+)'|([^"'\s{},]+))/g)].map(
		([, double, single, plain]) => (double ?? single ?? plain)!
	);
	const known = new Set(ids.flatMap((id) => resolved(id, NOWHERE)?.href ?? []));
	const folders = new Set([...known].flatMap((id) => resolved('.', id)?.href ?? []));
	const bases = [NOWHERE, ...[...folders].slice(0, MOST_FOLDERS)];
	return (reference) => known.size > 0 && bases.some((base) => known.has(resolved(reference, base)?.href ?? ''));
}
