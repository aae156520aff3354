import { app } from '$lib/server/app.ts';
import { viewDocuments } from '$lib/server/documents.ts';
import { endpoint } from '$lib/server/respond.ts';

/** All documents of `?folder=F` at once, in the order of their names. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const open = await projects.open(params.project!);
	const within = `${url.searchParams.get('folder') ?? ''}/`;
	const paths = [...open.files.keys()].filter(
		(path) => path.startsWith(within) && path.endsWith('.yaml') && !path.includes('/', within.length)
	);
	return viewDocuments(open, paths.sort());
});
