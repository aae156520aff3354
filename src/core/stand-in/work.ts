import type { Json, JsonObject } from '../model/json.ts';
import type { HeaderList } from '../model/reply.ts';
import type { StandIn, Turn } from '../documents/stand-in.ts';
import { seeded } from '../model/seed.ts';
import type { Workspace } from '../project/index.ts';
import { createEvaluator, type Evaluator, type Names, type Scope, type Segment } from '../values/index.ts';
import type { Reading } from './asked.ts';
import type { Definitions } from './defined.ts';
import { openDefinition } from './definition.ts';
import type { Fault, Given } from './faults/index.ts';
import type { Outgoing, StandInPorts } from './ports.ts';
import { problemOf } from './problem.ts';
import type { Seeds } from './seeds.ts';
import { createStore, type StoreNow } from './store.ts';

/** An answer that did not fit, and why. */
export interface Tried {
	id: string;
	why: string;
}

/** A call that goes out after the answer, or why it could not be made. */
export interface CallLater {
	after: number;
	outgoing?: Outgoing;
	error?: string;
}

/** What came of one request. */
export interface Answered {
	given: Given;
	/** Id of the answer; `definition`, `forward`, `cors`; empty where nothing fitted. */
	by: string;
	tried: Tried[];
	/** The faults that struck, in words. */
	faults: string[];
	/** What is worth knowing: why it failed, what could not be made. */
	notes: string[];
	calls: CallLater[];
	/** Where it was passed on to. */
	forwarded?: string;
	/** What was answered, where it goes elsewhere than to whoever asked. */
	instead?: Made;
	/** The answer is nothing that the definition could speak of. */
	refused?: true;
	/** What of it was filled in, for whoever tries it out. */
	trial?: { path: Record<string, string>; values: { source: string; value: string }[]; body: Segment[] };
}

/** What a stand-in answers with. */
export interface ServiceTools {
	workspace: Workspace;
	/** `$env`, `$secret`, `$run`. */
	names: Pick<Names, 'env' | 'secret' | 'run'>;
	broken?: Scope['broken'];
	ports: StandInPorts;
}

/** What an answer is before faults strike. */
export type Made = Pick<Given, 'status' | 'headers' | 'body'>;

/** No bytes. */
export const EMPTY = new Uint8Array();

/** All that one remembers while it runs. */
interface Memory {
	stores: Map<string, StoreNow>;
	state: JsonObject;
	counts: Map<string, number>;
	limits: WeakMap<Fault, { [key: string]: number[] }>;
	/** Of UsernameTokens that were believed, the oldest first. */
	nonces: Set<string>;
}

/** One stand-in at work: what its parts have in common. */
export interface Work {
	spec: StandIn;
	workspace: Workspace;
	ports: StandInPorts;
	definitions: Definitions;
	evaluator: Evaluator;
	memory: Memory;
	seeds: Seeds;
	/** Answers that are the same each time. */
	built: WeakMap<Turn, Made>;
	random(): number;
	/** What expressions see of a request. */
	scope(reading: Reading, path: Record<string, string>, more?: Partial<Names>): Scope;
	/** Forgets all but what it held at first. */
	reset(): void;
}

/** What the parts of a stand-in share while it is open. */
export function openWork(spec: StandIn, { workspace, ports, names, broken }: ServiceTools): Work {
	const seeds: Seeds = { stores: new Map(), rows: new Map() };
	const memory: Memory = {
		stores: new Map([...spec.stores.values()].map((store) => [store.name, createStore(store)])),
		...{ state: {}, counts: new Map(), limits: new WeakMap(), nonces: new Set() }
	};
	let random = seeded(spec.seed);
	return {
		...{ spec, workspace, ports, memory, seeds, built: new WeakMap() },
		definitions: openDefinition(spec, workspace, ports),
		evaluator: createEvaluator(),
		random: () => random(),
		scope(reading, path, more = {}) {
			// its own getters stay: what nobody asks for is not read
			const all = Object.assign(reading.names(path), {
				...{ env: names.env, secret: names.secret, run: names.run },
				...{ row: {}, steps: {}, state: memory.state, ...more }
			}) as Names;
			return { names: all, ports, ...(broken ? { broken } : {}), hint: () => '' };
		},
		reset() {
			memory.state = {};
			memory.counts.clear();
			memory.limits = new WeakMap();
			memory.nonces.clear();
			random = seeded(spec.seed);
			for (const [name, store] of memory.stores) {
				store.clear();
				store.seed(seeds.stores.get(name) ?? []);
			}
		}
	};
}

/** An answer on which nothing is decided yet. */
export const blank = (): Given => ({
	...{ status: 200, headers: [], body: EMPTY, delay: 0, drip: 0, end: 'whole', surplus: 0 }
});

/** What came of a request, before anything is known of it. */
export const begun = (by: string, tried: Tried[] = []): Answered => ({
	...{ given: blank(), by, tried, faults: [], notes: [], calls: [] }
});

/** What it says by itself, where nothing is answered. */
export const nothing = (status: number, detail: string, tried: Tried[], headers: HeaderList = []): Answered => {
	const more: JsonObject = tried.length > 0 ? { tried: tried as unknown as Json } : {};
	return { ...begun('', tried), given: { ...blank(), ...problemOf(status, detail, more, headers) } };
};
