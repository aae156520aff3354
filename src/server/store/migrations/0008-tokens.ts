import type { Migration } from './migration.ts';

/** Tokens of a project, by the digest of what they are: the token itself is known to who was given it alone. */
export const tokens: Migration = {
	name: '0008-tokens',
	async up(query) {
		await query.sequelize.query(
			`CREATE TABLE tokens (
				id TEXT PRIMARY KEY, project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, name TEXT NOT NULL,
				may TEXT NOT NULL, hash TEXT NOT NULL UNIQUE, createdAt REAL NOT NULL, endsAt REAL NOT NULL, usedAt REAL NOT NULL)`
		);
		await query.sequelize.query('CREATE INDEX tokens_by_project ON tokens (project)');
	}
};
