import type { ReportKind } from '#core/reports/index.ts';
import { reduceRun, replaying, startState, type Exchange, type RunEvent } from '#core/run/index.ts';
import {
	eachStep,
	type RunStore,
	type StoredBody,
	type StoredExchange,
	type StoredRun,
	type StoredStep
} from '#server/store/index.ts';

async function bytesOf(store: RunStore, body: StoredBody | undefined): Promise<Uint8Array> {
	return (body && (await store.body(body.hash))) ?? new Uint8Array();
}

async function wholeExchange(store: RunStore, stored: StoredExchange): Promise<Exchange> {
	const { requestBody, reply, ...rest } = stored;
	const sent = await bytesOf(store, requestBody);
	if (!reply) return { ...rest, requestBody: sent };
	const { body, ...own } = reply;
	const cut = body && body.kept < body.size ? `only the first ${body.kept} of ${body.size} bytes were kept` : own.cut;
	return {
		...rest,
		requestBody: sent,
		reply: { ...own, body: await bytesOf(store, body), ...(cut === undefined ? {} : { cut }) }
	};
}

/** A run that is over, in the form of a report; piece by piece, so that large bodies are never there all at once. */
export async function* reportOf(
	store: RunStore,
	run: StoredRun,
	kind: ReportKind,
	version: string,
	/** Only this one: `collection/scenario`. */
	scenario?: string
): AsyncGenerator<string> {
	const sink = kind.open({ color: false, detail: 'normal', version });
	const state = startState();
	const tell = (event: RunEvent): string => {
		reduceRun(state, event);
		return sink.event(event);
	};
	const scenarios = run.scenarios
		.filter((one) => scenario === undefined || one.scenario === scenario)
		.map(({ outcome: _, ms: __, rowOutcomes: ___, ...ref }) => ref);
	yield tell({ type: 'run', run: run.info, scenarios, steps: run.total });
	const replay = replaying();
	for await (const stored of eachStep(store, run.id)) {
		if (scenario !== undefined && stored.scenario !== scenario) continue;
		const { run: _, seq: __, exchanges, ...result } = stored satisfies StoredStep;
		for (const event of replay.before(result)) yield tell(event);
		const whole = await Promise.all(exchanges.map((one) => wholeExchange(store, one)));
		yield tell({ type: 'step', result: { ...result, exchanges: whole } });
		replay.take(result);
	}
	for (const event of replay.ends(run.scenarios)) yield tell(event);
	yield tell({ type: 'end', summary: run.summary, ms: run.ms, stopped: run.stopped });
	const bad = run.summary.failed + run.summary.errors > 0 ? 1 : 0;
	yield sink.end(state, run.gate?.code ?? bad, run.gate);
}
