import { HeronError } from '#core/errors.ts';
import { mediaType } from '#core/model/reply.ts';
import type { Recorded } from '#core/stand-in/index.ts';
import { decodeText } from '#core/values/index.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import type { RunStore, StoredBody } from '#server/store/index.ts';
import type { HeaderList } from '#core/model/reply.ts';

/** So much of a run is made into answers. */
const MOST_CALLS = 2000;
const LARGEST_BODY = 1_000_000;

/** Answers for a stand-in, of a run that is named or of the HTTP Archive that is sent; nothing is written. */
export const POST = endpoint(async ({ params, request, url }) => {
	const { projects, ask, store } = await app();
	const project = await projects.open(params.project!);
	const origin = url.searchParams.get('origin') ?? '';
	const run = url.searchParams.get('run');
	if (run === null) return ask('recorded', project, '', { environment: '', har: await request.text(), origin });
	const stored = await store.runs.get(run);
	if (stored?.project !== project.name) throw new HeronError('request.notFound', { what: `the run ${run}` });
	return ask('recorded', project, '', { environment: '', calls: await callsOf(store.runs, run), origin });
});

async function callsOf(store: RunStore, run: string): Promise<Recorded[]> {
	const textOf = async (body: StoredBody | undefined, headers: HeaderList): Promise<string | undefined> => {
		if (!body || body.size === 0) return undefined;
		const bytes = body.size <= LARGEST_BODY ? await store.body(body.hash) : undefined;
		const { text, valid } = bytes ? decodeText(bytes, mediaType(headers).charset) : { text: '', valid: false };
		return valid ? text : undefined;
	};
	const calls: Recorded[] = [];
	for (const { exchanges } of await store.steps(run))
		for (const { method, url, requestHeaders, requestBody, reply, leg } of exchanges) {
			// what fetched a token was another service's
			if (!reply || leg || calls.length >= MOST_CALLS) continue;
			calls.push({
				...{ method, url, requestHeaders, status: reply.status, headers: reply.headers },
				requestBody: await textOf(requestBody, requestHeaders),
				body: await textOf(reply.body, reply.headers)
			});
		}
	return calls;
}
