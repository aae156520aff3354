import { messageOf } from '#core/messages.ts';
import { textOf } from '#core/errors.ts';
import { createWorkspace, loadDocument, type LoadedDocument, type Workspace } from '#core/project/index.ts';
import type { StoredFile } from '#server/store/index.ts';
import { setImmediate } from 'node:timers/promises';

/** A project as the server holds it: the stored files, and what they say. */
export interface OpenProject {
	name: string;
	files: Map<string, StoredFile>;
	documents: Map<string, LoadedDocument>;
	workspace: Workspace;
}

/** The longest that reading a project keeps others waiting, in milliseconds; one file goes beyond. */
export const HELD_MS = 25;

const together = (project: OpenProject, documents: LoadedDocument[]): Workspace =>
	createWorkspace(documents, new Set(project.files.keys()), (path) => project.files.get(path)?.bytes);
/** A file that the others cannot be put together with: it stays as it is, and says so. */
const broken = (document: LoadedDocument, error: unknown): LoadedDocument => ({
	...document,
	value: null,
	warnings: [],
	problems: [
		{
			code: 'file.broken',
			message: messageOf('file.broken', { detail: textOf(error) }),
			file: document.path,
			path: [],
			line: 1,
			column: 1
		}
	]
});
/**
 * Puts a project together of its documents; one that cannot go with the others says so, and stays out.
 * @param newest what was written last, and so is what is wrong when they do not go together any more
 */
export function assemble(project: OpenProject, newest?: string): OpenProject {
	try {
		project.workspace = together(project, [...project.documents.values()]);
		return project;
	} catch (error) {
		const suspects = newest && project.documents.has(newest) ? [newest] : [...project.documents.keys()];
		for (const path of suspects) {
			const document = project.documents.get(path)!;
			try {
				if (!newest) together(project, [document]);
				else throw error;
			} catch (cause) {
				project.documents.set(path, broken(document, cause));
			}
		}
		try {
			project.workspace = together(project, [...project.documents.values()]);
		} catch (cause) {
			const problem = {
				...{ code: 'project.broken' as const, file: 'heron.yaml', path: [], line: 1, column: 1 },
				message: messageOf('project.broken', { detail: textOf(cause) })
			};
			project.workspace = together(project, []);
			project.workspace.problems.push(problem);
		}
		return project;
	}
}
/** A project of its stored files. */
export async function assembled(name: string, stored: StoredFile[]): Promise<OpenProject> {
	const documents = new Map<string, LoadedDocument>();
	let began = performance.now();
	for (const { path, bytes } of stored) {
		const document = loadDocument(path, bytes.toString('utf8'));
		if (document) documents.set(path, document);
		if (performance.now() - began < HELD_MS) continue;
		// others are served between two files of a large project
		await setImmediate();
		began = performance.now();
	}
	const files = new Map(stored.map((file) => [file.path, file]));
	return assemble({ name, files, documents, workspace: undefined as never });
}
