import type { Migration } from './migration.ts';

const statements = [
	`CREATE TABLE sealed (
		project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, kind TEXT NOT NULL, environment TEXT NOT NULL,
		name TEXT NOT NULL, keyId TEXT NOT NULL, bytes BLOB NOT NULL, updatedAt DATETIME NOT NULL,
		PRIMARY KEY (project, kind, environment, name)) WITHOUT ROWID`,
	`CREATE TABLE reveals (
		id INTEGER PRIMARY KEY AUTOINCREMENT, project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE,
		environment TEXT NOT NULL, name TEXT NOT NULL, at REAL NOT NULL)`,
	`CREATE TABLE reaches (
		project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, target TEXT NOT NULL, environment TEXT NOT NULL,
		outcome TEXT NOT NULL, report TEXT NOT NULL, at REAL NOT NULL, PRIMARY KEY (project, target, environment)) WITHOUT ROWID`
];

export const vault: Migration = {
	name: '0002-vault',
	async up(query) {
		for (const statement of statements) await query.sequelize.query(statement);
	}
};
