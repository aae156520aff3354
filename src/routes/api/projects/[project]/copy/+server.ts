import { isObject } from '#core/model/json.ts';
import { setIn } from '#core/model/path.ts';
import { projectName } from '#core/begin/index.ts';
import { editYaml } from '#core/model/edit.ts';
import { LOCAL_FILE } from '#core/documents/local.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup.object({ title: yup.string().trim().required().max(200) }).noUnknown();

/** A copy of a project's files under another title; runs and secrets stay where they are. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { title } = await readBody(request, order);
	const { files, documents } = await projects.open(params.project!);
	const value = documents.get('heron.yaml')?.value;
	const copied = [...files.values()]
		.filter(({ path }) => path !== LOCAL_FILE)
		.map(({ path, bytes }) => ({
			path,
			bytes:
				path === 'heron.yaml' && isObject(value)
					? Buffer.from(editYaml(bytes.toString('utf8'), setIn(value, ['title'], title)))
					: bytes
		}));
	return { name: await projects.begin(projectName(title), copied) };
});
