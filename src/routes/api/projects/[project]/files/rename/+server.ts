import { HeronError } from '#core/errors.ts';
import { editYaml } from '#core/model/edit.ts';
import { same, type Json } from '#core/model/json.ts';
import { datasetFile } from '#core/model/rows.ts';
import { isUnreadable } from '#core/model/yaml.ts';
import { readSource, SOURCE_FILE, sourceOf } from '#core/soap/index.ts';
import type { LoadedDocument } from '#core/project/index.ts';
import { RENAMED_FOLDERS, withDatasetRenamed, withDocumentRenamed, type RenamedFolder } from '#core/refactor/index.ts';
import { ENVIRONMENT_NAME } from '#core/documents/environment.ts';
import { app } from '$lib/server/app.ts';
import type { FileChange } from '#server/store/index.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		/** `connections/reedmere.yaml` */
		path: yup.string().required().max(500),
		to: yup.string().required().max(200)
	})
	.noUnknown();

function assertName(folder: RenamedFolder, name: string): void {
	if (folder === 'environments') {
		if (!ENVIRONMENT_NAME.test(name)) throw new HeronError('name.environment', { name });
	} else if (!/^[a-z0-9][a-z0-9-]*$/.test(name)) throw new HeronError('name.document', { name });
}

const nameOf = (path: string): string => path.slice(path.indexOf('/') + 1).replace(/\.[^./]+$/, '');

interface Renaming {
	target: string;
	/** A document after it. */
	renamed(document: LoadedDocument): Json;
	/** Of a document; undefined for a dataset. */
	folder?: RenamedFolder;
}
/** What calling a document or dataset otherwise does. @throws HeronError request.notFound, name.* */
function renaming(path: string, to: string, files: string[]): Renaming {
	if (path.startsWith('datasets/')) {
		if (!DATASET_NAME.test(to)) throw new HeronError('name.file', { name: to });
		const target = `datasets/${to}${/\.[^./]+$/.exec(path)?.[0] ?? ''}`;
		const [from, next] = [path, target].map((one) => one.slice('datasets/'.length)) as [string, string];
		const isIt = (name: string) => {
			const found = datasetFile(name, files);
			return 'path' in found && found.path === path;
		};
		// where another one has the same name with another ending, the ending tells them apart
		const after = datasetFile(to, [...files.filter((one) => one !== path), target]);
		const bare = 'path' in after && after.path === target ? to : next;
		return { target, renamed: (document) => withDatasetRenamed(document, isIt, { from, to: next, bare }) };
	}
	const folder = RENAMED_FOLDERS.find((one) => path.startsWith(`${one}/`));
	const from = nameOf(path);
	if (!folder || !from) throw new HeronError('request.notFound', { what: path });
	assertName(folder, to);
	const renamed = (document: LoadedDocument) => withDocumentRenamed(document, folder, from, to);
	return { target: `${folder}/${to}.yaml`, renamed, folder };
}

/** What the file of a dataset may be called, before its ending. */
const DATASET_NAME = /^[\p{L}\p{N}_][\p{L}\p{N}_ .-]*$/u;

/** Calls a document or a dataset otherwise, and all that names it: all of it, or nothing. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store, standIns } = await app();
	const { path, to } = await readBody(request, order);
	const { name: project, documents, files } = await projects.open(params.project!);
	const file = files.get(path);
	if (!file) throw new HeronError('request.notFound', { what: path });
	const { target, renamed, folder } = renaming(path, to, [...files.keys()]);
	// names that differ by case alone are one file on some machines
	const like = [...files.keys()].find((one) => one.toLowerCase() === target.toLowerCase());
	if (like) throw new HeronError('file.exists', { path: like });
	const unread = [...documents.values()].find(({ problems }) => problems.some(isUnreadable));
	if (unread) throw new HeronError('file.unreadNames', { file: unread.path });
	const changes: FileChange[] = [{ path: target, bytes: file.bytes, base: 0 }];
	for (const document of documents.values()) {
		const value = renamed(document);
		if (same(value, document.value)) continue;
		const before = files.get(document.path)!;
		const bytes = Buffer.from(editYaml(before.bytes.toString('utf8'), value));
		if (document.path === path) changes[0]!.bytes = bytes;
		else changes.push({ path: document.path, bytes, base: before.revision });
	}
	const from = nameOf(path);
	if (folder === 'connections')
		for (const [at, { bytes, revision }] of files) {
			const source = at.endsWith(`/${SOURCE_FILE}`) ? readSource(bytes) : undefined;
			if (source?.connection !== from) continue;
			changes.push({ path: at, bytes: Buffer.from(sourceOf(source.address, to)), base: revision });
		}
	await projects.change(project, [...changes, { path, base: file.revision }]);
	if (folder === 'environments') {
		standIns.environmentRenamed(project, from, to);
		await store.renameEnvironment(project, from, to);
	}
	return { path: target, followed: changes.length - 1 };
});
