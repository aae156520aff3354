import type { Migration } from './migration.ts';

const statements = [
	`ALTER TABLE steps ADD COLUMN cause TEXT NOT NULL DEFAULT ''`,
	// what a run came to; of older runs it is made when it is asked for
	`ALTER TABLE runs ADD COLUMN tally TEXT NOT NULL DEFAULT ''`,
	`ALTER TABLE runs ADD COLUMN past TEXT NOT NULL DEFAULT ''`,
	// pages of a scenario as it went, or of its rows
	`CREATE INDEX steps_by_start ON steps (run, scenario, rowNumber, startedAt)`,
	// findings alone: most results are none
	`CREATE INDEX steps_by_cause ON steps (run, cause, seq) WHERE cause <> ''`,
	`CREATE INDEX steps_bad_rows ON steps (run, scenario, rowNumber) WHERE cause <> ''`
];

/** Results are read in pages, and counts without them. */
export const tallies: Migration = {
	name: '0013-tallies',
	async up(query) {
		for (const statement of statements) await query.sequelize.query(statement);
	}
};
