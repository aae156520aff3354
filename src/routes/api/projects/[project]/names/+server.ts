import { HeronError } from '#core/errors.ts';
import { countUses, renamedDocument, usesOfName, type Root } from '#core/refactor/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const NAME = /^[A-Za-z_]\w*$/;
const rootOf = (text: string): Root => {
	if (text !== 'env' && text !== 'secret') throw new HeronError('request.wrong', { detail: 'env or secret is wanted' });
	return text;
};

/** How often each name is used; with `?root=env&name=x` where that one is. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const { documents } = await projects.open(params.project!);
	const name = url.searchParams.get('name');
	if (name === null) return Object.fromEntries(countUses(documents.values()));
	return usesOfName(documents.values(), rootOf(url.searchParams.get('root') ?? ''), name);
});

const order = yup
	.object({ root: yup.string().required(), from: yup.string().required(), to: yup.string().required() })
	.noUnknown();

/** Renames a variable or secret wherever it is used and defined. Gives the texts before, so that it can be taken back. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store } = await app();
	const { root: given, from, to } = await readBody(request, order);
	const root = rootOf(given);
	if (!NAME.test(to))
		throw new HeronError('request.wrong', { detail: `"${to}" cannot be a name: letters, digits and _ can` });
	const { name: project, documents, files } = await projects.open(params.project!);
	if (usesOfName(documents.values(), root, to).some(({ defines }) => defines))
		throw new HeronError('request.wrong', { detail: `there is ${to} already: two would become one` });
	const kept = (await store.vault.list(project, 'secret')).filter((one) => one.name === from);
	if (root === 'secret' && kept.some((one) => !one.readable)) throw new HeronError('vault.key', { count: '1 secret' });
	const changes = [...documents.values()]
		.map((document) => ({ document, value: renamedDocument(document, root, from, to) }))
		.filter(({ document, value }) => JSON.stringify(document.value) !== JSON.stringify(value));
	const changed: { file: string; text: string; revision: number }[] = [];
	for (const { document, value } of changes) {
		const before = files.get(document.path)!;
		const text = Buffer.from(before.bytes).toString('utf8');
		const after = await projects.writeValue(project, document.path, value, before.revision);
		changed.push({ file: document.path, text, revision: after.revision });
	}
	if (root === 'secret')
		for (const { environment } of kept) {
			const value = (await store.vault.read(project, 'secret', environment))[from]!;
			await store.vault.write(project, 'secret', environment, to, value);
			await store.vault.remove(project, 'secret', environment, from);
		}
	return { changed };
});
