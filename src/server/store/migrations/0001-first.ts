import type { Migration } from './migration.ts';

const statements = [
	`CREATE TABLE projects (name TEXT PRIMARY KEY, createdAt DATETIME NOT NULL)`,
	`CREATE TABLE files (
		project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, path TEXT NOT NULL,
		bytes BLOB NOT NULL, revision INTEGER NOT NULL, updatedAt DATETIME NOT NULL, PRIMARY KEY (project, path))`,
	`CREATE TABLE revisions (
		project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, path TEXT NOT NULL,
		revision INTEGER NOT NULL, bytes BLOB NOT NULL, createdAt DATETIME NOT NULL, PRIMARY KEY (project, path, revision))`,
	`CREATE TABLE runs (
		id TEXT PRIMARY KEY, project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, number INTEGER NOT NULL,
		kind TEXT NOT NULL, status TEXT NOT NULL, info TEXT NOT NULL, scenarios TEXT NOT NULL, total INTEGER NOT NULL,
		summary TEXT NOT NULL, ms REAL NOT NULL, stopped TEXT NOT NULL, startedAt REAL NOT NULL)`,
	`CREATE INDEX runs_by_project ON runs (project, kind, startedAt)`,
	`CREATE TABLE steps (
		run TEXT NOT NULL REFERENCES runs(id) ON DELETE CASCADE, seq INTEGER NOT NULL, scenario TEXT NOT NULL,
		step TEXT NOT NULL, outcome TEXT NOT NULL, data TEXT NOT NULL, PRIMARY KEY (run, seq)) WITHOUT ROWID`,
	`CREATE TABLE bodies (hash TEXT PRIMARY KEY, size INTEGER NOT NULL, coding TEXT NOT NULL, bytes BLOB NOT NULL)`
];

export const first: Migration = {
	name: '0001-first',
	async up(query) {
		for (const statement of statements) await query.sequelize.query(statement);
	}
};
