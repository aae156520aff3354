import { textOf } from '#core/errors.ts';
import {
	lineOfPast,
	MOST_REMEMBERED,
	pastOf,
	pastRun,
	readPast,
	thinned,
	type PastRun,
	type Verdict
} from '#core/gate/index.ts';
import { fileName } from '#core/model/name.ts';
import type { RunInfo, RunState } from '#core/run/index.ts';
import { existsSync } from 'node:fs';
import { appendFile, readFile, rename, rm, writeFile } from 'node:fs/promises';
import { one, type Flags, type Io } from './command.ts';
import { assertFile } from './files.ts';
import { targetOf } from './publish.ts';

/** What a gate remembers. */
export interface History {
	/** Earlier runs of the same suite in the same environment, the newest first. */
	past: PastRun[];
	/** Remembers a run. @returns what keeps it from being remembered */
	add(state: RunState, gate: Verdict, steps: PastRun['steps']): Promise<string | undefined>;
}

const TIMEOUT_MS = 15_000;

/**
 * The memory of a gate: of a file that builds keep (`--history`), and of the server at which runs are published. A server that
 * is away is said, and then there is less to remember.
 * @throws HeronError usage.* for a file that is no history
 */
export async function openHistory(io: Io, flags: Flags, project: string, info: RunInfo): Promise<History | undefined> {
	const file = one(flags, 'history');
	const server = one(flags, 'publish');
	if (file === undefined && server === undefined) return undefined;
	const begun = file !== undefined && existsSync(file);
	if (begun) assertFile(file);
	const kept = begun ? readPast(await readFile(file, 'utf8'), file) : [];
	const listed = server === undefined ? [] : await fromServer(io, flags, server, project, info);
	const known = new Set(listed.map(({ id }) => id));
	return {
		past: pastOf([...listed, ...kept.filter(({ id }) => !known.has(id))], info),
		async add(state, gate, steps) {
			if (file === undefined) return undefined;
			const line = lineOfPast(
				pastRun(state.run!, {
					...{ held: gate.holds, ms: state.ms, steps },
					...(gate.covered ? { covered: gate.covered } : {})
				})
			);
			try {
				// another build may have added a run since
				await appendFile(file, line);
				await tidy(file);
				return undefined;
			} catch (error) {
				return `the history could not be written: ${textOf(error)}`;
			}
		}
	};
}

/** Leaves out what is too old, once a file holds twice as much as is remembered. */
async function tidy(file: string): Promise<void> {
	const runs = readPast(await readFile(file, 'utf8'), file);
	const left = thinned(runs);
	if (runs.length - left.length < MOST_REMEMBERED) return;
	const beside = `${file}.${process.pid}`;
	try {
		await writeFile(beside, left.map(lineOfPast).join(''));
		await rename(beside, file);
	} finally {
		await rm(beside, { force: true });
	}
}

async function fromServer(
	io: Io,
	flags: Flags,
	server: string,
	project: string,
	{ suite, environment }: RunInfo
): Promise<PastRun[]> {
	const { address, headers } = targetOf(io, server, one(flags, 'as') ?? fileName(project));
	const query = new URLSearchParams({ suite, environment });
	try {
		const reply = await fetch(`${address.replace(/\/published$/, '/past')}?${query.toString()}`, {
			headers,
			signal: AbortSignal.timeout(TIMEOUT_MS)
		});
		if (!reply.ok) throw new Error(`${reply.status} ${reply.statusText}`);
		const listed: unknown = await reply.json();
		if (!Array.isArray(listed)) throw new Error('what answers there is not a Loyal Heron server');
		// held to the form that a file has: whatever answers may send anything
		return readPast(listed.map((one) => lineOfPast(one as PastRun)).join(''), server);
	} catch (error) {
		io.err(`the earlier runs at ${server} are not known: ${textOf(error)}\n`);
		return [];
	}
}
