import type { Migration } from './migration.ts';

export const salts: Migration = {
	name: '0003-salts',
	async up(query) {
		await query.sequelize.query('CREATE TABLE salts (name TEXT NOT NULL PRIMARY KEY, bytes BLOB NOT NULL)');
	}
};
