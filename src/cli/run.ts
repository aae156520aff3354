import { touchCounter } from '#core/coverage/index.ts';
import { writeJson } from '#core/model/json.ts';
import { createJudge } from '#core/gate/index.ts';
import { HeronError, type Problem } from '#core/errors.ts';
import { createRedactor } from '#core/redact/index.ts';
import {
	choose,
	assertAllowed,
	findUnresolved,
	guardOf,
	openRows,
	shardOf,
	reduceRun,
	rehearse,
	rehearsedText,
	refuseProblems,
	rowStarts,
	runPlan,
	startNames,
	titleOf,
	startState,
	type StartNames,
	type RunInfo
} from '#core/run/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { createEngine, readSecrets, type ProjectFolder } from '#server/engine/index.ts';
import { randomInt, randomUUID } from 'node:crypto';
import { setMaxListeners } from 'node:events';
import { mkdirSync, writeFileSync } from 'node:fs';
import { basename, join } from 'node:path';
import { buildFacts } from './ci/index.ts';
import { one, USAGE, type Flags, type Io } from './command.ts';
import { durationOf, numberOf } from './options.ts';
import type { Borrowed } from './export.ts';
import { openHistory } from './history.ts';
import { openPublisher, publishingTo } from './publish.ts';
import { createProgress } from './progress.ts';
import { deliver, NOT_DELIVERED, openReports } from './reports.ts';
import { partGate, rowsOf, setOf, shardIn, timesIn, versionHere } from './run-options.ts';
import { assertSound, environmentOf, lookedUp, openProject, withProject } from './project.ts';

const INTERRUPTED = 130;

/** `heron run`: exit codes are in the manual, docs/command.md. */
export async function run(io: Io, names: string[], flags: Flags): Promise<number> {
	const begun: { close(): Promise<void> }[] = [];
	try {
		const { flags: own, revision } = await withProject(io, names, flags, begun);
		return await carryOut(io, names, own, { begun, revision });
	} finally {
		for (const one of begun) await one.close();
	}
}

/** @param around `begun`: what has to be closed at the end, whatever it is; `revision`: of a server's project */
async function carryOut(
	io: Io,
	names: string[],
	flags: Flags,
	{ begun, revision }: { begun: { close(): Promise<void> }[]; revision: Borrowed['revision'] }
): Promise<number> {
	const folder = openProject(flags);
	const { workspace } = folder;
	const tag = one(flags, 'tag');
	const chosen = lookedUp(folder, () => choose(workspace, { targets: names, ...(tag === undefined ? {} : { tag }) }));
	const { suite } = chosen;
	if (suite?.revision && revision.pinned === undefined && flags.quiet !== true)
		io.err(
			`the suite ${suite.name} names the revision ${suite.revision}, which a server knows: the files here are taken as they are\n`
		);
	const shard = shardIn(flags);
	const scenarios = shard ? shardOf(chosen.scenarios, shard, await timesIn(flags)) : chosen.scenarios;
	if (chosen.scenarios.length === 0)
		lookedUp(folder, () => {
			throw new HeronError('project.empty');
		});
	const wanted = one(flags, 'env') ?? (suite?.environment || workspace.project.environment);
	const environment = lookedUp(folder, () => environmentOf(folder, wanted));
	assertSound(io, folder, { targets: names, scenarios, suite, environment });
	const seed = numberOf(flags, 'seed', 0) ?? randomInt(1, 2 ** 31);
	const version = await versionHere(folder.dir, flags);
	const facts = buildFacts(io.env);
	const link = one(flags, 'link') ?? facts.link;
	if (link !== undefined && !/^https?:\/\//i.test(link))
		throw new HeronError('usage.option', { option: 'link', wanted: 'an address of the web', given: link });
	const info: RunInfo = {
		id: randomUUID(),
		startedAt: Date.now(),
		title: titleOf(workspace, names, chosen),
		project: workspace.project.title,
		environment,
		suite: suite?.name ?? '',
		job: one(flags, 'job') ?? facts.job ?? '',
		build: one(flags, 'build') ?? facts.build ?? '',
		commit: one(flags, 'commit') ?? facts.commit ?? version.commit,
		branch: one(flags, 'branch') ?? facts.branch ?? version.branch,
		...revision,
		...(link === undefined ? {} : { link }),
		...(shard ? { shard: `${shard.index}/${shard.count}` } : {}),
		seed
	};
	const secrets = readSecrets(io.env, workspace.environments.get(environment)?.secrets ?? [], one(flags, 'secrets'));
	const redactor = createRedactor(secrets);
	const engine = createEngine();
	const { data, choice } = rowsOf(folder, flags);
	const into = one(flags, 'keep-files');
	if (into !== undefined) mkdirSync(into, { recursive: true });
	const onFile =
		into === undefined
			? undefined
			: (name: string, bytes: Uint8Array) => writeFileSync(join(into, name), redactor.bytes(bytes));
	const ports = engine.ports({
		seed,
		readFile: folder.readFile,
		data,
		guard: guardOf(workspace.environments.get(environment), secrets),
		...(onFile ? { onFile } : {})
	});
	const set = setOf(flags);
	const log = one(flags, 'standins-log');
	const namesWith = (standIns: Record<string, string>) =>
		startNames(
			workspace,
			environment,
			{ set: { ...set, ...(Object.keys(standIns).length > 0 ? { standIns } : {}) }, secrets, run: info },
			ports,
			redactor
		);
	if (flags.rehearse === true) {
		const rows = await openRows(scenarios, choice, ports);
		// where a stand-in will listen is known when it does
		const later = [...workspace.standIns.keys()].map((name): [string, string] => [
			name,
			`http://${name}.stand-in.invalid`
		]);
		const start = await namesWith(Object.fromEntries(later));
		const evaluator = createEvaluator();
		const agent = `loyal-heron/${io.version}`;
		const context = { workspace, start, ports, evaluator, redactor, environment, agent, signal: undefined };
		let code = 0;
		for await (const step of rehearse({ context, scenarios, rows, redactor, seed })) {
			io.out(flags.json === true ? `${writeJson(step)}\n` : rehearsedText(step));
			if (step.trouble !== undefined) code = USAGE;
		}
		engine.close();
		return code;
	}
	assertAllowed(workspace, scenarios, environment, {
		allowed: flags['allow-guarded'] === true,
		how: ': --allow-guarded lets them'
	});
	const timeout = durationOf(flags, 'timeout');
	const parallel = numberOf(flags, 'parallel', 1) ?? suite?.parallel ?? 1;
	const stopAfter = numberOf(flags, 'stop-after', 1) ?? 0;
	const retries = numberOf(flags, 'retries', 0) ?? suite?.retries ?? 0;
	const rows = await openRows(scenarios, choice, ports);
	const unresolvedIn = async (names: StartNames) =>
		findUnresolved(workspace, scenarios, names, await rowStarts(rows, names));
	// stand-ins that steps wait at
	const listened = scenarios.flatMap(({ scenario }) => scenario.steps.flatMap(({ receive }) => receive?.from ?? []));
	let start = await namesWith({});
	let unresolved = await unresolvedIn(start);
	const standsIn = unresolved.some(({ code }) => code === 'run.standIn') && set.standIns === undefined;
	// what the environment has answered by stand-ins cannot be asked without them
	if (flags['with-standins'] === true || (standsIn && unresolved.every(({ code }) => code === 'run.standIn'))) {
		const standIns = await (
			await import('./standins.ts')
		).standInsOf(io, folder, { names: listened, environment, secrets, set, log });
		begun.push(standIns);
		start = await namesWith(standIns.addresses);
		unresolved = await unresolvedIn(start);
	} else if (log !== undefined) throw new HeronError('usage.noStandInLog');
	refuseProblems(unresolved.map((problem) => placed(folder, problem)));
	const judge = createJudge(workspace.quarantine, touchCounter(workspace, shard ? undefined : suite?.gate));
	// a part of a run is judged with the others, when they are merged
	// parts publish nothing of themselves: what becomes of them does
	const publishing = shard ? ([io, flags] as const) : publishingTo(io, flags, suite);
	const history = shard ? undefined : await openHistory(...publishing, basename(folder.dir), info);
	const outputs = openReports(io, flags, folder);
	const publisher = await openPublisher(...publishing, basename(folder.dir));

	const stop = new AbortController();
	// every request under way listens
	setMaxListeners(0, stop.signal);
	let interrupted = false;
	const onSignal = () => {
		if (interrupted) process.exit(INTERRUPTED);
		interrupted = true;
		io.err('\nstopping: clean-up steps still run; once more ends at once\n');
		stop.abort(new HeronError('send.cancelled'));
	};
	process.on('SIGINT', onSignal).on('SIGTERM', onSignal).on('SIGHUP', onSignal);
	const timer =
		timeout === undefined
			? undefined
			: setTimeout(() => stop.abort(new HeronError('step.timeout', { limit: one(flags, 'timeout')! })), timeout);

	const progress = createProgress(io, flags.quiet === true);
	const state = startState();
	try {
		const plan = {
			run: info,
			workspace,
			scenarios,
			start,
			rows,
			redactor,
			parallel,
			stopAfter,
			retries,
			only: [],
			agent: `loyal-heron/${io.version}`
		};
		for await (const batch of runPlan(plan, ports, stop.signal)) {
			for (const event of batch) {
				reduceRun(state, event);
				judge.take(event);
				for (const output of outputs) output.write(output.sink.event(event));
			}
			progress.show(state);
			await publisher?.take(batch, state);
			// a slow disk holds the run back instead of filling the memory
			for (const output of outputs) await output.drained();
		}
	} finally {
		clearTimeout(timer);
		process.off('SIGINT', onSignal).off('SIGTERM', onSignal).off('SIGHUP', onSignal);
		progress.clear();
		engine.close();
	}
	const { verdict: gate, steps } = judge.judge(state, shard ? partGate(suite) : suite?.gate, history?.past ?? []);
	const code = interrupted ? INTERRUPTED : gate.code;
	const delivered = await deliver(io, outputs, state, code, gate);
	const unpublished = await publisher?.end(state, gate);
	if (unpublished) io.err(`heron run: ${unpublished}\n`);
	// what was broken off says nothing of what is usual
	const unkept = state.stopped ? undefined : await history?.add(state, gate, steps);
	if (unkept) io.err(`heron run: ${unkept}\n`);
	return delivered && !unpublished && !unkept ? code : NOT_DELIVERED;
}

const placed = ({ documents }: ProjectFolder, problem: Problem): Problem => ({
	...problem,
	...documents.get(problem.file)?.placeOf(problem.path)
});
