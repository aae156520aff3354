import { HeronError } from '#core/errors.ts';
import { mediaType } from '#core/model/reply.ts';
import type { Recorded } from '#core/exchange/index.ts';
import { decodeText } from '#core/values/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import { eachStep, type RunStore, type StoredBody } from '#server/store/index.ts';
import type { HeaderList } from '#core/model/reply.ts';

/** So much of a run is made into answers. */
const MOST_CALLS = 2000;
const LARGEST_BODY = 1_000_000;

/**
 * Answers for a stand-in, of a run that is named, of one of its steps, or of the HTTP Archive that is sent; nothing is
 * written.
 */
export const POST = endpoint(async ({ params, request, url }) => {
	const { projects, ask, store } = await app();
	const project = await projects.open(params.project!);
	const given = (name: string) => url.searchParams.get(name) ?? '';
	const [environment, run] = [given('environment'), given('run')];
	const order = { environment, origin: given('origin'), base: given('base') };
	if (!run) return ask('recorded', project, environment, { ...order, har: await request.text() });
	const stored = await store.runs.get(run);
	if (stored?.project !== project.name) throw new HeronError('request.notFound', { what: `the run ${run}` });
	const calls = await callsOf(store.runs, run, given('scenario'), given('step'));
	return ask('recorded', project, environment, { ...order, calls });
});

/** Calls of a run; of one step only, when one is named. */
async function callsOf(store: RunStore, run: string, scenario: string, step: string): Promise<Recorded[]> {
	const textOf = async (body: StoredBody | undefined, headers: HeaderList): Promise<string | undefined> => {
		if (!body || body.size === 0) return undefined;
		const bytes = body.size <= LARGEST_BODY ? await store.body(body.hash) : undefined;
		const { text, valid } = bytes ? decodeText(bytes, mediaType(headers).charset) : { text: '', valid: false };
		return valid ? text : undefined;
	};
	const calls: Recorded[] = [];
	for await (const one of eachStep(store, run)) {
		if (step !== '' && (one.scenario !== scenario || one.step !== step)) continue;
		for (const { method, url, requestHeaders, requestBody, reply, leg, came } of one.exchanges) {
			// what fetched a token was another service's; what came was no call of ours
			if (!reply || leg || came || calls.length >= MOST_CALLS) continue;
			calls.push({
				...{ method, url, requestHeaders, status: reply.status, headers: reply.headers },
				requestBody: await textOf(requestBody, requestHeaders),
				body: await textOf(reply.body, reply.headers)
			});
		}
		if (calls.length >= MOST_CALLS) break;
	}
	return calls;
}
