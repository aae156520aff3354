import { HeronError } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { setIn } from '#core/model/path.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const fix = yup
	.object({
		edits: yup
			.array(
				yup
					.object({
						file: yup.string().required(),
						path: yup.array().of(yup.mixed<string | number>().required()).required(),
						value: yup.mixed()
					})
					.noUnknown()
			)
			.required(),
		files: yup.array(yup.object({ path: yup.string().required(), text: yup.string().required() }).noUnknown())
	})
	.noUnknown();

/** Applies the change that a reach check offered: files first, then values in documents. Gives what is needed to take it back. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const name = params.project!;
	const { edits, files = [] } = await readBody(request, fix);
	const stored = async (path: string) => (await projects.open(name)).files.get(path);
	const added: { file: string; revision: number }[] = [];
	for (const { path, text } of files) {
		const before = await stored(path);
		await projects.writeBytes(name, path, Buffer.from(text), before?.revision ?? 0);
		if (!before) added.push({ file: path, revision: (await stored(path))!.revision });
	}
	const before = new Map<string, string>();
	for (const { file, path, value } of edits) {
		const document = (await projects.open(name)).documents.get(file);
		const found = await stored(file);
		if (!found || !document) throw new HeronError('file.missing', { file });
		if (!before.has(file)) before.set(file, Buffer.from(found.bytes).toString('utf8'));
		await projects.writeValue(name, file, setIn(document.value, path, value as Json | undefined), found.revision);
	}
	const changed = await Promise.all(
		[...before].map(async ([file, text]) => ({ file, text, revision: (await stored(file))!.revision }))
	);
	return { changed, added };
});
