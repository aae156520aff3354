import { holds, type CallFilter } from '#server/engine/stand-in/index.ts';
import type { CallRecord } from '#core/stand-in/index.ts';
import type { StandInState } from '#server/engine/protocol.ts';

const MOST_CALLS = 2000;
const MOST_OCTETS = 60_000_000;

/** A stand-in that runs here. */
export interface RunningStandIn extends StandInState {
	address: string;
	environment: string;
	/** Milliseconds since 1970. */
	since: number;
	/** Why it does not go by the files as they are now; empty when it does. */
	behind: string;
	/** How many calls there were. */
	asked: number;
}

/** A stand-in that runs, with the calls that are kept of it. */
export interface LiveStandIn extends RunningStandIn {
	id: string;
	project: string;
	name: string;
	calls: CallRecord[];
}

/** What pages are shown of one. */
export const shown = ({
	address,
	environment,
	since,
	behind,
	asked,
	counts,
	stores,
	faults
}: LiveStandIn): RunningStandIn => ({ address, environment, since, behind, asked, counts, stores, faults });

/** Keeps calls of a stand-in: the newest ones, as many as fit. */
export function keepCalls(one: LiveStandIn, calls: CallRecord[]): void {
	one.asked += calls.length;
	one.calls.push(...calls);
	let octets = one.calls.reduce((n, call) => n + call.body.length + call.requestBody.length, 0);
	let gone = Math.max(0, one.calls.length - MOST_CALLS);
	while (octets > MOST_OCTETS && gone < one.calls.length - 1) {
		octets -= one.calls[gone]!.body.length + one.calls[gone]!.requestBody.length;
		gone++;
	}
	if (gone > 0) one.calls = one.calls.slice(gone);
}

/** The calls that fit, the newest at the end. */
export const callsThatFit = (
	all: readonly CallRecord[],
	{ after = 0, method, path, by, value, most = MOST_CALLS }: CallFilter
): CallRecord[] =>
	all
		.filter(
			(one) =>
				one.id > after &&
				(!method || one.method === method) &&
				(!path || one.target.split('?')[0] === path) &&
				(by === undefined || one.by === by) &&
				(!value || holds(one, value))
		)
		.sort((a, b) => a.at - b.at || a.id - b.id)
		.slice(-most);
