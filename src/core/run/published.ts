import { base64ToBytes, bytesToBase64 } from '../values/index.ts';
import type { RunInfo, ScenarioRef, StepResult, Summary } from './events.ts';
import type { RunState } from './reduce.ts';
import type { Verdict } from './verdict.ts';

/** An exchange whose bodies are base64. */
type WireExchange = Omit<StepResult['exchanges'][number], 'requestBody' | 'reply'> & {
	requestBody: string;
	reply?: Omit<NonNullable<StepResult['exchanges'][number]['reply']>, 'body'> & { body: string };
};
/** A result as it goes to a server: bodies in base64. */
export type WireResult = Omit<StepResult, 'exchanges'> & { exchanges: WireExchange[] };

/**
 * A piece of a run that goes on elsewhere. It may be sent again: what is recorded already is passed over. Each says enough
 * to begin the run with it.
 */
export interface RunBatch {
	heron: 1;
	run: RunInfo;
	scenarios: ScenarioRef[];
	total: number;
	/** How many results came before these. */
	from: number;
	results: WireResult[];
	summary: Summary;
	/** Scenarios that have ended so far. */
	outcomes: { scenario: string; outcome: NonNullable<StepResult['outcome']>; ms: number }[];
	/** With the last one. */
	end?: { ms: number; stopped: string; gate?: Verdict };
}

/** Longer bodies are cut, and say so. */
const MOST_PUBLISHED = 256_000;

const cut = (bytes: Uint8Array): string => bytesToBase64(bytes.subarray(0, MOST_PUBLISHED));

/** A result as it is sent. */
const wireOf = ({ exchanges, ...result }: StepResult): WireResult => ({
	...result,
	exchanges: exchanges.map(({ requestBody, reply, ...rest }) => ({
		...rest,
		...(requestBody.length > MOST_PUBLISHED
			? { notes: [...(rest.notes ?? []), `of the body that was sent the first ${MOST_PUBLISHED} bytes are here`] }
			: {}),
		requestBody: cut(requestBody),
		...(reply
			? {
					reply: {
						...reply,
						body: cut(reply.body),
						...(reply.body.length > MOST_PUBLISHED && !reply.cut
							? { cut: `cut at ${MOST_PUBLISHED} bytes when it was published` }
							: {})
					}
				}
			: {})
	}))
});

/** A result as it was. */
export const resultOf = ({ exchanges, ...result }: WireResult): StepResult => ({
	...result,
	exchanges: exchanges.map(({ requestBody, reply, ...rest }) => ({
		...rest,
		requestBody: base64ToBytes(requestBody),
		...(reply ? { reply: { ...reply, body: base64ToBytes(reply.body) } } : {})
	}))
});

/** A batch of results of a run as far as it has come. */
export function batchOf(
	state: RunState,
	from: number,
	results: StepResult[],
	end?: { gate?: Verdict | undefined }
): RunBatch {
	return {
		heron: 1,
		run: state.run!,
		scenarios: [...state.scenarios.values()].map(({ scenario, title, collectionTitle, steps, data, rows }) => ({
			...{ scenario, title, collectionTitle, steps },
			...(data === undefined ? {} : { data }),
			...(rows === undefined ? {} : { rows })
		})),
		total: state.total,
		from,
		results: results.map(wireOf),
		summary: { ...state.summary },
		outcomes: [...state.scenarios.values()].flatMap(({ scenario, outcome, ms }) =>
			outcome ? [{ scenario, outcome, ms: Math.round(ms) }] : []
		),
		...(end
			? {
					end: { ms: Math.round(state.ms), stopped: state.stopped, ...(end.gate ? { gate: end.gate } : {}) }
				}
			: {})
	};
}
