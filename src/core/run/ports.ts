import type { Authorizer, AuthPorts } from '../auth/index.ts';
import type { Approved } from '../baselines/index.ts';
import type { SchemaByItself, SchemaFault } from '../checks/index.ts';
import type { Dataset, DataSpec } from '../datasets/index.ts';
import type { HeronError } from '../errors.ts';
import type { Exchange, PreparedRequest } from '../model/exchange.ts';
import { partSeed, seeded } from '../model/seed.ts';
import type { XmlPort } from '../model/xml.ts';
import type { ScriptPort } from './script.ts';

export type { Exchange, HeaderOrigin, PreparedRequest, TlsFacts } from '../model/exchange.ts';

/** What came of sending: all hops of redirects in order, and the error that ended them. */
export interface SendOutcome {
	exchanges: Exchange[];
	error?: HeronError;
}

/** What lives as long as a scenario. */
export interface Session {
	/** The value of the Cookie field for an address; empty for none. */
	cookiesFor(url: string): string;
	/** Takes over the cookies of another one. */
	adopt(other: Session): void;
	/** What credentials remember: challenges, counters. */
	auth: Map<string, unknown>;
}

/** Everything that a run does to the world outside. */
export interface Ports extends AuthPorts {
	/** A clock that nobody sets, for durations, in milliseconds; `now` tells the time of day, which may jump. */
	steady(): number;
	openSession(): Session;
	xml: XmlPort;
	/**
	 * Validates by a JSON Schema: a file of the project, or a schema that refers to nothing outside of it.
	 * @throws HeronError schema.wrong, file.missing
	 */
	validateJson(value: unknown, schema: string | SchemaByItself): Promise<SchemaFault[]>;
	script: ScriptPort;
	/** Told of each file that a step keeps. */
	keptFile?(name: string, bytes: Uint8Array): void;
	/** The approved reply of a name: that of the environment, else the one of all. */
	approved(name: string, environment: string): Approved | undefined;
	/** Opens a dataset of the project. @throws HeronError dataset.* */
	dataset(spec: DataSpec): Promise<Dataset>;
	/**
	 * Sends a request, follows its redirects, answers refusals as the credential can.
	 * Never throws for what a server or the network does.
	 */
	send(
		request: PreparedRequest,
		session: Session,
		signal: AbortSignal | undefined,
		authorizer?: Authorizer
	): Promise<SendOutcome>;
	/** Resolves early when the signal is aborted. */
	sleep(ms: number, signal: AbortSignal | undefined): Promise<void>;
	/** A signal that is aborted after some milliseconds, or with the outer one. */
	deadline(ms: number, outer: AbortSignal | undefined): { signal: AbortSignal; clear(): void };
}

/** Ports for a part of a run, which makes up its data by the seed and its own name. */
export function partPorts(ports: Ports, part: string): Ports {
	return Object.assign(Object.create(ports) as Ports, { random: seeded(partSeed(ports.seed, part)) });
}
