import { HeronError } from '#core/errors.ts';
import { isProjectFile } from '#core/project/index.ts';
import { commitFiles, committed, committedIn, versionOf } from '#server/folder/version.ts';
import { app } from '$lib/server/app.ts';
import { differencesOf, textsOf } from '$lib/server/history.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { ProjectVersion, VersionTexts } from '$lib/wire.ts';
import * as yup from 'yup';

/** Where the project's folder stands in version control, and what differs from the commit; nothing where it is in none. */
export const GET = endpoint(async ({ params, url }): Promise<ProjectVersion | VersionTexts | Record<string, never>> => {
	const { projects } = await app();
	const { dir, trouble } = await projects.folder(params.project!);
	const path = url.searchParams.get('path');
	if (path !== null) return textsNow(params.project!, dir, path);
	const state = dir && !trouble ? await versionOf(dir) : undefined;
	if (!state) return {};
	const { files } = await projects.open(params.project!);
	const own = [...state.changed].filter(([path]) => isProjectFile(path)).sort(([a], [b]) => (a < b ? -1 : 1));
	const conflicts = new Set(own.filter(([, change]) => change === 'conflict').map(([path]) => path));
	const found = await differencesOf(
		own.map(([path]) => path),
		async (path, side) => {
			if (side === 'after') return conflicts.has(path) ? undefined : files.get(path)?.bytes;
			return state.changed.get(path) === 'new' ? undefined : committedIn(dir, state.commit, path);
		}
	);
	// what version control says of a file holds
	const changed = found.map((one) => ({ ...one, change: state.changed.get(one.path) ?? one.change }));
	return { branch: state.branch, commit: state.commit, unfinished: state.unfinished, count: own.length, changed };
});

/** A file as it was committed, and as it is. */
async function textsNow(project: string, dir: string, path: string): Promise<VersionTexts> {
	const { projects } = await app();
	const now = (await projects.open(project)).files.get(path)?.bytes;
	const before = dir && isProjectFile(path) ? await committed(dir, path) : undefined;
	return textsOf(path, before, now);
}

const order = yup
	.object({
		path: yup.string(),
		commit: yup
			.object({
				message: yup.string().trim().required('a message is wanted').max(10_000),
				paths: yup.array(yup.string().required()).min(1).max(20_000).required()
			})
			.default(undefined)
	})
	.noUnknown();

/**
 * Puts a file back to what it is in the commit, and gives what it was, so that this can be taken back; or commits some files
 * as they stand.
 */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { path = '', commit } = await readBody(request, order);
	const name = params.project!;
	const { dir } = await projects.folder(name);
	if (commit) {
		if (!dir) throw new HeronError('version.none');
		const foreign = commit.paths.find((one) => !isProjectFile(one));
		if (foreign !== undefined) throw new HeronError('version.foreign', { path: foreign });
		await commitFiles(dir, commit.paths, commit.message);
		return {};
	}
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
