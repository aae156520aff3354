import type { Json } from '../model/json.ts';
import type { Workspace } from '../project/index.ts';
import type { GivenFile } from '../soap/index.ts';

/** What is to be imported. Paths of files are relative to each other. */
export interface ImportOrder {
	/** Of the folder below definitions/, and of the collection when there is one definition. */
	name: string;
	/** Nobody chose the name: it is the file's, and the service's title may give a better one. */
	unnamed?: boolean;
	files: GivenFile[];
	workspace: Workspace;
	/** Files of the project as they are. */
	readFile(path: string): Uint8Array | undefined;
	/** The value of a document of the project; undefined when it is not there. */
	valueOf(path: string): Json | undefined;
	connection: string;
	/** Where they were fetched from; kept beside them, so that they can be read again. */
	address?: string;
	/** Keys of the scenarios that are made; left out: those that suggest themselves. */
	choose?: readonly string[];
	/** Keys of the changes of steps that are made; `all` for each that is offered. */
	fix?: readonly string[] | 'all';
}
