import { HeronError, type Problem } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import type { OpenProject } from './projects.ts';

/** A file as pages edit it. */
interface DocumentView {
	path: string;
	revision: number;
	/** What it holds; null where it is no document, or cannot be read. */
	value: Json;
	/** Bytes. */
	size: number;
	problems: (Problem & { warning?: boolean })[];
}

/**
 * Files as pages edit them, in the order of the paths.
 * @throws `request.notFound` where one is not there
 */
export function viewDocuments({ files, documents, workspace }: OpenProject, paths: readonly string[]): DocumentView[] {
	const problems = new Map<string, DocumentView['problems']>(paths.map((path) => [path, []]));
	for (const problem of workspace.problems) problems.get(problem.file)?.push(problem);
	for (const warning of [...workspace.warnings, ...workspace.definitionWarnings()])
		problems.get(warning.file)?.push({ ...warning, warning: true });
	return paths.map((path) => {
		const file = files.get(path);
		if (!file) throw new HeronError('request.notFound', { what: path });
		return {
			path,
			revision: file.revision,
			value: documents.get(path)?.value ?? null,
			size: file.bytes.length,
			problems: problems.get(path)!
		};
	});
}
