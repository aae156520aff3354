import { app } from '$lib/server/app.ts';
import { shownRehearsal } from '$lib/server/rehearsal.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

const MOST = 300;
const order = yup
	.object({
		targets: yup.array(yup.string().required()).default([]),
		environment: yup.string().defined(),
		take: yup.string().default('')
	})
	.noUnknown();

/** What a run would send; nothing is sent. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, ask } = await app();
	const project = await projects.open(params.project!);
	const { targets, environment, take } = await readBody(request, order);
	const rows = take ? { take } : {};
	const answer = await ask('rehearse', project, environment, { targets: targets ?? [], environment, rows, most: MOST });
	return shownRehearsal(answer);
});
