import { writeJson, type JsonObject } from '#core/model/json.ts';
import { HeronError, type Problem } from '#core/errors.ts';
import { createRedactor, type Redactor } from '#core/redact/index.ts';
import {
	choose,
	assertAllowed,
	findUnresolved,
	guardOf,
	openRows,
	shardOf,
	rehearse,
	rehearsedText,
	refuseProblems,
	rowStarts,
	runPlan,
	standInsInVariables,
	standInsNeeded,
	startNames,
	titleOf,
	type Ports,
	type RowsOf,
	type RunInfo,
	type RunPlan,
	type StartNames
} from '#core/run/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { createEngine, readSecrets, type ProjectFolder } from '#server/engine/index.ts';
import { randomInt, randomUUID } from 'node:crypto';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { buildFacts } from './ci/index.ts';
import { one, USAGE, type Flags, type Io } from './command.ts';
import { durationOf, numberOf } from './options.ts';
import type { Borrowed } from './export.ts';
import { rowsOf, setOf, shardIn, tellUnasked, timesIn, versionHere } from './run-options.ts';
import { follow, stopping, type Asked } from './run-following.ts';
import { assertSound, environmentOf, lookedUp, openProject, withProject } from './project.ts';

/** `heron run`: exit codes are in the manual, docs/command.md. */
export async function run(io: Io, names: string[], flags: Flags): Promise<number> {
	const begun: Begun = [];
	try {
		const { flags: own, revision } = await withProject(io, names, flags, begun);
		return await carryOut(io, names, own, { begun, revision });
	} finally {
		for (const one of begun) await one.close();
	}
}

/** What is closed at the end, whatever it is. */
type Begun = { close(): Promise<void> }[];

async function carryOut(
	io: Io,
	names: string[],
	flags: Flags,
	{ begun, revision }: { begun: Begun; revision: Borrowed['revision'] }
): Promise<number> {
	const asked = await askedIn(io, names, flags, revision);
	const { folder, scenarios, suite, info } = asked;
	const { workspace } = folder;
	const secrets = readSecrets(
		io.env,
		workspace.environments.get(info.environment)?.secrets ?? [],
		one(flags, 'secrets')
	);
	const redactor = createRedactor(secrets);
	const engine = createEngine();
	const { data, choice } = rowsOf(folder, flags);
	const ports = engine.ports({
		seed: info.seed,
		readFile: folder.readFile,
		data,
		guard: guardOf(workspace.environments.get(info.environment), secrets),
		...keeping(flags, redactor)
	});
	const tools: Tools = { secrets, redactor, ports, set: setOf(flags) };
	tellUnasked(io, workspace, tools.set);
	if (flags.rehearse === true) {
		const rows = await openRows(scenarios, choice, ports);
		const code = await rehearsed(io, flags, asked, tools, rows);
		engine.close();
		return code;
	}
	assertAllowed(workspace, scenarios, info.environment, {
		allowed: flags['allow-guarded'] === true,
		how: ': --allow-guarded lets them'
	});
	const timeout = durationOf(flags, 'timeout');
	const parallel = numberOf(flags, 'parallel', 1) ?? suite?.parallel ?? 1;
	const stopAfter = numberOf(flags, 'stop-after', 1) ?? 0;
	const retries = numberOf(flags, 'retries', 0) ?? suite?.retries ?? 0;
	const rows = await openRows(scenarios, choice, ports);
	const start = await resolved(io, flags, asked, tools, rows, begun);
	const plan: RunPlan = {
		...{ run: info, workspace, scenarios, start, rows, redactor, parallel, stopAfter, retries },
		...{ only: [], agent: `loyal-heron/${io.version}` }
	};
	const following = await follow(io, flags, asked);
	const stop = stopping(io, timeout, one(flags, 'timeout') ?? '');
	try {
		for await (const batch of runPlan(plan, ports, stop.signal)) await following.take(batch);
	} finally {
		stop.end();
		following.pause();
		engine.close();
	}
	return following.end(stop.interrupted());
}

/** What is asked for. @throws HeronError usage.*, project.*, run.* */
async function askedIn(io: Io, names: string[], flags: Flags, revision: Borrowed['revision']): Promise<Asked> {
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
	const info: RunInfo = {
		id: randomUUID(),
		startedAt: Date.now(),
		title: titleOf(workspace, names, chosen),
		project: workspace.project.title,
		environment,
		suite: suite?.name ?? '',
		...(await buildOf(io, flags, folder)),
		...revision,
		...(shard ? { shard: `${shard.index}/${shard.count}` } : {}),
		seed
	};
	return { folder, scenarios, suite, shard, info };
}

/** The build that a run belongs to: as the options say, else the build system, else the checkout. @throws HeronError usage.option */
async function buildOf(
	{ env }: Io,
	flags: Flags,
	{ dir }: ProjectFolder
): Promise<Pick<RunInfo, 'job' | 'build' | 'commit' | 'branch' | 'link'>> {
	const version = await versionHere(dir, flags);
	const facts = buildFacts(env);
	const link = one(flags, 'link') ?? facts.link;
	if (link !== undefined && !/^https?:\/\//i.test(link))
		throw new HeronError('usage.option', { option: 'link', wanted: 'an address of the web', given: link });
	return {
		job: one(flags, 'job') ?? facts.job ?? '',
		build: one(flags, 'build') ?? facts.build ?? '',
		commit: one(flags, 'commit') ?? facts.commit ?? version.commit,
		branch: one(flags, 'branch') ?? facts.branch ?? version.branch,
		...(link === undefined ? {} : { link })
	};
}

/** Where files go that steps keep. */
function keeping(flags: Flags, redactor: Redactor): { onFile?: (name: string, bytes: Uint8Array) => void } {
	const into = one(flags, 'keep-files');
	if (into === undefined) return {};
	mkdirSync(into, { recursive: true });
	return { onFile: (name, bytes) => writeFileSync(join(into, name), redactor.bytes(bytes)) };
}

/** What values are computed with. */
interface Tools {
	secrets: Record<string, string>;
	redactor: Redactor;
	ports: Ports;
	/** Variables that the options give. */
	set: JsonObject;
}

const namesWith = (
	{ folder, info }: Asked,
	{ secrets, redactor, ports, set }: Tools,
	standIns: Record<string, string>
): Promise<StartNames> => {
	const given = { ...set, ...(Object.keys(standIns).length > 0 ? { standIns } : {}) };
	return startNames(folder.workspace, info.environment, { set: given, secrets, run: info }, ports, redactor);
};

/** Shows what would be sent; gives the exit code. */
async function rehearsed(io: Io, flags: Flags, asked: Asked, tools: Tools, rows: RowsOf): Promise<number> {
	const { folder, scenarios, info } = asked;
	const { workspace } = folder;
	const { redactor, ports } = tools;
	// where a stand-in will listen is known when it does
	const later = [...workspace.standIns.keys()].map((name): [string, string] => [
		name,
		`http://${name}.stand-in.invalid`
	]);
	const start = await namesWith(asked, tools, Object.fromEntries(later));
	const { environment, seed } = info;
	const agent = `loyal-heron/${io.version}`;
	const evaluator = createEvaluator();
	const context = { workspace, start, ports, evaluator, redactor, environment, agent, signal: undefined };
	let code = 0;
	for await (const step of rehearse({ context, scenarios, rows, redactor, seed })) {
		io.out(flags.json === true ? `${writeJson(step)}\n` : rehearsedText(step));
		if (step.trouble !== undefined) code = USAGE;
	}
	return code;
}

/** The names that the run starts with; stand-ins that it needs are started. @throws HeronError project.invalid, usage.*, standIn.* */
async function resolved(
	io: Io,
	flags: Flags,
	asked: Asked,
	tools: Tools,
	rows: RowsOf,
	begun: Begun
): Promise<StartNames> {
	const { folder, scenarios, info } = asked;
	const unresolvedIn = async (names: StartNames) =>
		findUnresolved(folder.workspace, scenarios, names, await rowStarts(rows, names));
	const log = one(flags, 'standins-log');
	let start = await namesWith(asked, tools, {});
	let unresolved = await unresolvedIn(start);
	const standsIn = unresolved.some(({ code }) => code === 'run.standIn') && tools.set.standIns === undefined;
	// what the environment has answered by stand-ins cannot be asked without them
	if (flags['with-standins'] === true || (standsIn && unresolved.every(({ code }) => code === 'run.standIn'))) {
		const { standInsOf } = await import('./standins.ts');
		const standIns = await standInsOf(io, folder, {
			names: [
				...scenarios.flatMap((one) => [...standInsNeeded(folder.workspace, one, info.environment)]),
				...standInsInVariables(folder.workspace, info.environment)
			],
			...{ environment: info.environment, secrets: tools.secrets, set: tools.set, log }
		});
		begun.push(standIns);
		start = await namesWith(asked, tools, standIns.addresses);
		unresolved = await unresolvedIn(start);
	} else if (log !== undefined) throw new HeronError('usage.noStandInLog');
	// stand-ins are started once nothing else is in the way
	const told = standsIn ? unresolved.filter(({ code }) => code !== 'run.standIn') : unresolved;
	refuseProblems((told.length > 0 ? told : unresolved).map((problem) => placed(folder, problem)));
	return start;
}

const placed = ({ documents }: ProjectFolder, problem: Problem): Problem => ({
	...problem,
	...documents.get(problem.file)?.placeOf(problem.path)
});
