/** A place at which a merge left both sides in a text, between its marks. */
export interface Conflict {
	/** Where its marks begin and end, in UTF-16 code units. */
	from: number;
	to: number;
	/** From 1. */
	line: number;
	/** What the marks call the sides: a branch, a commit. */
	ourName: string;
	theirName: string;
	ours: string;
	theirs: string;
	/** What both came from, where the marks hold it. */
	base?: string;
}

/** Whether a text may hold conflicts: cheap, for every file. */
export const mayConflict = (text: string): boolean => /^<{7}(?: |$)/m.test(text) && /^>{7}(?: |$)/m.test(text);

/** The conflicts of a text, as version control marks them; those whose marks are not whole are left out. */
export function conflictsIn(text: string): Conflict[] {
	const found: Conflict[] = [];
	let open: (Partial<Conflict> & { part: 'ours' | 'base' | 'theirs'; from: number; line: number }) | undefined;
	let at = 0;
	for (const [index, whole] of text.split(/(?<=\n)/).entries()) {
		const [, mark, name = ''] = /^([<=>|])\1{6}(?: (.*?))?\r?\n?$/.exec(whole) ?? [];
		if (mark === '<') open = { part: 'ours', from: at, line: index + 1, ourName: name, ours: '' };
		else if (open && mark === '|' && open.part === 'ours') open = { ...open, part: 'base', base: '' };
		else if (open && mark === '=' && open.part !== 'theirs') open = { ...open, part: 'theirs', theirs: '' };
		else if (open && mark === '>' && open.part === 'theirs') {
			const { part: _, ...conflict } = open;
			found.push({ ...(conflict as Omit<Conflict, 'to' | 'theirName'>), theirName: name, to: at + whole.length });
			open = undefined;
		} else if (open) open[open.part] += whole;
		at += whole.length;
	}
	return found;
}
