import type { Json } from '../model/json.ts';
import type { ReplyView } from '../model/view.ts';

/** What a selector found. A query that can match many gives a list of all matches. */
export type Selected = { found: true; value: Json } | { found: false };

export interface SelectorKind {
	name: string;
	doc: string;
	example: string;
	/** Whether a selector's text is of this kind. */
	fits(selector: string): boolean;
	/** What is wrong with a selector, or undefined. */
	problem(selector: string): string | undefined;
	/** @throws HeronError selector.* */
	select(selector: string, view: ReplyView): Selected;
}
