import { HeronError } from '#core/errors.ts';
import type { MadeStep } from '#core/coverage/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import { eachStep, type RunStore, type StoredBody } from '#server/store/index.ts';

/** So many calls of a run are looked at, and bodies up to so many octets. */
const MOST_CALLS = 5000;
const LARGEST_BODY = 200_000;
const NOTHING = new Uint8Array();

/** What the steps touch of the definitions: by the files, or by the calls of a run that is named. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, ask, store } = await app();
	const project = await projects.open(params.project!);
	const environment = url.searchParams.get('environment') ?? '';
	const run = url.searchParams.get('run');
	if (!run) return ask('coverage', project, environment, { environment });
	const stored = await store.runs.get(run);
	if (stored?.project !== project.name) throw new HeronError('request.notFound', { what: `the run ${run}` });
	return ask('coverage', project, environment, { environment, made: await madeIn(store.runs, run) });
});

async function madeIn(store: RunStore, run: string): Promise<MadeStep[]> {
	const bytesOf = async (body: StoredBody | undefined): Promise<Uint8Array> =>
		body && body.size > 0 && body.size <= LARGEST_BODY ? ((await store.body(body.hash)) ?? NOTHING) : NOTHING;
	const out: MadeStep[] = [];
	let calls = 0;
	for await (const { scenario, step, exchanges } of eachStep(store, run)) {
		const own: MadeStep = { scenario, step, exchanges: [] };
		for (const { requestBody, reply, ...exchange } of exchanges) {
			if (++calls > MOST_CALLS) return out;
			const sent = await bytesOf(requestBody);
			// what was too large to be looked at was there all the same
			const had = sent.length > 0 || !requestBody || requestBody.size === 0 ? sent : new Uint8Array(1);
			own.exchanges.push({
				...exchange,
				requestBody: had,
				...(reply ? { reply: { ...reply, body: await bytesOf(reply.body) } } : {})
			} as MadeStep['exchanges'][number]);
		}
		out.push(own);
	}
	return out;
}
