import type { Migration } from './migration.ts';

const statements = [
	// what is sorted, counted or compared has a column; results are found by run, by step, and as the newest of a step
	`CREATE TABLE steps_next (
		id INTEGER PRIMARY KEY, run TEXT NOT NULL REFERENCES runs(id) ON DELETE CASCADE, seq INTEGER NOT NULL,
		project TEXT NOT NULL, scenario TEXT NOT NULL, step TEXT NOT NULL, outcome TEXT NOT NULL, rowNumber INTEGER,
		status INTEGER, code TEXT NOT NULL, ms REAL NOT NULL, startedAt REAL NOT NULL, data TEXT NOT NULL,
		UNIQUE (run, seq))`,
	`INSERT INTO steps_next (run, seq, project, scenario, step, outcome, rowNumber, status, code, ms, startedAt, data)
		SELECT steps.run, steps.seq, runs.project, steps.scenario, steps.step, steps.outcome,
			json_extract(steps.data, '$.row.number'), json_extract(steps.data, '$.exchanges[#-1].reply.status'),
			COALESCE(json_extract(steps.data, '$.error.code'), ''), COALESCE(json_extract(steps.data, '$.ms'), 0),
			COALESCE(json_extract(steps.data, '$.startedAt'), 0), steps.data
		FROM steps JOIN runs ON runs.id = steps.run ORDER BY runs.startedAt, steps.seq`,
	`DROP TABLE steps`,
	`ALTER TABLE steps_next RENAME TO steps`,
	`CREATE INDEX steps_by_step ON steps (project, scenario, step, startedAt)`,
	`CREATE INDEX steps_by_place ON steps (run, scenario, step, seq)`,
	`CREATE TABLE newest (
		project TEXT NOT NULL REFERENCES projects(name) ON DELETE CASCADE, environment TEXT NOT NULL,
		scenario TEXT NOT NULL, step TEXT NOT NULL, run TEXT NOT NULL REFERENCES runs(id) ON DELETE CASCADE,
		seq INTEGER NOT NULL, runAt REAL NOT NULL, bad INTEGER NOT NULL,
		PRIMARY KEY (project, environment, scenario, step)) WITHOUT ROWID`,
	`CREATE INDEX newest_by_run ON newest (run)`,
	`INSERT INTO newest (project, environment, scenario, step, run, seq, runAt, bad)
		SELECT project, environment, scenario, step, run, seq, runAt, bad FROM (
			SELECT runs.project, COALESCE(json_extract(runs.info, '$.environment'), '') AS environment, steps.scenario,
				steps.step, steps.run, steps.seq, runs.startedAt AS runAt, steps.outcome IN ('failed', 'error') AS bad,
				ROW_NUMBER() OVER (
					PARTITION BY runs.project, json_extract(runs.info, '$.environment'), steps.scenario, steps.step
					ORDER BY runs.startedAt DESC, steps.outcome IN ('failed', 'error') DESC, steps.seq DESC
				) AS place
			FROM steps JOIN runs ON runs.id = steps.run WHERE steps.outcome <> 'skipped'
		) WHERE place = 1`,
	`CREATE TABLE uses (
		run TEXT NOT NULL REFERENCES runs(id) ON DELETE CASCADE, hash TEXT NOT NULL, PRIMARY KEY (run, hash)) WITHOUT ROWID`,
	`CREATE INDEX uses_by_hash ON uses (hash)`,
	`INSERT OR IGNORE INTO uses (run, hash)
		SELECT steps.run, part.value FROM steps, json_tree(steps.data, '$.exchanges') AS part
		WHERE part.key = 'hash' AND length(part.value) = 64`
];

export const results: Migration = {
	name: '0004-results',
	async up(query) {
		for (const statement of statements) await query.sequelize.query(statement);
	}
};
