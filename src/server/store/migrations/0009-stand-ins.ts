import type { Migration } from './migration.ts';

/** Stand-ins that run, so that they do again when the server has been started anew. */
export const standIns: Migration = {
	name: '0009-stand-ins',
	async up(query) {
		await query.sequelize.query(
			`CREATE TABLE stand_ins (
				project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, name TEXT NOT NULL,
				environment TEXT NOT NULL, faults TEXT NOT NULL, PRIMARY KEY (project, name))`
		);
	}
};
