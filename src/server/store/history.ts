import { HeronError } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import { QueryTypes, type Sequelize } from 'sequelize';

/** A file in a change: its revision then, and the one before; 0 where it was not there. */
interface ChangedFile {
	path: string;
	revision: number;
	was: number;
}
/** What was written together. */
interface Change {
	number: number;
	/** Milliseconds since 1970. */
	at: number;
	files: ChangedFile[];
}
/** A change with a name. */
export interface Mark {
	name: string;
	change: number;
	/** When it was named, in milliseconds since 1970. */
	createdAt: number;
}

/** What a project was, change by change. */
export interface HistoryStore {
	/** The number of the newest change; 0 where nothing was written. */
	newest(project: string): Promise<number>;
	/** The newest changes before a number (0: all), without files of a path. */
	changes(project: string, options: { before: number; limit: number; without: string }): Promise<Change[]>;
	/**
	 * The change that a name or number means.
	 * @throws HeronError request.notFound, also where its files are not kept any more
	 */
	find(project: string, wanted: string): Promise<number>;
	/** Files as they were after a change, of a number that `find` gave: path → revision and bytes. */
	filesAt(project: string, change: number): Promise<{ path: string; revision: number; bytes: Buffer }[]>;
	/** Revisions of files after a change, without their bytes. */
	revisionsAt(project: string, change: number): Promise<Map<string, number>>;
	/** The newest first. */
	marks(project: string): Promise<Mark[]>;
	/** Names a change, which is kept as long as it has a name. @throws HeronError name.markTaken for a name that is taken */
	mark(project: string, name: string, change: number): Promise<void>;
	/** @throws HeronError request.notFound */
	unmark(project: string, name: string): Promise<void>;
}

/** Earlier changes stay for so many days; of older ones the last of each day does, and those with a name. */
export const CHANGES_DAYS = 30;
/** The newest revision of each file up to a change. */
const UP_TO = `SELECT path, MAX(revision) AS revision FROM revisions WHERE project = $1 AND change <= $2 GROUP BY path`;

type Select = <T extends object>(sql: string, bind: unknown[]) => Promise<T[]>;

/** The changes of a project before a number, the newest first. */
async function changesOf(
	select: Select,
	project: string,
	{ before, limit, without }: Parameters<HistoryStore['changes']>[1]
): Promise<Change[]> {
	const rows = await select<{
		number: number;
		at: string;
		path: string;
		revision: number;
		gone: number;
		was: number;
	}>(
		`SELECT change AS number, createdAt AS at, path, revision, gone, COALESCE((
					SELECT CASE gone WHEN 1 THEN 0 ELSE revision END FROM revisions AS earlier
					WHERE earlier.project = $1 AND earlier.path = revisions.path AND earlier.revision < revisions.revision
					ORDER BY earlier.revision DESC LIMIT 1), 0) AS was
				FROM revisions WHERE project = $1 AND path <> $4 AND change IN (
					SELECT DISTINCT change FROM revisions WHERE project = $1 AND path <> $4 AND ($2 = 0 OR change < $2)
					ORDER BY change DESC LIMIT $3)
				ORDER BY change DESC, path`,
		[project, before, limit, without]
	);
	const found: Change[] = [];
	for (const { number, at, path, revision, gone, was } of rows) {
		if (found.at(-1)?.number !== number) found.push({ number, at: new Date(at).getTime(), files: [] });
		found.at(-1)!.files.push({ path, revision: gone ? 0 : revision, was });
	}
	return found;
}

/** @param named the marks of the project @throws HeronError request.notFound */
async function changeMeant(select: Select, project: string, wanted: string, named: readonly Mark[]): Promise<number> {
	const mark = named.find(({ name }) => name === wanted);
	if (mark) return mark.change;
	if (!/^\d{1,15}$/.test(wanted)) {
		const names = named.map(({ name }) => name);
		const known =
			names.length > 0 ? `${didYouMean(wanted, names)}; its marks are ${names.join(', ')}` : '; it has no marks';
		throw new HeronError('request.notFound', { what: `the mark "${wanted}"${known}` });
	}
	const number = Number(wanted);
	// the change itself, or the next one; and the last of that day, which alone is kept whole when it is old
	const [row] = await select<{ change: number; at: string; last: number }>(
		`SELECT change, createdAt AS at, (
					SELECT MAX(change) FROM revisions AS same WHERE same.project = $1 AND date(same.createdAt) = date(revisions.createdAt)
				) AS last FROM revisions WHERE project = $1 AND change >= $2 ORDER BY change LIMIT 1`,
		[project, number]
	);
	const old = row && new Date(row.at).getTime() < Date.now() - CHANGES_DAYS * 86_400_000;
	const whole = !old || number === row.last || named.some(({ change }) => change === number);
	if (row?.change === number && whole) return number;
	const hint = row ? `; of that day the last one is kept, ${row.last}` : '';
	throw new HeronError('request.notFound', { what: `revision ${wanted}${hint}` });
}

export function createHistoryStore(sequelize: Sequelize): HistoryStore {
	const select: Select = <T extends object>(sql: string, bind: unknown[]) =>
		sequelize.query<T>(sql, { bind, type: QueryTypes.SELECT });
	const marks: HistoryStore['marks'] = (project) =>
		select<Mark>('SELECT name, change, createdAt FROM marks WHERE project = $1 ORDER BY change DESC, createdAt DESC', [
			project
		]);
	return {
		async newest(project) {
			const [row] = await select<{ n: number | null }>('SELECT MAX(change) AS n FROM revisions WHERE project = $1', [
				project
			]);
			return row?.n ?? 0;
		},
		changes: (project, options) => changesOf(select, project, options),
		find: async (project, wanted) => changeMeant(select, project, wanted, await marks(project)),
		filesAt: (project, change) =>
			select(
				`SELECT revisions.path, revisions.revision, bytes FROM revisions JOIN (${UP_TO}) AS newest
				ON newest.path = revisions.path AND newest.revision = revisions.revision
				WHERE project = $1 AND gone = 0 ORDER BY revisions.path`,
				[project, change]
			),
		async revisionsAt(project, change) {
			const rows = await select<{ path: string; revision: number }>(
				`SELECT revisions.path, revisions.revision FROM revisions JOIN (${UP_TO}) AS newest
				ON newest.path = revisions.path AND newest.revision = revisions.revision
				WHERE project = $1 AND gone = 0`,
				[project, change]
			);
			return new Map(rows.map(({ path, revision }) => [path, revision]));
		},
		marks,
		async mark(project, name, change) {
			if ((await marks(project)).some((one) => one.name === name)) throw new HeronError('name.markTaken', { name });
			await sequelize.query('INSERT INTO marks (project, name, change, createdAt) VALUES ($1, $2, $3, $4)', {
				bind: [project, name, change, Date.now()]
			});
		},
		async unmark(project, name) {
			const gone = await select('DELETE FROM marks WHERE project = $1 AND name = $2 RETURNING name', [project, name]);
			if (gone.length === 0) throw new HeronError('request.notFound', { what: `the mark "${name}"` });
		}
	};
}
