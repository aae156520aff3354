import { PROJECT_FILE } from '../documents/kinds.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';

interface Doc {
	path: string;
	value: Json;
}

/** Where a collection is put. */
export interface Placement {
	/** The collection that it comes before; at the end when left out. */
	before?: string;
	/** The folder in which it is shown; empty for none. */
	folder: string;
}

const pathOf = (collection: string): string => `collections/${collection}.yaml`;

/** A map with another value at its end, or without the key. */
const put = (record: JsonObject, key: string, value: Json | undefined): JsonObject => {
	if (value !== undefined) return { ...record, [key]: value };
	const { [key]: _, ...rest } = record;
	return rest;
};

/**
 * Documents that are others once a collection stands elsewhere, by path: the project's order, and its folder.
 * @param names all collections in their present order
 */
export function withCollectionPlaced(
	documents: Iterable<Doc>,
	names: readonly string[],
	collection: string,
	{ before, folder }: Placement
): Map<string, Json> {
	const out = new Map<string, Json>();
	const rest = names.filter((name) => name !== collection);
	const at = before === undefined ? -1 : rest.indexOf(before);
	const order = rest.toSpliced(at < 0 ? rest.length : at, 0, collection);
	const moved = order.some((name, index) => name !== names[index]);
	for (const { path, value } of documents) {
		if (!isObject(value)) continue;
		if (path === PROJECT_FILE && moved) out.set(path, put(value as JsonObject, 'order', order));
		if (path === pathOf(collection) && (value.folder ?? '') !== folder)
			out.set(path, put(value as JsonObject, 'folder', folder || undefined));
	}
	return out;
}

/** The documents with collections in the order of their names again. */
export function withoutOrder(documents: Iterable<Doc>): Map<string, Json> {
	const out = new Map<string, Json>();
	for (const { path, value } of documents)
		if (path === PROJECT_FILE && isObject(value) && value.order !== undefined)
			out.set(path, put(value as JsonObject, 'order', undefined));
	return out;
}
