import type { JsonObject } from '../model/json.ts';

/** What a reach check works on. */
export interface ReachTarget {
	url: string;
	host: string;
	port: number;
	secure: boolean;
	/** What is asked for behind the base address; empty for the base itself. */
	path: string;
	/** `host:port`; empty without one. */
	proxy: string;
	/** The connection's name and document; none for a bare address. */
	connection?: { name: string; raw: JsonObject; environment: string; variant: boolean };
	/** The variables of the environment's own document. */
	variables: JsonObject;
	credential: { name: string; kind: string; label: string };
	/** Credentials of the project that could be tried. */
	others: { name: string; kind: string }[];
	/** A client certificate is shown in TLS. */
	shows?: boolean;
}
