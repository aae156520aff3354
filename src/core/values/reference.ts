/** A name that an expression asks for: `$env.host` is `{ root: 'env', name: 'host', rest: [] }`. */
export interface Reference {
	root: string;
	name: string;
	rest: string[];
	/** Whether the expression only asks if it is there. */
	optional: boolean;
}
