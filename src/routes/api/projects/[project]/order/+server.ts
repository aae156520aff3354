import { HeronError } from '#core/errors.ts';
import { folderOf } from '#core/documents/collection.ts';
import { editYaml } from '#core/model/edit.ts';
import { withCollectionPlaced, withoutOrder } from '#core/refactor/index.ts';
import { app } from '$lib/server/app.ts';
import { writtenBy } from '$lib/server/projects.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({
		/** The collection that is put elsewhere; without it all are in the order of their names again. */
		collection: yup.string(),
		/** The one that it comes before; at the end without it. */
		before: yup.string(),
		folder: yup.string().trim().default('').max(400)
	})
	.noUnknown();

/** Puts a collection elsewhere in the list. Says what was written. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { collection, before, folder = '' } = await readBody(request, order);
	const { name, documents, files, workspace } = await projects.open(params.project!);
	for (const one of [collection, before])
		if (one !== undefined && !workspace.collections.has(one))
			throw new HeronError('request.notFound', { what: `the collection ${one}` });
	const placement = { ...(before === undefined ? {} : { before }), folder: folderOf(folder).join('/') };
	const changed =
		collection === undefined
			? withoutOrder(documents.values())
			: withCollectionPlaced(documents.values(), [...workspace.collections.keys()], collection, placement);
	const changes = [...changed].map(([path, value]) => {
		const { bytes, revision } = files.get(path)!;
		return { path, bytes: Buffer.from(editYaml(bytes.toString('utf8'), value)), base: revision };
	});
	return { written: await writtenBy(projects, name, changes) };
});
