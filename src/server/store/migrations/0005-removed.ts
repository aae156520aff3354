import type { Migration } from './migration.ts';

/** A project that is removed stays for a while, and can be brought back. */
export const removed: Migration = {
	name: '0005-removed',
	async up(query) {
		await query.sequelize.query('ALTER TABLE projects ADD COLUMN removedAt REAL');
	}
};
