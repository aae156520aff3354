import type { Json } from './json.ts';

/** What a selector found. A query that can match many gives a list of all matches. */
export type Selected = (
	| {
			found: true;
			value: Json;
			/** The value is text because its format knows nothing else: a number may be meant. */
			text?: boolean;
	  }
	| { found: false }
) & {
	/** All that was found, where one match is not told from a list of one by its value. */
	items?: Json[];
};
