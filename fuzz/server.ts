import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { mutate, type Draw } from './mutate.ts';
import type { Family } from './family.ts';
import type { startWorkbench } from '../scripts/workbench.mjs';

/** A request to the server: PROJECT and RUN stand for one of those there are. */
type Call = [method: string, path: string, body?: object];

const step = { id: 'one', send: 'GET /moorings', connection: 'moorings', checks: [{ status: 200 }] };
const at = { collection: 'bookings', scenario: 'book-a-mooring', environment: 'local' };
const NEXT_MONTH = new Date(Date.now() + 30 * 86_400_000).toISOString().slice(0, 10);
const answering = {
	heron: 1,
	answers: [{ id: 'a', ask: 'GET /a', answer: { status: 200, body: { json: { n: 1 } } } }]
};
const RUN: Call = ['POST', '/projects/PROJECT/runs', { targets: ['gauges'], environment: 'local' }];
const CALLS: readonly Call[] = [
	...['', '/collections', '/names', '/changes', '/history', '/secrets', '/stand-ins', '/export', '/definitions'].map(
		(path): Call => ['GET', `/projects/PROJECT${path}`]
	),
	['GET', '/projects'],
	['GET', '/projects/PROJECT/events'],
	['GET', '/projects/PROJECT/stand-ins/events'],
	['GET', '/projects/PROJECT/coverage?environment=local'],
	['GET', '/projects/PROJECT/resolve?environment=local'],
	['GET', '/projects/PROJECT/latest?collection=gauges&environment=local'],
	['GET', '/projects/PROJECT/find?words=mooring'],
	['GET', '/projects/PROJECT/files/collections/gauges.yaml'],
	['PUT', '/projects/PROJECT/files/collections/mine.yaml?revision=0', { text: 'heron: 1\nscenarios: []\n' }],
	['DELETE', '/projects/PROJECT/files/collections/mine.yaml?revision=1'],
	['POST', '/projects', { name: 'PROJECT', files: 'FILES', replace: true }],
	['POST', '/projects/PROJECT/copy', { title: 'A copy' }],
	['POST', '/projects/PROJECT/changes', { back: { to: '1', paths: [] } }],
	['POST', '/projects/PROJECT/fix', { edits: [{ file: 'heron.yaml', path: ['title'], value: 'Waterways' }] }],
	['POST', '/projects/PROJECT/names', { root: 'env', from: 'clerk', to: 'desk' }],
	['POST', '/projects/PROJECT/preview', { ...at, step, row: 1 }],
	['POST', '/projects/PROJECT/rehearsal', { targets: ['gauges'], environment: 'local', take: '' }],
	['POST', '/projects/PROJECT/try', { text: '$env.base', environment: 'local' }],
	['POST', '/projects/PROJECT/reach', { target: 'moorings', environment: 'local' }],
	['POST', '/projects/PROJECT/dataset', { rows: 'refusals', environment: 'local', from: 0, count: 1 }],
	['POST', '/projects/PROJECT/scenarios', { do: 'tag', tag: 'papers', scenarios: ['bookings/upload-and-replace'] }],
	['POST', '/projects/PROJECT/stand-ins', { name: 'notices', action: 'start', environment: 'local' }],
	['POST', '/projects/PROJECT/stand-ins/refused', { name: 'own', value: answering, environment: 'local' }],
	['PUT', '/projects/PROJECT/secrets', { environment: 'local', name: 'spare', value: 'x-4711-y' }],
	['PUT', '/projects/PROJECT/clocks', { suite: 'smoke', pattern: '0 4 1 1 *', zone: 'UTC', enabled: true }],
	['POST', '/projects/PROJECT/tokens', { name: 'builds', may: 'publish', until: NEXT_MONTH }],
	RUN,
	...['', '/tally', '/events?after=-1', '/results?of=named&seqs=0', '/report?kind=junit', '/compare?with='].map(
		(path): Call => ['GET', `/runs/RUN${path}`]
	),
	['POST', '/runs/RUN/cancel', {}],
	['DELETE', '/runs/RUN']
];
const VALUES: readonly unknown[] = [
	null,
	0,
	-1,
	1e308,
	'',
	'\0',
	'{$',
	'__proto__',
	'../..',
	'x'.repeat(5000),
	[],
	{},
	true
];
const PROJECTS = ['one', 'two', 'three'];
const AT_ONCE = 8;
const LONGEST_MS = 60_000;
/** Streams do not end by themselves. */
const STREAMED_MS = 1500;

/** A value that differs in one place. */
function changed(value: unknown, draw: Draw): unknown {
	if (typeof value === 'string' && draw.below(2) > 0) return mutate(value, draw);
	const keys = typeof value === 'object' && value ? Object.keys(value) : [];
	if (keys.length === 0 || draw.below(6) === 0) return draw.of(VALUES);
	const key = draw.of(keys);
	const own = Object.entries(value as object);
	const next = own.flatMap(([name, one]) =>
		name !== key ? [[name, one]] : draw.below(6) === 0 ? [] : [[name, changed(one, draw)]]
	) as [string, unknown][];
	return Array.isArray(value) ? next.map(([, one]) => one) : Object.fromEntries(next);
}

/**
 * A server that several people use at once, who ask for anything and leave at any moment: it is there all the same,
 * answers everybody, and finds nothing that it did not expect.
 */
export const server: Family = {
	name: 'server',
	async open() {
		const script = pathToFileURL(join(process.cwd(), 'scripts/workbench.mjs')).href;
		const program = (await import(script)) as { startWorkbench: typeof startWorkbench };
		const dataDir = mkdtempSync(join(tmpdir(), 'heron-fuzz-'));
		const bench = await program.startWorkbench({ port: 25_700, standinsPort: 25_705, dataDir, quiet: true });
		let gone = false;
		bench.server.once('exit', () => (gone = true));
		const { files } = (await bench.call('/projects/reedmere/export', undefined)) as { files: unknown };
		for (const name of PROJECTS) await bench.call('/projects', { name, files, replace: true });
		const runs: string[] = [];

		const ask = async (draw: Draw): Promise<string | undefined> => {
			const [method, path, body] = draw.below(4) === 0 ? RUN : draw.of(CALLS);
			const project = draw.of(PROJECTS);
			const filled = (text: string) =>
				text.replace('PROJECT', project).replace('RUN', runs[draw.below(runs.length)] ?? 'none');
			const leaves = draw.below(2) === 0;
			const wait = /events|tally/.test(path) ? STREAMED_MS : LONGEST_MS;
			const signal = AbortSignal.timeout(leaves ? draw.below(1 + draw.below(1500)) : wait);
			const given = body && draw.below(3) === 0 && path !== '/projects' ? (changed(body, draw) as object) : body;
			const text =
				given === undefined
					? undefined
					: JSON.stringify(given)
							.replace('"FILES"', () => JSON.stringify(files))
							.replace('PROJECT', project);
			const asked = `${method} ${filled(path)} ${text?.slice(0, 300) ?? ''}`;
			try {
				const reply = await fetch(`${bench.url}/api${filled(path)}`, {
					method,
					signal,
					headers: { 'content-type': 'application/json', origin: bench.url },
					...(text === undefined ? {} : { body: text })
				});
				const answer = await reply.text();
				if (reply.status >= 500) return `status ${reply.status} of ${asked}: ${answer}`;
				if (path === RUN[1] && reply.ok) runs.push((JSON.parse(answer) as { id: string }).id);
				return undefined;
			} catch (error) {
				if (!signal.aborted) return `no answer to ${asked}: ${String((error as Error).cause ?? error)}`;
				return leaves || wait === STREAMED_MS ? undefined : `no answer within ${LONGEST_MS} ms to ${asked}`;
			}
		};
		return {
			async once(draw) {
				if (gone) throw new Error('the server is gone');
				const faults = await Promise.all(Array.from({ length: AT_ONCE }, () => ask(draw)));
				runs.splice(0, runs.length - AT_ONCE);
				return faults.find((fault) => fault !== undefined) ?? (bench.unexpected() || undefined);
			},
			async close() {
				await bench.stop();
				rmSync(dataDir, { recursive: true, force: true });
			}
		};
	}
};
