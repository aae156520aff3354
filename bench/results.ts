// Asking for results among many: the newest of each step, and the past answers of one. Bundled by bench/index.mjs.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openDatabase } from '../src/server/store/database.ts';
import { createRunStore } from '../src/server/store/runs.ts';

const STEPS = 500;
const dir = mkdtempSync(join(tmpdir(), 'heron-results-'));
const timed = async (act: () => Promise<unknown[]>): Promise<number> => {
	const all: number[] = [];
	for (let round = 0; round < 5; round++) {
		const start = performance.now();
		if ((await act()).length === 0) throw new Error('nothing was found');
		all.push(performance.now() - start);
	}
	return all.sort((a, b) => a - b)[2]!;
};
const out: { rows: number; latest: number; answers: number }[] = [];
for (const rows of process.argv.slice(2).map(Number)) {
	const sequelize = await openDatabase(join(dir, `${rows}.db`));
	const store = createRunStore(sequelize);
	await sequelize.query("INSERT INTO projects VALUES ('p', '2026-01-01')");
	const summary = '{"passed":1,"failed":0,"errors":0,"skipped":0}';
	const data = JSON.stringify({
		...{ scenario: 'c/s', step: 'a', outcome: 'passed', ms: 3, startedAt: 1, checks: [], kept: {} },
		exchanges: [{ startedAt: 1, reply: { status: 200, headers: [['x', 'y'.repeat(900)]] } }]
	});
	const runs = rows / STEPS;
	await sequelize.query(
		`INSERT INTO runs SELECT 'r' || value, 'p', value, 'run', 'done', '{"environment":"local"}', '[]', ${STEPS}, $1, 1, '', value
		FROM (WITH RECURSIVE s(value) AS (SELECT 1 UNION ALL SELECT value + 1 FROM s WHERE value < ${runs}) SELECT value FROM s)`,
		{ bind: [summary] }
	);
	await sequelize.query(
		`INSERT INTO steps (run, seq, project, scenario, step, outcome, rowNumber, status, code, ms, startedAt, data)
		SELECT runs.id, s.value, 'p', 'c/s', 'a' || s.value, 'passed', NULL, 200, '', 1, runs.startedAt * 1000 + s.value, $1
		FROM runs, (WITH RECURSIVE s(value) AS (SELECT 0 UNION ALL SELECT value + 1 FROM s WHERE value < ${STEPS - 1}) SELECT value FROM s) AS s`,
		{ bind: [data] }
	);
	await sequelize.query(
		`INSERT INTO newest SELECT 'p', 'local', 'c/s', step, run, seq, 1, 0 FROM steps WHERE run = 'r${runs}'`
	);
	out.push({
		rows,
		latest: await timed(() => store.latest('p', 'c', 'local')),
		answers: await timed(() => store.answers('p', 'c/s', 'a7', 50))
	});
	await sequelize.close();
}
rmSync(dir, { recursive: true, force: true });
console.log(JSON.stringify(out));
