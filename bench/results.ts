// Asking for results among many: the newest of each step, and the past answers of one. Bundled by bench/index.mjs.
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { QueryTypes } from 'sequelize';
import { openDatabase } from '../src/server/store/database.ts';
import { createPastStore } from '../src/server/store/past.ts';
import { createRunStore } from '../src/server/store/runs.ts';
import { createTallies } from '../src/server/store/tallies.ts';
import { firstView, readResults } from '../src/lib/server/run-pages.ts';

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
	const tallies = createTallies();
	const store = createRunStore(sequelize, tallies);
	const past = createPastStore(sequelize, tallies);
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
	// one run of as many: rows of five steps each, of which one in a hundred has a step that does not pass
	await sequelize.query(
		`INSERT INTO runs (id, project, number, kind, status, info, scenarios, total, summary, ms, stopped, startedAt, suite,
			environment, branch, passed, held)
		VALUES ('big', 'p', 1000000, 'run', 'done', '{"environment":"other","suite":"big","title":"Big","branch":"main"}',
			'[{"scenario":"c/big","title":"Big","collectionTitle":"C","steps":5,"data":"d.csv"}]', ${rows}, $1, 1, '', 9e12, 'big',
			'other', 'main', 1, 1)`,
		{ bind: [summary] }
	);
	await sequelize.query(
		`INSERT INTO steps (run, seq, project, scenario, step, outcome, rowNumber, status, code, ms, startedAt, data)
		SELECT 'big', value, 'p', 'c/big', 'b' || (value % 5), iif(value % 500 = 7, 'failed', 'passed'), value / 5 + 1, 200, '', 1,
			9e12 + value, json_set($1, '$.scenario', 'c/big', '$.step', 'b' || (value % 5), '$.index', value % 5, '$.row',
			json_object('number', value / 5 + 1, 'values', json_object('n', value)), '$.outcome',
			iif(value % 500 = 7, 'failed', 'passed'), '$.reason', 'as the last one')
		FROM (WITH RECURSIVE s(value) AS (SELECT 0 UNION ALL SELECT value + 1 FROM s WHERE value < ${rows - 1}) SELECT value FROM s)`,
		{ bind: [data] }
	);
	const began = performance.now();
	const { tally } = await tallies.of('big');
	const tallied = performance.now() - began;
	const read = (query: Record<string, string>) => async () => [
		await readResults(store, 'big', (name) => query[name] ?? '')
	];
	const big = {
		tallied,
		first: await timed(async () => [await firstView(store, (await store.get('big'))!)]),
		page: await timed(read({ of: 'rows', scenario: 'c/big', from: String(rows / 10) })),
		bad: await timed(read({ of: 'rows', scenario: 'c/big', bad: '1', from: '200' })),
		findings: await timed(read({ of: 'findings', cause: tally.faults[0]!.cause, from: '1000' }))
	};
	out.push({
		...big,
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
