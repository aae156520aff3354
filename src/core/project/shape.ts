import type { Collection } from '../documents/collection.ts';
import type { Connection } from '../documents/connection.ts';
import type { Credential } from '../documents/credential.ts';
import type { Environment } from '../documents/environment.ts';
import type { LocalValues } from '../documents/local.ts';
import type { Project } from '../documents/project.ts';
import type { Quarantine } from '../documents/quarantine.ts';
import type { StandIn } from '../documents/stand-in.ts';
import type { Suite } from '../documents/suite.ts';
import type { Problem } from '../errors.ts';
import type { OpenapiRegistry } from '../openapi/index.ts';
import type { WsdlRegistry } from '../soap/index.ts';

/** A whole project in full, ready to be run. */
export interface Workspace {
	project: Project;
	connections: Map<string, Connection>;
	credentials: Map<string, Credential>;
	environments: Map<string, Environment>;
	collections: Map<string, Collection>;
	suites: Map<string, Suite>;
	standIns: Map<string, StandIn>;
	/** Failures that are known. */
	quarantine: Quarantine;
	/** Values of this machine. */
	local: LocalValues;
	/** The WSDL that definitions/ holds. */
	wsdls: WsdlRegistry;
	/** Its OpenAPI documents. */
	openapis: OpenapiRegistry;
	/** All that is wrong in all files; errors in files keep a run from starting, warnings do not. */
	problems: Problem[];
	warnings: Problem[];
	/** What only the OpenAPI documents tell; they are read when it is asked for, and a large one takes its time. */
	definitionWarnings(): Problem[];
}
