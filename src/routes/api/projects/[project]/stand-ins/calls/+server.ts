import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** What stand-ins of a project were asked, and answered: of one, or of all; with a value, those in which it stands. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, standIns } = await app();
	const { name } = await projects.open(params.project!);
	const at = (key: string) => url.searchParams.get(key) ?? undefined;
	return standIns.calls(name, {
		...{ method: at('method'), path: at('path'), by: at('by'), value: at('value') },
		...(at('name') ? { name: at('name')! } : {}),
		after: Number(at('after') ?? 0) || 0,
		most: Math.min(Number(at('most') ?? 500) || 500, 2000)
	});
});
