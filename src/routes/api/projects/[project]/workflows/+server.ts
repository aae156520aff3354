import { workflowFiles } from '#core/arazzo/index.ts';
import { HeronError } from '#core/errors.ts';
import { counted } from '#core/messages.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const order = yup
	.object({ targets: yup.array(yup.string().required().max(500)).required().min(1).max(20_000) })
	.noUnknown();

/** Scenarios as an Arazzo document with the definitions that it speaks of, and what has no equal there. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects } = await app();
	const { targets } = await readBody(request, order);
	const { name, workspace, documents, files } = await projects.open(params.project!);
	if (workspace.problems.length > 0)
		throw new HeronError(
			'project.invalid',
			{ count: counted(workspace.problems.length, 'problem') },
			{ problems: workspace.problems }
		);
	const made = workflowFiles(
		workspace,
		targets,
		(path) => documents.get(path)?.value,
		workspace.project.title || name,
		(path) => files.get(path)?.bytes
	);
	return {
		notes: made.notes,
		files: made.files.map(({ path, bytes }) => ({ path, base64: Buffer.from(bytes).toString('base64') }))
	};
});
