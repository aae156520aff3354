import { HeronError } from '#core/errors.ts';
import { spreadOf } from '#core/stand-in/index.ts';
import { eachStep } from '#server/store/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** How long a run waited for its answers, as times that a fault can have: of the host that it called most, or of one that is named. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, store } = await app();
	const project = await projects.open(params.project!);
	const run = url.searchParams.get('run') ?? '';
	const stored = await store.runs.get(run);
	if (stored?.project !== project.name) throw new HeronError('request.notFound', { what: `the run ${run}` });
	const byOrigin = new Map<string, number[]>();
	for await (const { exchanges } of eachStep(store.runs, run))
		for (const { url: address, reply, leg, came } of exchanges) {
			if (!reply || leg || came || !URL.canParse(address)) continue;
			const { origin } = new URL(address);
			const times = byOrigin.get(origin);
			if (times) times.push(reply.phases.wait);
			else byOrigin.set(origin, [reply.phases.wait]);
		}
	const origins = [...byOrigin]
		.map(([origin, times]) => ({ origin, calls: times.length }))
		.sort((a, b) => b.calls - a.calls);
	const origin = url.searchParams.get('origin') || (origins[0]?.origin ?? '');
	return { number: stored.number, origin, origins, times: spreadOf(byOrigin.get(origin) ?? []) };
});
