import type { Migration } from './migration.ts';

/** A run that somebody keeps is never let go for its age. */
export const keptRuns: Migration = {
	name: '0012-kept-runs',
	async up(query) {
		await query.sequelize.query('ALTER TABLE runs ADD COLUMN kept INTEGER NOT NULL DEFAULT 0');
	}
};
