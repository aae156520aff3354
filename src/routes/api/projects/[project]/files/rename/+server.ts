import { HeronError } from '#core/errors.ts';
import { editYaml } from '#core/model/edit.ts';
import { same } from '#core/model/json.ts';
import { isUnreadable } from '#core/model/yaml.ts';
import { readSource, SOURCE_FILE, sourceOf } from '#core/soap/index.ts';
import { RENAMED_FOLDERS, withDocumentRenamed, type RenamedFolder } from '#core/refactor/index.ts';
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

/** Calls a document otherwise, and all that names it: all of it, or nothing. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store, standIns } = await app();
	const { path, to } = await readBody(request, order);
	const { name: project, documents, files } = await projects.open(params.project!);
	const folder = RENAMED_FOLDERS.find((one) => path.startsWith(`${one}/`));
	const from = folder && path.slice(folder.length + 1).replace(/\.yaml$/, '');
	const file = files.get(path);
	if (!folder || !from || !file) throw new HeronError('request.notFound', { what: path });
	assertName(folder, to);
	const target = `${folder}/${to}.yaml`;
	// names that differ by case alone are one file on some machines
	const like = [...files.keys()].find((one) => one.toLowerCase() === target.toLowerCase());
	if (like) throw new HeronError('file.exists', { path: like });
	const unread = [...documents.values()].find(({ problems }) => problems.some(isUnreadable));
	if (unread) throw new HeronError('file.unreadNames', { file: unread.path });
	const changes: FileChange[] = [];
	for (const document of documents.values()) {
		const value = withDocumentRenamed(document, folder, from, to);
		const own = document.path === path;
		if (!own && same(value, document.value)) continue;
		const before = files.get(document.path)!;
		const text = before.bytes.toString('utf8');
		const bytes = same(value, document.value) ? before.bytes : Buffer.from(editYaml(text, value));
		changes.push({ path: own ? target : document.path, bytes, base: own ? 0 : before.revision });
	}
	if (!changes.some((one) => one.path === target)) throw new HeronError('request.notFound', { what: path });
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
