import { diffLines } from 'diff';

/** Lines that both texts have, or only one of them. */
export interface LinePiece {
	side: 'both' | 'before' | 'after';
	text: string;
}

/** Texts whose differences are more than this are shown one after the other. */
const EDITS = 4000;

/** Two texts line by line. */
export function compareLines(before: string, after: string): LinePiece[] {
	const parts = diffLines(before, after, { maxEditLength: EDITS });
	if (!parts)
		return [
			{ side: 'before', text: before },
			{ side: 'after', text: after }
		];
	return parts.map(({ added, removed, value }) => ({
		side: added ? 'after' : removed ? 'before' : 'both',
		text: value
	}));
}
