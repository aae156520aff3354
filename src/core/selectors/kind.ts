import type { Json } from '../model/json.ts';
import type { ReplyView } from '../model/view.ts';

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

/** A way to name a part of a reply. */
export interface SelectorKind {
	name: string;
	doc: string;
	example: string;
	/** Whether a selector's text is of this kind. */
	fits(selector: string): boolean;
	/** What is wrong with a selector, or undefined. */
	problem(selector: string): string | undefined;
	/**
	 * @param whole what is found is kept as it stands, where a check compares its text
	 * @throws HeronError selector.*
	 */
	select(selector: string, view: ReplyView, whole?: boolean): Selected | Promise<Selected>;
}
