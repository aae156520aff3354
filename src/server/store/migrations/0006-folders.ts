import type { Migration } from './migration.ts';

/** A project may be a folder on this machine, of which the database keeps a copy. */
export const folders: Migration = {
	name: '0006-folders',
	async up(query) {
		await query.sequelize.query("ALTER TABLE projects ADD COLUMN folder TEXT NOT NULL DEFAULT ''");
	}
};
