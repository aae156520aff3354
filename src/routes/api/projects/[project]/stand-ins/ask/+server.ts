import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import type { Json } from '#core/model/json.ts';
import type { HeaderList } from '#core/model/reply.ts';
import * as yup from 'yup';

const order = yup
	.object({
		name: yup.string().required().max(200),
		value: yup.mixed<NonNullable<Json>>().required(),
		environment: yup.string().default('').max(200),
		/** A call of its own, in place of an answer. */
		call: yup.string().default('').max(200),
		request: yup
			.object({
				method: yup.string().required().max(40),
				target: yup.string().required().max(10_000),
				headers: yup.array(yup.mixed<HeaderList[number]>().required()).default([]),
				body: yup.string().defined().default('').max(20_000_000)
			})
			.required()
	})
	.noUnknown();

/** What a stand-in as it stands on the screen would answer; nothing goes over the network, and nothing is remembered. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, standIns, ask } = await app();
	const { name, value, environment = '', call = '', request: given } = await readBody(request, order);
	const project = await projects.open(params.project!);
	const { running } = standIns.now(project.name, name);
	const remembered = running && (await standIns.remembered(running));
	return ask('askStandIn', project, environment, {
		...{ name, value, environment, call },
		request: { method: given.method, target: given.target, headers: given.headers ?? [], body: given.body ?? '' },
		...(remembered ? { remembered } : {})
	});
});
