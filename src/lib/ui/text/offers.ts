import type { JsonObject } from '#core/model/json.ts';
import { kindOfFile, schemaOfKind } from '#core/documents/kinds.ts';
import { offersAt } from '#core/text/index.ts';
import type { Completion, CompletionContext, CompletionResult } from '@codemirror/autocomplete';
import type { ProjectState } from '../shell/project.svelte.ts';

const withoutEnding = (path: string, folder: string): string => path.slice(folder.length + 1).replace(/\.[^.]+$/, '');

/** Names of a project that the value at a path may be. */
function namesFor(
	{ overview, collections }: Pick<ProjectState, 'overview' | 'collections'>,
	path: readonly (string | number)[]
): string[] {
	const key = path.findLast((part) => typeof part === 'string');
	const files = (folder: string) => overview.files.filter((file) => file.startsWith(`${folder}/`));
	switch (key) {
		case 'connection':
			return overview.connections.map(({ name }) => name);
		case 'credential':
			return [...overview.credentials.map(({ name }) => name), 'none'];
		case 'environment':
			return overview.environments.map(({ name }) => name);
		case 'data':
		case 'rows':
			return files('datasets').map((file) => withoutEnding(file, 'datasets'));
		case 'definition':
			return files('definitions').map((file) => file.slice('definitions/'.length));
		case 'schema':
			return files('schemas').map((file) => file.slice('schemas/'.length));
		case 'call':
		case 'scenario':
			return collections.flatMap(({ name, scenarios }) => scenarios.map(({ id }) => `${name}/${id}`));
		case 'scenarios':
			return collections.flatMap(({ name, scenarios }) => [name, ...scenarios.map(({ id }) => `${name}/${id}`)]);
		default:
			return [];
	}
}

/** Beside an offer: what it is for. */
const info = (doc: string) => () => {
	const dom = document.createElement('div');
	dom.className = 'max-w-80 px-1 text-[13px]';
	dom.append(doc);
	return dom;
};

/** Completes keys, words and names by the schema of the file; nothing where the file has none. */
export function completeFile(path: string, project: () => ProjectState) {
	const kind = kindOfFile(path)?.kind;
	const schema = kind && (schemaOfKind(kind) as JsonObject);
	return (context: CompletionContext): CompletionResult | null => {
		if (!schema) return null;
		const found = offersAt(schema, context.state.doc.toString(), context.pos, (at) =>
			// which scenarios a collection holds is its own business
			kind.name === 'collection' && at.at(-1) === 'scenarios' ? [] : namesFor(project(), at)
		);
		if (!found || found.offers.length === 0) return null;
		if (!context.explicit && found.from === context.pos && !/[:\-,{[] $/.test(context.state.sliceDoc(0, context.pos)))
			return null;
		return {
			from: found.from,
			validFor: /^[\w$./-]*$/,
			options: found.offers.map(({ label, detail, doc, text }): Completion => ({
				label,
				detail,
				apply: text,
				...(doc ? { info: info(doc) } : {})
			}))
		};
	};
}
