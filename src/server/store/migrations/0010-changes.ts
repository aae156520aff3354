import type { Migration } from './migration.ts';

/** What was written together is one change, removals too; a change may be named. */
export const changes: Migration = {
	name: '0010-changes',
	async up(query) {
		const run = (sql: string) => query.sequelize.query(sql);
		await run('ALTER TABLE revisions ADD COLUMN change INTEGER NOT NULL DEFAULT 0');
		await run('ALTER TABLE revisions ADD COLUMN gone INTEGER NOT NULL DEFAULT 0');
		await run(
			`UPDATE revisions SET change = numbers.change FROM (
				SELECT project, createdAt, ROW_NUMBER() OVER (PARTITION BY project ORDER BY createdAt) AS change
				FROM (SELECT DISTINCT project, createdAt FROM revisions)
			) AS numbers WHERE numbers.project = revisions.project AND numbers.createdAt = revisions.createdAt`
		);
		// when files went away nobody noted: after all that was written
		await run(
			`INSERT INTO revisions (project, path, revision, bytes, createdAt, change, gone)
			SELECT project, path, MAX(revision) + 1, x'', MAX(createdAt),
				(SELECT MAX(change) FROM revisions AS other WHERE other.project = revisions.project) + 1, 1
			FROM revisions WHERE NOT EXISTS (
				SELECT 1 FROM files WHERE files.project = revisions.project AND files.path = revisions.path)
			GROUP BY project, path`
		);
		await run('CREATE INDEX revisions_by_change ON revisions (project, change, path, revision, gone, createdAt)');
		await run(
			`CREATE TABLE marks (
				project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, name TEXT NOT NULL,
				change INTEGER NOT NULL, createdAt REAL NOT NULL, PRIMARY KEY (project, name))`
		);
	}
};
