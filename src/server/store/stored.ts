import { parseJson, writeJson } from '#core/model/json.ts';
import type { HeaderList, Phases } from '#core/model/reply.ts';
import { causeOf, standingOf, type Exchange, type StepResult } from '#core/run/index.ts';
import { type BodyRecord, packBody, type StoredBody } from './bodies.ts';
import type { StepRow } from './tables/index.ts';

/** A reply without its bytes: they are read by hash. */
export interface StoredReply {
	status: number;
	reason: string;
	version: string;
	headers: HeaderList;
	body?: StoredBody;
	wireSize: number;
	cut?: string;
	note?: string;
	phases: Phases;
	reused: boolean;
}
export interface StoredExchange extends Omit<Exchange, 'requestBody' | 'reply'> {
	requestBody?: StoredBody;
	reply?: StoredReply;
}
export type StoredStep = Omit<StepResult, 'exchanges'> & { run: string; seq: number; exchanges: StoredExchange[] };

export const stepOf = (row: StepRow): StoredStep => ({
	...(parseJson(row.data) as unknown as StoredStep),
	run: row.run,
	seq: row.seq
});

/** What a result counts as, where that is not its outcome. */
function markOf(step: StoredStep): string {
	const standing = standingOf(step);
	return standing === step.outcome ? '' : standing;
}

export const rowOf = (step: StoredStep, project: string) => ({
	project,
	run: step.run,
	seq: step.seq,
	scenario: step.scenario,
	step: step.step,
	outcome: step.outcome,
	mark: markOf(step),
	cause: causeOf(step),
	rowNumber: step.row?.number ?? null,
	status: step.exchanges.at(-1)?.reply?.status ?? null,
	code: step.error?.code ?? '',
	ms: step.ms,
	startedAt: step.startedAt,
	data: writeJson(step)
});

/** A result with its bodies packed away. */
export async function storable(
	result: StepResult,
	run: string,
	seq: number,
	records: Map<string, BodyRecord>
): Promise<StoredStep> {
	const put = async (bytes: Uint8Array) => {
		const packed = await packBody(bytes);
		if (packed) records.set(packed.stored.hash, packed.record);
		return packed?.stored;
	};
	const exchanges: StoredExchange[] = [];
	for (const { requestBody, reply, ...rest } of result.exchanges) {
		const sent = await put(requestBody);
		const stored: StoredExchange = { ...rest, ...(sent ? { requestBody: sent } : {}) };
		if (reply) {
			const { body, ...facts } = reply;
			const received = await put(body);
			stored.reply = { ...facts, ...(received ? { body: received } : {}) };
		}
		exchanges.push(stored);
	}
	return { ...result, exchanges, run, seq };
}
