/** A name that an expression asks for: `$env.host` is `{ root: 'env', name: 'host', rest: [] }`. */
export interface Reference {
	/** Empty for a name that expressions do not know, such as `$token`. */
	root: string;
	name: string;
	rest: string[];
	/** Whether the expression only asks if it is there. */
	optional: boolean;
}
