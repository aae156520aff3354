import type { Migration } from './migration.ts';

/** Suites that run by the clock, and whom the server tells of verdicts. */
export const clocks: Migration = {
	name: '0011-clocks',
	async up(query) {
		const run = (sql: string) => query.sequelize.query(sql);
		await run(
			`CREATE TABLE clocks (
				project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, suite TEXT NOT NULL,
				pattern TEXT NOT NULL, zone TEXT NOT NULL, enabled INTEGER NOT NULL, seenAt REAL NOT NULL,
				missed INTEGER NOT NULL, missedAt REAL NOT NULL, note TEXT NOT NULL, PRIMARY KEY (project, suite))`
		);
		await run(
			`CREATE TABLE callouts (
				id TEXT PRIMARY KEY, project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, suite TEXT NOT NULL,
				address TEXT NOT NULL, occasion TEXT NOT NULL, createdAt REAL NOT NULL, lastAt REAL NOT NULL, last TEXT NOT NULL)`
		);
		await run(
			`CREATE TABLE deliveries (
				id TEXT PRIMARY KEY, callout TEXT NOT NULL REFERENCES callouts(id) ON DELETE CASCADE,
				body TEXT NOT NULL, tries INTEGER NOT NULL, nextAt REAL NOT NULL)`
		);
	}
};
