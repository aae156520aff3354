/** One line of a schema as a table. */
export interface SchemaRow {
	depth: number;
	/** A property's name; `[ ]` for an item, `{ }` for properties of other names, empty for the whole. */
	name: string;
	/** In words: `text, date`, `list of objects`. */
	type: string;
	required: boolean;
	/** Limits, values and defaults, in words. */
	limits: string;
	doc: string;
	/** One of several forms; the lines below are its own. */
	form?: true;
	/** It is shown further up already, or too deep. */
	cut?: true;
}

/** A body in one media type, or of one version of SOAP. */
export interface ContentView {
	type: string;
	rows: SchemaRow[];
	/** One that fits, as text; empty where none can be made. */
	example: string;
}

/** All that a definition says of an operation, ready to be read: of OpenAPI, or of a WSDL. */
export interface OperationView {
	name: string;
	/** `operationId`; empty where there is none. */
	id: string;
	summary: string;
	description: string;
	deprecated: boolean;
	parameters: { place: string; name: string; required: boolean; row: SchemaRow }[];
	bodies: (ContentView & { required: boolean })[];
	answers: {
		/** `200`, `4XX`, `default`; of a WSDL `answer`, or `fault NAME`. */
		status: string;
		description: string;
		headers: { name: string; row: SchemaRow }[];
		bodies: ContentView[];
	}[];
	/** Ways by which callers prove who they are, one of them; several schemes of one at once. */
	security: string[];
}
