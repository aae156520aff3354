// A project is saved at each edit: what is read of its past are pieces of work, not saves.

interface ChangeOfFiles {
	number: number;
	/** Milliseconds since 1970. */
	at: number;
	/** 0: it is not there, or was not. */
	files: readonly { path: string; revision: number; was: number }[];
}

/** Changes that belong together. */
export interface ChangeSpan {
	/** The last of its changes, by which a project can go back to it. */
	number: number;
	/** The first of them. */
	first: number;
	/** When the last was made, and the first, in milliseconds since 1970. */
	at: number;
	since: number;
	saves: number;
	files: { path: string; revision: number; was: number }[];
	/** Names that its last change has. */
	marks: string[];
}

const TOGETHER_MS = 600_000;
/** Files that are written one after the other, by a copy for instance. */
const BURST_MS = 1000;
const dayOf = (at: number): string => new Date(at).toISOString().slice(0, 10);

/**
 * Puts changes together: edits of one file within ten minutes of each other, files within a second, and all of a day that is older than `exactSince`,
 * of which only the end is kept. A change with a name ends a span.
 * @param changes the newest first
 * @returns the newest first
 */
export function spansOf(
	changes: readonly ChangeOfFiles[],
	{ marks, exactSince }: { marks: readonly { name: string; change: number }[]; exactSince: number }
): ChangeSpan[] {
	const spans: ChangeSpan[] = [];
	const named = new Map<number, string[]>();
	for (const { name, change } of marks) named.set(change, [...(named.get(change) ?? []), name]);
	for (const { number, at, files } of changes) {
		const last = spans.at(-1);
		const one = files.length === 1 && last?.files.length === 1 && files[0]!.path === last.files[0]!.path;
		const edit = one && last.since - at <= TOGETHER_MS && (at >= exactSince || last.since < exactSince);
		const day = last !== undefined && last.at < exactSince && dayOf(last.at) === dayOf(at);
		const burst = last !== undefined && last.since - at <= BURST_MS;
		if (!last || named.has(number) || !(edit || day || burst)) {
			spans.push({
				...{ number, first: number, at, since: at, saves: 1 },
				files: files.map((file) => ({ ...file })),
				marks: named.get(number) ?? []
			});
			continue;
		}
		Object.assign(last, { first: number, since: at, saves: last.saves + 1 });
		for (const file of files) {
			const later = last.files.find(({ path }) => path === file.path);
			if (later) later.was = file.was;
			else last.files.push({ ...file });
		}
	}
	// what came and went again within a span, or was only touched, is no change of it
	return spans.map((span) => ({ ...span, files: span.files.filter(({ revision, was }) => revision !== was) }));
}
