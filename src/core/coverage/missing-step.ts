import type { JsonObject } from '../model/json.ts';

/** A step that would touch what nobody touches. */
export interface MissingStep {
	/** Without an id. */
	step: JsonObject;
	/** What it is for, in words. */
	title: string;
	/** The connection that names the definition; empty where none does. */
	connection: string;
	/** What could not be made, in words. */
	notes: string[];
}
