import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import type { StartedRun } from '$lib/wire.ts';
import { json } from '@sveltejs/kit';

const placeOf = (project: string, suite: string, run: string) =>
	`/api/projects/${project}/start/${encodeURIComponent(suite)}?run=${run}`;

async function answerOf(project: string, suite: string, run: string): Promise<StartedRun> {
	const { starting, store } = await app();
	const at = { run, at: placeOf(project, suite, run), page: `/${project}/runs/${run}` };
	const found = await store.runs.get(run);
	if (found?.project === project && found.info.suite === suite) {
		const { status, number, gate, summary } = found;
		if (status === 'running') return { ...at, state: 'running', number };
		return {
			...{ ...at, state: 'ended', number, status, counts: summary },
			held: status === 'done' && (gate?.holds ?? summary.failed + summary.errors === 0),
			failing: gate?.sentences.filter(({ holds }) => !holds).map(({ text }) => text) ?? []
		};
	}
	const known = starting.stateOf(run);
	if (!known) throw new HeronError('request.notFound', { what: `the run ${run} of the suite "${suite}"` });
	if (known.state === 'refused') return { ...at, state: 'refused', why: known.why };
	return known.state === 'waiting' ? { ...at, state: 'waiting', place: known.place } : { ...at, state: 'running' };
}

/** What became of a suite that was started here: `?run=` is its run. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects } = await app();
	const { name } = await projects.open(params.project!);
	return answerOf(name, params.suite!, url.searchParams.get('run') ?? '');
});

/** Starts a suite, and says where it will be told what became of it (RFC 9110 section 15.3.3). */
export const POST = endpoint(async ({ params }) => {
	const { projects, starting } = await app();
	const { name } = await projects.open(params.project!);
	const run = await starting.start(name, params.suite!, 'a hook');
	const answer = await answerOf(name, params.suite!, run);
	return json(answer, { status: 202, headers: { location: answer.at } });
});
