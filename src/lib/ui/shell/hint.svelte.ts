import type { RowsState } from '../ledger/rows.svelte.ts';

/** The rows that what is worked on runs over. */
export interface RowsHint {
	/** The file's name in datasets/. */
	file: string;
	scenario: string;
	at: RowsState;
	/** Shows where they are chosen. */
	show(): void;
}

/** What a page tells the waterline. */
class Hints {
	/** The line at its right: which keys act on what is shown. */
	text = $state('? keys');
	rows: RowsHint | undefined = $state.raw();
}
export const hints = new Hints();
