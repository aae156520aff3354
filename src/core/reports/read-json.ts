import { base64ToBytes, utf8 } from '../values/index.ts';
import { isObject } from '../model/json.ts';
import type { Verdict } from '../gate/index.ts';
import type { Exchange, RunInfo, ScenarioRef, StepResult, Summary } from '../run/index.ts';

/** What a JSON result says before its steps. */
export interface ResultHead {
	run: RunInfo;
	scenarios: ScenarioRef[];
}
/** And behind them. */
export interface ResultTail {
	outcomes: { scenario: string; outcome?: StepResult['outcome']; ms: number }[];
	summary: Summary;
	ms: number;
	stopped: string;
	/** What the gate said; files of earlier versions have none. */
	gate?: Verdict;
}

const timeOf = (value: unknown): number => (typeof value === 'number' ? value : Date.parse(String(value)) || 0);

function bytesOf(body: unknown): Uint8Array {
	if (!isObject(body)) return new Uint8Array();
	return typeof body.base64 === 'string' ? base64ToBytes(body.base64) : utf8(String(body.text ?? ''));
}

function exchangeOf(given: Record<string, unknown>): Exchange {
	const request = isObject(given.request) ? given.request : {};
	const reply = isObject(given.reply) ? given.reply : undefined;
	const cut =
		isObject(reply?.body) && reply.body.cutAt !== undefined
			? `${String(reply.body.cutAt)} bytes of it are here`
			: undefined;
	return {
		method: String(request.method ?? ''),
		url: String(request.url ?? ''),
		requestHeaders: (request.headers ?? []) as Exchange['requestHeaders'],
		requestBody: bytesOf(request.body),
		startedAt: timeOf(given.startedAt),
		...(reply
			? {
					reply: { ...(cut ? { cut } : {}), ...reply, body: bytesOf(reply.body) } as unknown as NonNullable<
						Exchange['reply']
					>
				}
			: {}),
		...(given.error ? { error: given.error as NonNullable<Exchange['error']> } : {}),
		...(given.notes ? { notes: given.notes as string[] } : {})
	};
}

/** A step's result as the JSON report has it, back as it was; bodies as far as they were kept. */
export function resultFromData(data: Record<string, unknown>): StepResult {
	const exchanges = Array.isArray(data.exchanges) ? (data.exchanges as Record<string, unknown>[]) : [];
	return {
		...(data as unknown as StepResult),
		startedAt: timeOf(data.startedAt),
		exchanges: exchanges.map(exchangeOf)
	};
}

/** The head of a result file: the run without its steps. */
export const headFromData = (data: Record<string, unknown>): ResultHead => {
	const run = data.run as RunInfo;
	return { run: { ...run, startedAt: timeOf(run.startedAt) }, scenarios: data.scenarios as ScenarioRef[] };
};
