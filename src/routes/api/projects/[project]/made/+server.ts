import { formOfTable, TABLE_FORMS, writeTable } from '#core/datasets/index.ts';
import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { randomInt, randomUUID } from 'node:crypto';
import * as yup from 'yup';

const order = yup
	.object({
		columns: yup
			.array(yup.object({ name: yup.string().defined(), value: yup.string().defined() }).noUnknown())
			.required()
			.max(5000),
		count: yup.number().integer().min(0).max(1_000_000).required(),
		seed: yup.number().integer().min(0),
		environment: yup.string().default(''),
		/** None: the rows are only shown. */
		file: yup.string()
	})
	.noUnknown();

/** Makes up rows: as a dataset of the project when a file is named, else to be looked at. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask, host } = await app();
	const { columns, count, seed = randomInt(1, 2 ** 31), environment = '', file } = await readBody(request, order);
	const project = await projects.open(params.project!);
	const path = `datasets/${file}`;
	const form = file === undefined ? 'json' : formOfTable(file);
	if (!form || (file !== undefined && !/^[\w][\w .-]*$/.test(file)))
		throw new HeronError('name.dataset', { name: file ?? '', endings: TABLE_FORMS.map((one) => `.${one}`).join(', ') });
	if (project.files.has(path)) throw new HeronError('file.exists', { path });
	const id = randomUUID();
	// who goes away wants it no more
	request.signal.addEventListener('abort', () => host.cancel(id), { once: true });
	const rows = await ask('make', project, environment, { columns, count, seed, environment }, { id });
	if (file === undefined) return { rows, seed };
	const titles = columns.map(({ name }) => name.trim());
	await projects.writeBytes(project.name, path, Buffer.from(writeTable(form, titles, rows)), 0);
	return { path, count: rows.length, seed };
});
