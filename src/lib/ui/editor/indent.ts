import { forceParsing } from '@codemirror/language';
import type { KeyBinding } from '@codemirror/view';

/** Two megabytes take a second; a slow machine may be ten times slower. */
const WAIT_MS = 10_000;

/** A new line is indented by the syntax tree: where that has not come as far, Enter waits for it. */
export const indentByTree: KeyBinding = {
	key: 'Enter',
	run: (view) => {
		forceParsing(view, view.state.selection.main.head, WAIT_MS);
		return false;
	}
};
