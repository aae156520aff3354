import { HeronError } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { setIn } from '#core/model/path.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const mend = yup
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

/** Applies the change that a reach check offered: files first, then values in documents. Gives what stood there before. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const name = params.project!;
	const { edits, files = [] } = await readBody(request, mend);
	for (const { path, text } of files) {
		const before = (await projects.open(name)).files.get(path);
		await projects.writeBytes(name, path, Buffer.from(text), before?.revision ?? 0);
	}
	const before: { file: string; value: Json }[] = [];
	for (const { file, path, value } of edits) {
		const project = await projects.open(name);
		const [stored, document] = [project.files.get(file), project.documents.get(file)];
		if (!stored || !document) throw new HeronError('file.missing', { file });
		if (!before.some((one) => one.file === file)) before.push({ file, value: document.value });
		await projects.writeValue(name, file, setIn(document.value, path, value as Json | undefined), stored.revision);
	}
	return { before };
});
