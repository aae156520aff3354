import { HeronError } from '#core/errors.ts';
import { isDay } from '#core/model/shape.ts';
import { MAY, type May } from '#server/store/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint, readBody } from '$lib/server/respond.ts';
import * as yup from 'yup';

/** The tokens of a project: their facts, never what they are. */
export const GET = endpoint(async ({ params }) => {
	const { projects, store } = await app();
	const { name } = await projects.open(params.project!);
	return store.tokens.list(name);
});

const order = yup
	.object({
		name: yup.string().trim().min(1).max(100).required(),
		may: yup
			.string()
			.oneOf([...MAY])
			.required(),
		/** The last day on which it is good, in UTC. */
		until: yup.string().required()
	})
	.noUnknown();
const YEAR_MS = 366 * 86_400_000;

/** Makes a token; it is told in this answer and never again. */
export const POST = endpoint(async ({ params, request }) => {
	const { projects, store } = await app();
	const { name: project } = await projects.open(params.project!);
	const { name, may, until } = await readBody(request, order);
	if (!isDay(until)) throw new HeronError('token.day');
	const endsAt = Date.parse(`${until}T00:00:00Z`) + 86_400_000;
	if (endsAt <= Date.now()) throw new HeronError('token.past');
	if (endsAt > Date.now() + YEAR_MS) throw new HeronError('token.year');
	return store.tokens.make(project, { name: name!, may: may as May, endsAt });
});
