// Putting a project of many collections together, and again after one of them was saved: bundled by bench/index.mjs.
import { createCollectionsLog, overviewOf } from '../src/lib/server/overview.ts';
import { createWorkspace, loadDocument, type LoadedDocument } from '../src/core/project/index.ts';

const STEPS = 15;
function documentOf(n: number, most: number, title = ''): LoadedDocument {
	const steps = Array.from(
		{ length: STEPS },
		(_, at) =>
			`      - { id: a${at}, send: "GET /x/{$env.host}${at > 0 ? `/{$steps.a${at - 1}.id}` : ''}", checks: [{ status: 200 }], keep: { id: $.id } }`
	).join('\n');
	const call = `      - { id: c, call: c${(n + 1) % most}/other }`;
	return loadDocument(
		`collections/c${n}.yaml`,
		`heron: 1\ntitle: "${title}"\nconnection: one\nscenarios:\n  - id: s\n    steps:\n${steps}\n${n % 10 === 0 ? `${call}\n` : ''}  - id: other\n    steps:\n      - { id: a, send: GET /x }\n`
	)!;
}
const base = [
	loadDocument('heron.yaml', 'heron: 1\nvariables: { host: a }\n')!,
	loadDocument('connections/one.yaml', 'heron: 1\nbase: http://127.0.0.1:1\n')!
];
const timed = (act: () => void): number => {
	const start = performance.now();
	act();
	return performance.now() - start;
};

const out: { collections: number; first: number; again: number; shown: number; bytes: number }[] = [];
for (const count of process.argv.slice(2).map(Number)) {
	const documents = [...base, ...Array.from({ length: count }, (_, n) => documentOf(n, count))];
	const files = new Set(documents.map(({ path }) => path));
	let problems = 0;
	const first = timed(() => (problems = createWorkspace(documents, files).problems.length));
	if (problems > 0) throw new Error(`${problems} problems`);
	const [again, shown]: [number[], number[]] = [[], []];
	const log = createCollectionsLog();
	let version = log.now('p', createWorkspace(documents, files), null).version;
	let bytes = 0;
	for (let round = 0; round < 5; round++) {
		documents[base.length + round] = documentOf(round, count, `saved ${round}`);
		let workspace = createWorkspace([], new Set());
		again.push(timed(() => (workspace = createWorkspace(documents, files))));
		// what the page gets with the answer of the save
		shown.push(
			timed(() => {
				const now = log.now('p', workspace, version);
				version = now.version;
				bytes = JSON.stringify({ ...overviewOf('p', workspace, new Map()), collections: now }).length;
			})
		);
	}
	const middle = (list: number[]) => list.sort((a, b) => a - b)[2]!;
	out.push({ collections: count, first, again: middle(again), shown: middle(shown), bytes });
}
console.log(JSON.stringify(out));
