// Asking for results among many: the newest of each step, and the past answers of one. Bundled by bench/index.mjs.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { openDatabase } from '../src/server/store/database.ts';
import { createPastStore } from '../src/server/store/past.ts';
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
const out: Record<string, number>[] = [];
for (const rows of process.argv.slice(2).map(Number)) {
	const sequelize = await openDatabase(join(dir, `${rows}.db`));
	const store = createRunStore(sequelize);
	const past = createPastStore(sequelize);
	const bare = (sql: string) => sequelize.query(sql, { type: QueryTypes.SELECT });
	await sequelize.query("INSERT INTO projects (name, createdAt) VALUES ('p', '2026-01-01')");
	const summary = '{"passed":1,"failed":0,"errors":0,"skipped":0}';
	const data = JSON.stringify({
		...{ scenario: 'c/s', step: 'a', outcome: 'passed', ms: 3, startedAt: 1, checks: [], kept: {} },
		exchanges: [{ startedAt: 1, reply: { status: 200, headers: [['x', 'y'.repeat(900)]] } }]
	});
	const runs = rows / STEPS;
	await sequelize.query(
		`INSERT INTO runs (id, project, number, kind, status, info, scenarios, total, summary, ms, stopped, startedAt, suite,
			environment, branch, passed, held)
		SELECT 'r' || value, 'p', value, 'run', 'done', '{"environment":"local","suite":"s","title":"S","branch":"main"}', '[]',
			${STEPS}, $1, 1, '', value, 's', 'local', 'main', 1, 1
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
		answers: await timed(() => store.answers('p', 'c/s', 'a7', 50)),
		lines: await timed(() => past.lines('p', {}, 100)),
		bareLines: await timed(() =>
			bare("SELECT * FROM runs WHERE project = 'p' AND kind = 'run' ORDER BY startedAt DESC LIMIT 100")
		),
		strip: await timed(() => past.past('p', { suite: 's', environment: 'local' }, 20)),
		// the same columns of the same results, and nothing made of them
		bareStrip: await timed(() =>
			bare(
				`SELECT run, scenario, step, outcome, mark, rowNumber, ms FROM steps WHERE run IN (
					SELECT id FROM runs WHERE project = 'p' AND kind = 'run' AND suite = 's' AND environment = 'local'
					ORDER BY startedAt DESC LIMIT 20)`
			)
		),
		moments: await timed(() => past.ofStep('p', 'c/s', 'a7', 'local', 100))
	});
	await sequelize.close();
}
rmSync(dir, { recursive: true, force: true });
console.log(JSON.stringify(out));
