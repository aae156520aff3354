import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import { HeronError } from '#core/errors.ts';
import type { JsonObject } from '#core/model/json.ts';
import { webhooksFor } from '#core/project/index.ts';
import * as yup from 'yup';

/** The stand-ins of a project: what their files say, and whether they run. */
export const GET = endpoint(async ({ params }) => {
	const { projects, standIns } = await app();
	const { name, workspace } = await projects.open(params.project!);
	return [...workspace.standIns.values()].map((one) => ({
		name: one.name,
		title: one.title,
		answers: new Set(one.answers.map(({ entry }) => entry)).size,
		standsInFor: [...workspace.environments.values()].flatMap((environment) =>
			Object.entries(environment.standIns)
				.filter(([, by]) => by === one.name)
				.map(([connection]) => ({ environment: environment.name, connection }))
		),
		webhooks: webhooksFor(workspace, one),
		problems: workspace.problems.filter(({ file }) => file === `stand-ins/${one.name}.yaml`).length,
		...standIns.now(name, one.name)
	}));
});

/** As long as whoever is called may take. */
const SENT_WITHIN_MS = 60_000;

const order = yup
	.object({
		name: yup.string().required().max(200),
		action: yup.string().oneOf(['start', 'stop', 'reset', 'faults', 'clear', 'send']).required(),
		environment: yup.string().default('').max(200),
		/** A call of its own. */
		call: yup.string().default('').max(200),
		faults: yup.array(yup.mixed<string | JsonObject>().required()).max(50)
	})
	.noUnknown();

/** Starts or stops one, brings it back to what it held at first, switches its faults, or lets a call of its own go out. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, standIns } = await app();
	const { name, action, environment = '', call = '', faults = [] } = await readBody(request, order);
	const project = await projects.open(params.project!);
	if (action === 'start') return standIns.start(project, name, environment);
	if (action === 'stop') {
		await standIns.stop(project.name, name);
		return {};
	}
	const { running } = standIns.now(project.name, name);
	if (!running) throw new HeronError('standIn.stopped', { name });
	if (action === 'clear') {
		standIns.clear(project.name, name);
		await standIns.control(running, 'DELETE', '/.stand-in/calls');
	} else if (action === 'send')
		await standIns.control(running, 'POST', `/.stand-in/send/${encodeURIComponent(call)}`, undefined, SENT_WITHIN_MS);
	else if (action === 'reset') await standIns.control(running, 'POST', '/.stand-in/reset');
	else await standIns.control(running, 'PUT', '/.stand-in/faults', faults);
	return {};
});
