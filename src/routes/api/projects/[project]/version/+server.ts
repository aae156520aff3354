import { documentDifferences } from '#core/diff/index.ts';
import { HeronError } from '#core/errors.ts';
import { isProjectFile, loadDocument } from '#core/project/index.ts';
import { committed, versionOf } from '#server/folder/version.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { ProjectVersion } from '$lib/wire.ts';
import * as yup from 'yup';

/** So many files are looked into. */
const MOST_FILES = 200;

/** Where the project's folder stands in version control, and what differs from the commit; nothing where it is in none. */
export const GET = endpoint(async ({ params }): Promise<ProjectVersion | Record<string, never>> => {
	const { projects } = await app();
	const { dir, trouble } = await projects.folder(params.project!);
	const state = dir && !trouble ? await versionOf(dir) : undefined;
	if (!state) return {};
	const { documents } = await projects.open(params.project!);
	const own = [...state.changed].filter(([path]) => isProjectFile(path)).sort(([a], [b]) => (a < b ? -1 : 1));
	const changed = await Promise.all(
		own.slice(0, MOST_FILES).map(async ([path, change]): Promise<ProjectVersion['changed'][number]> => {
			const now = documents.get(path)?.value;
			const old = change === 'changed' && now !== undefined ? await committed(dir, path) : undefined;
			const before = old && loadDocument(path, old.toString('utf8'))?.value;
			return {
				path,
				change,
				differences: before !== undefined && before !== null && now !== null ? documentDifferences(before, now!) : []
			};
		})
	);
	return { branch: state.branch, commit: state.commit, underWay: state.underWay, count: own.length, changed };
});

const order = yup.object({ path: yup.string().required() }).noUnknown();

/** Puts a file back to what it is in the commit. Gives what it was, so that this can be taken back. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { path } = await readBody(request, order);
	const name = params.project!;
	const { dir } = await projects.folder(name);
	const old = dir ? await committed(dir, path) : undefined;
	const { files } = await projects.open(name);
	const now = files.get(path);
	if (!old && !now) throw new HeronError('request.notFound', { what: path });
	if (old) {
		const { revision } = await projects.writeBytes(name, path, old, now?.revision ?? 0);
		return { text: now?.bytes.toString('utf8') ?? null, revision };
	}
	await projects.remove(name, path, now!.revision);
	return { text: now!.bytes.toString('utf8'), revision: 0 };
});
