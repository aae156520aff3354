import type { Collection } from '../documents/collection.ts';
import type { Problem } from '../errors.ts';
import { lintTypes } from '../lint/index.ts';
import { documentWarnings } from '../openapi/index.ts';
import type { LoadedDocument } from './document.ts';
import { idOf } from './ids.ts';
import { knownTypes } from './operations.ts';
import type { Workspace } from './shape.ts';

/** So many warnings of one definition are told. */
const MOST_SHOWN = 20;

const typed = new WeakMap<Collection, { state: string; warnings: Problem[] }>();

/**
 * What only the OpenAPI documents of a project tell: what is wrong in them, and expressions whose type is not that of the
 * value they stand for.
 * @param state which definitions there are, in short
 */
export function definitionWarnings(workspace: Workspace, documents: LoadedDocument[], state: string): Problem[] {
	const broken = workspace.openapis.all().flatMap(({ file, definition, error }): Problem[] => {
		if (error) {
			const message = `it cannot be read: ${error.values.detail ?? error.message}`;
			return [{ code: error.code, message, file, path: [] }];
		}
		const found = definition ? documentWarnings(definition.document) : [];
		const rest = found.length - MOST_SHOWN;
		const more = rest > 0 ? [{ file, pointer: '', message: `${rest} more of this kind` }] : [];
		return [...found.slice(0, MOST_SHOWN), ...more].map((one) => ({
			code: 'definition.wrong',
			message: one.pointer ? `${one.message} (#${one.pointer})` : one.message,
			file: one.file,
			path: []
		}));
	});
	if (workspace.openapis.files().length === 0) return broken;
	// the addresses of calls come from connections and variables
	const { project, connections, environments } = workspace;
	const bases = [project, ...connections.values(), ...environments.values()].map(idOf).join(',');
	const mismatches = documents.flatMap((document) =>
		document.kind.name === 'collection' ? typeWarnings(workspace, document, `${state} ${bases}`) : []
	);
	return [...broken, ...mismatches];
}

/** Kept as long as a collection and what its calls are held against are the same. */
function typeWarnings(workspace: Workspace, { name, path, value, placeOf }: LoadedDocument, around: string): Problem[] {
	const collection = workspace.collections.get(name)!;
	const state = `${around} ${idOf(placeOf)}`;
	const kept = typed.get(collection);
	if (kept?.state === state) return kept.warnings;
	const warnings = lintTypes(path, value, (index) => knownTypes(workspace, name, index)).map((found) => ({
		...found,
		...placeOf(found.path)
	}));
	typed.set(collection, { state, warnings });
	return warnings;
}
