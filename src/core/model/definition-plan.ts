import type { Json } from './json.ts';

/** A file that was given or fetched. */
interface PlannedFile {
	path: string;
	bytes: Uint8Array;
}

/** A scenario that can be made of a definition. */
export interface Offer {
	/** By which it is chosen. */
	key: string;
	/** The scenario's id, where it is made. */
	id: string;
	title: string;
	/** Words by which the definition groups its operations. */
	tags: string[];
	/** What its steps call, in order: `GET /bookings/{reference}`. */
	operations: string[];
	/** Of a chain: why its operations belong together. */
	why: string;
	/** The key of the chain that its operation is offered in as well. */
	chain: string;
	/** The operation, by its key, that is the same call, where there is one. */
	sameAs?: string;
	deprecated: boolean;
	/** Whether it is made. */
	chosen: boolean;
}

/** A change that can be made to steps. */
export interface Fix {
	/** By which it is chosen. */
	key: string;
	label: string;
	/** `collection/scenario/step`. */
	steps: string[];
	/** Whether it is made. */
	chosen: boolean;
}

/** What an import of a definition does to a project; nothing is done yet. */
export interface DefinitionPlan {
	/** The name of collection and connection. */
	name: string;
	/** What the definition calls the service; empty where it does not say. */
	title: string;
	/** The definition's path in the project. */
	file: string;
	files: PlannedFile[];
	/** Documents of the project as they are then, those that are made and those that change. */
	writes: { path: string; value: Json }[];
	/** Paths of documents that are made, but for the collection's. */
	made: string[];
	/** Whether the definition has a collection then. */
	collects: boolean;
	/** Steps of other collections that get the definition that they meant so far, where this one has operations of the same name. */
	bound: string[];
	/** Scenarios that can be made. */
	offers: Offer[];
	/** Ids of scenarios that are added, and operations that steps know already. */
	added: string[];
	kept: string[];
	/** @property id the `operationId` of OpenAPI */
	operations: { key: string; id?: string; version: string; doc: string; wants: string[] }[];
	changes: {
		key: string;
		version: string;
		change: 'added' | 'gone' | 'changed';
		/** What it means for who calls it, the worst of it; undefined where nobody judges it. */
		level?: 'breaking' | 'careful' | 'harmless';
		/** What is another one, in words. */
		what: string[];
		steps: string[];
	}[];
	/** Changes of steps that make them fit what has changed. */
	fixes: Fix[];
	missing: string[];
	problems: { file: string; line: number; message: string }[];
}
