import type { Migration } from './migration.ts';

const COUNTS = ['passed', 'failed', 'errors', 'skipped', 'unsteady', 'quarantined'];
const INFO = ['suite', 'environment', 'branch'];

const statements = [
	...INFO.map((name) => `ALTER TABLE runs ADD COLUMN ${name} TEXT NOT NULL DEFAULT ''`),
	...COUNTS.map((name) => `ALTER TABLE runs ADD COLUMN ${name} INTEGER NOT NULL DEFAULT 0`),
	// null: no gate has judged it
	'ALTER TABLE runs ADD COLUMN held INTEGER',
	"ALTER TABLE runs ADD COLUMN gate TEXT NOT NULL DEFAULT ''",
	`UPDATE runs SET ${[
		...INFO.map((name) => `${name} = COALESCE(json_extract(info, '$.${name}'), '')`),
		...COUNTS.map((name) => `${name} = COALESCE(json_extract(summary, '$.${name}'), 0)`)
	].join(', ')}`,
	"UPDATE runs SET held = (failed + errors = 0) WHERE kind = 'run' AND status = 'done'",
	'CREATE INDEX runs_by_suite ON runs (project, kind, suite, environment, startedAt)',
	"ALTER TABLE steps ADD COLUMN mark TEXT NOT NULL DEFAULT ''",
	// what became of steps is read without their data, which is large
	'DROP INDEX steps_by_place',
	'CREATE INDEX steps_by_place ON steps (run, scenario, step, seq, outcome, mark, rowNumber, ms)',
	'DROP INDEX steps_by_step',
	'CREATE INDEX steps_by_step ON steps (project, scenario, step, startedAt, run, seq, outcome, mark, rowNumber, ms)'
];

/** What a gate said of a run, and what runs are looked for and compared by. */
export const verdicts: Migration = {
	name: '0007-verdicts',
	async up(query) {
		for (const statement of statements) await query.sequelize.query(statement);
	}
};
