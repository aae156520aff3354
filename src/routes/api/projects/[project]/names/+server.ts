import { ID } from '#core/documents/collection.ts';
import { isObject, same, type Json } from '#core/model/json.ts';
import { getIn, type Path } from '#core/model/path.ts';
import type { LoadedDocument } from '#core/project/index.ts';
import { datasetFile } from '#core/model/rows.ts';
import { HeronError } from '#core/errors.ts';
import {
	countUses,
	renamedDocument,
	usesOfColumn,
	usesOfName,
	withColumnRenamed,
	withScenarioRenamed,
	type NameUse,
	type Root
} from '#core/refactor/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const NAME = /^[A-Za-z_]\w*$/;
const rootOf = (text: string): Root => {
	if (text !== 'env' && text !== 'secret') throw new HeronError('request.of');
	return text;
};

/** Whether what `rows:` or `each:` names is a file of a dataset. */
const isDataset = (files: ReadonlyMap<string, unknown>, file: string) => (name: string) => {
	const found = datasetFile(name, [...files.keys()]);
	return 'path' in found && found.path === `datasets/${file}`;
};

/** The scenario and the step that a use stands in, by their ids. */
function placeOf({ path }: NameUse, value: Json | undefined): { scenario?: string; step?: string } {
	const id = (at: Path): string | undefined => {
		const found = path[0] === 'scenarios' && value !== undefined ? getIn(value, at) : undefined;
		return isObject(found) && typeof found.id === 'string' ? found.id : undefined;
	};
	const scenario = id(path.slice(0, 2));
	const step = path[2] === 'steps' ? id(path.slice(0, 4)) : undefined;
	return { ...(scenario ? { scenario } : {}), ...(scenario && step ? { step } : {}) };
}

/** How often each name is used; with `?root=env&name=x` where that one is; with `?dataset=FILE&name=x` where a column is. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const { documents, files } = await projects.open(params.project!);
	const name = url.searchParams.get('name');
	if (name === null) return Object.fromEntries(countUses(documents.values()));
	const dataset = url.searchParams.get('dataset');
	const uses =
		dataset !== null
			? usesOfColumn(documents.values(), isDataset(files, dataset), name, url.searchParams.get('title') ?? name)
			: usesOfName(documents.values(), rootOf(url.searchParams.get('root') ?? ''), name);
	return uses.map((use) => ({ ...use, ...placeOf(use, documents.get(use.file)?.value) }));
});

const order = yup
	.object({
		root: yup.string(),
		from: yup.string().required(),
		to: yup.string().required(),
		/** A column of this dataset: `from` and `to` are its titles, the names those that expressions call it. */
		dataset: yup.string(),
		/** A scenario of this collection, by its id. */
		collection: yup.string(),
		fromName: yup.string(),
		toName: yup.string()
	})
	.noUnknown();

/** Renames a variable, a secret, a column of a dataset or a scenario wherever it is used and defined. Gives the texts before. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store } = await app();
	const {
		root: given = '',
		from,
		to,
		dataset,
		collection,
		fromName = from,
		toName = to
	} = await readBody(request, order);
	const { name: project, documents, files, workspace } = await projects.open(params.project!);
	const write = async (rename: (document: LoadedDocument) => Json) => {
		const changed: { file: string; text: string; revision: number }[] = [];
		for (const document of [...documents.values()]) {
			const value = rename(document);
			if (same(document.value, value)) continue;
			const before = files.get(document.path)!;
			const after = await projects.writeValue(project, document.path, value, before.revision);
			const text = Buffer.from(before.bytes).toString('utf8');
			changed.push({ file: document.path, text, revision: after.revision });
		}
		return changed;
	};
	if (dataset !== undefined) {
		const isIt = isDataset(files, dataset);
		const [old, fresh] = [
			{ name: fromName, title: from },
			{ name: toName, title: to }
		];
		return { changed: await write((document) => withColumnRenamed(document, isIt, old, fresh)) };
	}
	if (collection !== undefined) {
		if (!ID.test(to)) throw new HeronError('name.id', { name: to });
		const scenarios = workspace.collections.get(collection)?.scenarios ?? [];
		if (!scenarios.some(({ id }) => id === from))
			throw new HeronError('request.notFound', { what: `the scenario ${collection}/${from}` });
		if (scenarios.some(({ id }) => id === to)) throw new HeronError('name.taken', { name: to });
		return { changed: await write((document) => withScenarioRenamed(document, collection, from, to)) };
	}
	const root = rootOf(given);
	if (!NAME.test(to)) throw new HeronError('name.variable', { name: to });
	if (usesOfName(documents.values(), root, to).some(({ defines }) => defines))
		throw new HeronError('name.taken', { name: to });
	const kept = (await store.vault.list(project, 'secret')).filter((one) => one.name === from);
	if (root === 'secret' && kept.some((one) => !one.readable)) throw new HeronError('vault.key', { count: '1 secret' });
	const changed = await write((document) => renamedDocument(document, root, from, to));
	if (root === 'secret')
		for (const { environment } of kept) {
			const value = (await store.vault.read(project, 'secret', environment))[from]!;
			await store.vault.write(project, 'secret', environment, to, value);
			await store.vault.remove(project, 'secret', environment, from);
		}
	return { changed };
});
