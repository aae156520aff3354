import type { Selected } from '../model/selected.ts';
import type { ReplyView } from '../model/view.ts';

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
