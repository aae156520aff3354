import { compareRuns, timesByStep, type Side } from '#core/compare/index.ts';
import { HeronError } from '#core/errors.ts';
import { mediaType } from '#core/model/reply.ts';
import { faultsOf } from '#core/reports/index.ts';
import { decodeText } from '#core/values/index.ts';
import type { Store, StoredRun, StoredStep } from '#server/store/index.ts';
import type { ComparedRuns } from '$lib/wire.ts';

/** Longer runs would not fit into memory side by side. */
const MOST_RESULTS = 100_000;
/** Longer bodies are told apart as a whole. */
const MOST_BODY = 1_000_000;
const REMEMBERED = 20;
/** Runs that are offered to be compared with. */
const OFFERED = 30;

function sideOf(store: Store, step: StoredStep, sent: string): Side {
	const reply = step.exchanges.at(-1)?.reply;
	const { body } = reply ?? {};
	return {
		result: step,
		faults: faultsOf(step),
		sent,
		...(reply ? { reply: { status: reply.status, headers: reply.headers, bodyHash: body?.hash ?? '' } } : {}),
		async body() {
			if (!reply || !body) return '';
			if (body.size > MOST_BODY) return undefined;
			const bytes = await store.runs.body(body.hash);
			const { text, valid } = bytes ? decodeText(bytes, mediaType(reply.headers).charset) : { text: '', valid: false };
			return valid ? text : undefined;
		}
	};
}

/** Of what a scenario sends so much is looked at. */
const MOST_SENT = 200_000;

async function sidesOf(store: Store, steps: StoredStep[]): Promise<Side[]> {
	const sent = new Map<string, string>();
	const sides: Side[] = [];
	for (const step of steps) {
		const key = `${step.scenario} ${step.row?.number ?? ''} ${step.round ?? ''}`;
		let text = sent.get(key) ?? '';
		for (const { url, requestBody } of step.exchanges) {
			if (text.length > MOST_SENT) break;
			const bytes = requestBody && requestBody.size <= MOST_SENT ? await store.runs.body(requestBody.hash) : undefined;
			text += `\n${decodeURIComponentSafely(url)}\n${bytes ? decodeText(bytes).text : ''}`;
		}
		sent.set(key, text);
		sides.push(sideOf(store, step, text));
	}
	return sides;
}

function decodeURIComponentSafely(url: string): string {
	try {
		return decodeURIComponent(url);
	} catch {
		return url;
	}
}

/** Two runs, and what is different between them. @throws HeronError request.notFound when there is nothing to compare with */
export async function compareStored(store: Store, run: StoredRun, other: string): Promise<ComparedRuns> {
	const { project, startedAt, info } = run;
	const filter = { suite: info.suite, environment: info.environment, title: info.title };
	const offered = (await store.past.lines(project, filter, OFFERED)).filter(({ id }) => id !== run.id);
	const id = other || offered.find((one) => one.startedAt < startedAt)?.id;
	const before = id ? await store.runs.get(id) : undefined;
	if (!before || before.project !== project)
		throw new HeronError('request.notFound', { what: other ? `the run ${other}` : 'an earlier run of it' });
	for (const one of [before, run]) {
		const { recorded } = await store.runs.tally(one.id);
		if (recorded > MOST_RESULTS)
			throw new HeronError('compare.large', { number: one.number, count: recorded, limit: MOST_RESULTS });
	}
	const [a, b] = await Promise.all([store.runs.steps(before.id), store.runs.steps(run.id)]);
	const past = await store.past.past(project, { ...filter, before: startedAt }, REMEMBERED);
	const comparison = await compareRuns(await sidesOf(store, a), await sidesOf(store, b), timesByStep(past));
	return { ...comparison, before, after: run, offered };
}
