import { QueryTypes, type Sequelize } from 'sequelize';
import { CHANGES_DAYS } from './history.ts';

/** What is kept, and what is let go. */
export interface Policy {
	/** Newest runs of a project that are kept; 0 for all. */
	runs: number;
	/** Newest steps that were sent by hand, of a project. */
	sends: number;
	/** Runs that are older, in days, are let go; 0 for none. */
	days: number;
}
export interface LetGo {
	runs: number;
	revisions: number;
	bodies: number;
}

const DAY_MS = 86_400_000;
/** So many days a removed project can be brought back. */
const REMOVED_DAYS = 7;
/** What a step kept and nobody reads goes after so many days. */
const KEPT_DAYS = 30;
/** So many rows go in one statement: others have to write as well. */
const AT_ONCE = 500;

/** A moment as Sequelize writes it. */
const stampOf = (ms: number): string => new Date(ms).toISOString().replace('T', ' ').replace('Z', ' +00:00');

/** Removes projects for good that were removed long enough ago. */
async function forgetRemoved(sequelize: Sequelize, now: number): Promise<number> {
	const gone = await sequelize.transaction((transaction) =>
		sequelize.query<{ n: number }>('DELETE FROM projects WHERE removedAt < $1 RETURNING 1 AS n', {
			bind: [now - REMOVED_DAYS * DAY_MS],
			type: QueryTypes.SELECT,
			transaction
		})
	);
	return gone.length;
}

/** Deletes by a statement that takes so many at once; how many it were. */
type Delete = (sql: string, bind: unknown[]) => Promise<number>;

const deleting =
	(sequelize: Sequelize): Delete =>
	async (sql, bind) => {
		let all = 0;
		for (;;) {
			// in turn with all who write: who waits for a lock beside them may wait for ever
			const found = await sequelize.transaction((transaction) =>
				sequelize.query<{ n: number }>(`${sql} RETURNING 1 AS n`, { bind, type: QueryTypes.SELECT, transaction })
			);
			all += found.length;
			if (found.length < AT_ONCE) return all;
		}
	};

/** Removes runs beyond the number that is kept of each project, and those that are too old. */
async function letRunsGo(deleted: Delete, { runs, sends, days }: Policy, now: number): Promise<number> {
	const beyond = (kind: string, keep: number) =>
		keep <= 0
			? Promise.resolve(0)
			: deleted(
					`DELETE FROM runs WHERE id IN (
						SELECT id FROM (
							SELECT id, status, ROW_NUMBER() OVER (PARTITION BY project ORDER BY startedAt DESC) AS place
							FROM runs WHERE kind = $1 AND kept = 0
						) WHERE place > $2 AND status <> 'running' LIMIT ${AT_ONCE})`,
					[kind, keep]
				);
	const gone = (await beyond('run', runs)) + (await beyond('send', sends));
	if (days <= 0) return gone;
	const old = await deleted(
		`DELETE FROM runs WHERE id IN (SELECT id FROM runs WHERE startedAt < $1 AND status <> 'running' AND kept = 0 LIMIT ${AT_ONCE})`,
		[now - days * DAY_MS]
	);
	return gone + old;
}

/** Removes what is old. Nobody may be recording meanwhile. */
export async function letGo(sequelize: Sequelize, policy: Policy, now: number): Promise<LetGo> {
	const deleted = deleting(sequelize);
	const projects = await forgetRemoved(sequelize, now);
	const gone = await letRunsGo(deleted, policy, now);
	// a day is kept as it ended: all files together, and so is what has a name
	const revisions = await deleted(
		`DELETE FROM revisions WHERE rowid IN (
			SELECT rowid FROM (
				SELECT rowid, project, path, revision,
					ROW_NUMBER() OVER (PARTITION BY project, path, date(createdAt) ORDER BY revision DESC) AS place
				FROM revisions WHERE createdAt < $1
			) AS old WHERE place > 1 AND NOT EXISTS (
				SELECT 1 FROM marks WHERE marks.project = old.project AND old.revision = (
					SELECT MAX(revision) FROM revisions AS other
					WHERE other.project = old.project AND other.path = old.path AND other.change <= marks.change))
			LIMIT ${AT_ONCE})`,
		[stampOf(now - CHANGES_DAYS * DAY_MS)]
	);
	// what a step kept a month ago opens no door any more
	await deleted(
		`DELETE FROM sealed WHERE (project, kind, environment, name) IN (
			SELECT project, kind, environment, name FROM sealed WHERE kind = 'kept' AND updatedAt < $1 LIMIT ${AT_ONCE})`,
		[stampOf(now - KEPT_DAYS * DAY_MS)]
	);
	const bodies = await deleted(
		`DELETE FROM bodies WHERE hash IN (
			SELECT hash FROM bodies WHERE NOT EXISTS (SELECT 1 FROM uses WHERE uses.hash = bodies.hash) LIMIT ${AT_ONCE})`,
		[]
	);
	if (projects + gone + revisions + bodies > 0) {
		await sequelize.transaction((transaction) => sequelize.query('PRAGMA incremental_vacuum', { transaction }));
		await sequelize.query('PRAGMA wal_checkpoint(TRUNCATE)');
	}
	return { runs: gone, revisions, bodies };
}
