import { touchCounter } from '#core/coverage/index.ts';
import { HeronError } from '#core/errors.ts';
import { createJudge } from '#core/gate/index.ts';
import { counted } from '#core/messages.ts';
import { parseShard, reduceRun, replaying, startState, stepsIn, type RunEvent, type RunInfo } from '#core/run/index.ts';
import { randomUUID } from 'node:crypto';
import { basename } from 'node:path';
import type { Flags, Io } from './command.ts';
import { openHistory } from './history.ts';
import { openProject, withProject } from './project.ts';
import { openPublisher, publishingTo } from './publish.ts';
import { broken, readResult, type ResultFile } from './result-file.ts';
import { deliver, NOT_DELIVERED, openReports } from './reports.ts';

/** What all parts have to have in common. */
const SAME = ['project', 'suite', 'environment', 'commit', 'build', 'revision'] as const;

function assertWhole(parts: ResultFile[]): void {
	const [first] = parts;
	for (const { file, head } of parts)
		for (const key of SAME)
			if (head.run[key] !== first!.head.run[key])
				throw broken(
					file,
					`its ${key} is "${head.run[key] ?? ''}", that of ${first!.file} is "${first!.head.run[key] ?? ''}": they are no parts of one run`
				);
	const seen = new Map<string, string>();
	for (const { file, head } of parts)
		for (const { scenario } of head.scenarios) {
			const other = seen.get(scenario);
			if (other !== undefined) throw broken(file, `${scenario} is in ${other}, too: a scenario is in one part alone`);
			seen.set(scenario, file);
		}
	const shards = parts.flatMap(({ file, head }) => {
		const shard = parseShard(head.run.shard ?? '');
		return shard ? [{ file, ...shard }] : [];
	});
	if (shards.length === 0) return;
	const [{ count }] = shards as [(typeof shards)[number]];
	const odd = shards.find((one) => one.count !== count);
	if (odd) throw broken(odd.file, `it is part ${odd.index} of ${odd.count}, and others are of ${count}`);
	const missing = Array.from({ length: count }, (_, n) => n + 1).filter(
		(n) => !shards.some(({ index }) => index === n)
	);
	if (missing.length > 0) throw new HeronError('merge.part', { parts: missing.join(', '), count });
}

/** `heron merge FILE…`: results of parts of a run become one, with its gate, reports and publishing. */
export async function merge(io: Io, files: string[], flags: Flags): Promise<number> {
	const begun: { close(): Promise<void> }[] = [];
	try {
		return await mergeFiles(io, files, flags, begun);
	} finally {
		for (const one of begun) await one.close();
	}
}

async function mergeFiles(io: Io, files: string[], given: Flags, begun: { close(): Promise<void> }[]): Promise<number> {
	if (files.length === 0) throw new HeronError('usage.merge');
	const parts: ResultFile[] = [];
	for (const file of files) parts.push(await readResult(file));
	assertWhole(parts);
	const [first] = parts as [ResultFile];
	const { suite: name } = first.head.run;
	// its gate is that of the revision that was run
	const { revision } = first.head.run;
	const at = revision === undefined || given.name === undefined ? {} : { revision: String(revision) };
	const { flags } = await withProject(io, name ? [name] : [], { ...at, ...given }, begun);
	const project = name ? openProject(flags) : undefined;
	const suite = project?.workspace.suites.get(name);
	if (name && !suite) throw new HeronError('merge.suite', { name });
	const { shard: _, ...info } = first.head.run;
	const run: RunInfo = {
		...info,
		id: randomUUID(),
		startedAt: Math.min(...parts.map(({ head }) => head.run.startedAt))
	};
	const { quarantine } = project?.workspace ?? { quarantine: { entries: [], back: 1 } };
	const judge = createJudge(quarantine, project && touchCounter(project.workspace, suite?.gate));
	const publishing = publishingTo(io, flags, suite);
	const history = await openHistory(...publishing, basename(project?.dir ?? process.cwd()), run);
	const outputs = openReports(io, flags, project);
	const publisher = await openPublisher(...publishing, basename(project?.dir ?? process.cwd()));
	const state = startState();
	const tell = async (...events: RunEvent[]) => {
		for (const event of events) {
			reduceRun(state, event);
			judge.take(event);
			for (const output of outputs) output.write(output.sink.event(event));
		}
		await publisher?.take(events, state);
		for (const output of outputs) await output.drained();
	};
	const scenarios = parts.flatMap(({ head }) => head.scenarios);
	const steps = parts.reduce((n, { tail: { summary } }) => n + stepsIn(summary), 0);
	await tell({ type: 'run', run, scenarios, steps });
	for (const { file, tail } of parts) {
		const replay = replaying();
		await readResult(file, async (result) => {
			await tell(...replay.before(result), { type: 'step', result });
			replay.take(result);
		});
		await tell(...replay.ends(tail.outcomes));
	}
	const stopped = parts.map(({ tail }) => tail.stopped).find(Boolean) ?? '';
	await tell({ type: 'end', summary: state.summary, ms: Math.max(...parts.map(({ tail }) => tail.ms)), stopped });
	const { verdict: gate, steps: seen } = judge.judge(state, suite?.gate, history?.past ?? []);
	const delivered = await deliver(io, outputs, state, gate.code, gate);
	const unpublished = await publisher?.end(state, gate);
	const unkept = stopped ? undefined : await history?.add(state, gate, seen);
	if (unkept) io.err(`heron merge: ${unkept}\n`);
	if (unpublished) io.err(`heron merge: ${unpublished}\n`);
	io.err(`${counted(parts.length, 'result')} merged\n`);
	return delivered && !unpublished && !unkept ? gate.code : NOT_DELIVERED;
}
