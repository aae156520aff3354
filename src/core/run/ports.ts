import type { HeronError } from '../errors.ts';
import type { HeaderList, Reply } from '../model/reply.ts';
import type { Timeouts } from '../model/connection.ts';
import type { FunctionPorts } from '../values/index.ts';

/** Who put a header field there. */
export type HeaderOrigin = 'step' | 'connection' | 'cookies' | 'added';

/** A request in full: nothing is left to fill in. */
export interface PreparedRequest {
	method: string;
	url: string;
	headers: HeaderList;
	/** For each header field, in order. */
	origins: HeaderOrigin[];
	body: Uint8Array;
	timeouts: Timeouts;
	redirects: number;
}

/** One request and its reply as they crossed the wire. */
export interface Exchange {
	method: string;
	url: string;
	requestHeaders: HeaderList;
	requestBody: Uint8Array;
	reply?: Reply;
	/** What kept the reply from coming. */
	error?: { code: string; message: string; phase?: string };
	/** Milliseconds since 1970. */
	startedAt: number;
}

/** What came of sending: all hops of redirects in order, and the error that ended them. */
export interface SendOutcome {
	exchanges: Exchange[];
	error?: HeronError;
}

/** What lives as long as a scenario. */
export interface Session {
	/** The value of the Cookie field for an address; empty for none. */
	cookiesFor(url: string): string;
}

/** Everything that a run does to the world outside. */
export interface Ports extends FunctionPorts {
	openSession(): Session;
	/** Never throws for what a server or the network does. */
	send(request: PreparedRequest, session: Session, signal: AbortSignal | undefined): Promise<SendOutcome>;
	/** Resolves early when the signal is aborted. */
	sleep(ms: number, signal: AbortSignal | undefined): Promise<void>;
	/** A signal that is aborted after some milliseconds, or with the outer one. */
	deadline(ms: number, outer: AbortSignal | undefined): { signal: AbortSignal; clear(): void };
}
