import { touchCounter } from '#core/coverage/index.ts';
import { isInCheckout, versionOf } from '#server/folder/version.ts';
import { exactNumber, writeJson } from '#core/model/json.ts';
import { createJudge, type Verdict } from '#core/gate/index.ts';
import { HeronError, type Problem } from '#core/errors.ts';
import { didYouMean } from '#core/messages.ts';
import type { JsonObject } from '#core/model/json.ts';
import { createRedactor } from '#core/redact/index.ts';
import {
	ANNOTATIONS,
	annotations,
	consoleReport,
	reportKind,
	reportKinds,
	type Annotations,
	type ReportOptions,
	type ReportSink
} from '#core/reports/index.ts';
import { tame } from '#core/tame.ts';
import {
	choose,
	assertAllowed,
	findUnresolved,
	guardOf,
	openRows,
	parseShard,
	shardOf,
	type Shard,
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
	type RowsChoice,
	type RunInfo,
	type RunState
} from '#core/run/index.ts';
import type { Gate, Suite } from '#core/model/suite.ts';
import { datasetFile, parseTake } from '#core/model/rows.ts';
import { createEvaluator } from '#core/values/index.ts';
import { createEngine, readSecrets, withFile, type DataSource, type ProjectFolder } from '#server/engine/index.ts';
import { randomInt, randomUUID } from 'node:crypto';
import { setMaxListeners } from 'node:events';
import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { basename, join, relative, resolve, sep } from 'node:path';
import { buildFacts } from './ci/index.ts';
import { one, USAGE, type Flags, type Io } from './command.ts';
import { durationOf, numberOf } from './options.ts';
import type { Borrowed } from './export.ts';
import { openHistory } from './history.ts';
import { openOutput, type Output } from './output.ts';
import { openPublisher, publishingTo } from './publish.ts';
import { readResult } from './result-file.ts';
import { assertSound, environmentOf, lookedUp, openProject, withProject } from './project.ts';

const INTERRUPTED = 130;
export const NOT_DELIVERED = 4;

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
		throw new HeronError('usage', { detail: `--link wants an address of the web, this is "${link}"` });
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
	} else if (log !== undefined)
		throw new HeronError('usage', { detail: '--standins-log: no stand-in is started for this run' });
	refuseProblems(unresolved.map((problem) => placed(folder, problem)));
	const judge = createJudge(workspace.quarantine, touchCounter(workspace, shard ? undefined : suite?.gate));
	// a part of a run is judged with the others, when they are merged
	// parts publish nothing of themselves: what becomes of them does
	const told = shard ? ([io, flags] as const) : publishingTo(io, flags, suite);
	const history = shard ? undefined : await openHistory(...told, basename(folder.dir), info);
	const outputs = openReports(io, flags, folder);
	const publisher = await openPublisher(...told, basename(folder.dir));

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

/** `--shard 2/3`. @throws HeronError usage */
function shardIn(flags: Flags): Shard | undefined {
	const text = one(flags, 'shard');
	if (text === undefined) {
		if (flags.timings !== undefined) throw new HeronError('usage', { detail: '--timings goes with --shard' });
		return undefined;
	}
	const shard = parseShard(text);
	if (!shard)
		throw new HeronError('usage', { detail: `--shard wants a part of a number, such as 2/3, this is "${text}"` });
	return shard;
}

/** How long scenarios took in an earlier run, by its JSON result; a file that is not there yet says nothing. */
async function timesIn(flags: Flags): Promise<Map<string, number>> {
	const file = one(flags, 'timings');
	if (file === undefined || !existsSync(file)) return new Map();
	const { tail } = await readResult(file);
	return new Map(
		tail.outcomes.filter(({ outcome }) => outcome !== 'skipped').map(({ scenario, ms }) => [scenario, ms])
	);
}

/** Of a part of a run only what counts in a part: what it is compared with, and shares of it, are of the whole. */
function partGate(suite: Suite | undefined): Gate | undefined {
	if (!suite) return undefined;
	const { failed, errors, contract } = suite.gate;
	return {
		against: '',
		...(failed === undefined ? {} : { failed }),
		...(errors === undefined ? {} : { errors }),
		...(contract === undefined ? {} : { contract })
	};
}

type Delivery = Output & { sink: ReportSink };

export async function deliver(
	io: Io,
	outputs: Delivery[],
	state: RunState,
	exitCode: number,
	gate: Verdict
): Promise<boolean> {
	let delivered = true;
	for (const output of outputs) {
		output.write(output.sink.end(state, exitCode, gate));
		const problem = await output.close();
		if (!problem) continue;
		delivered = false;
		io.err(`heron run: ${problem}\n`);
	}
	return delivered;
}

/**
 * Where steps and checks of a project's collections stand, as the build sees their files.
 * @param borrowed they are those of a server: places are below the project
 */
function placesIn(
	{ dir, documents, workspace }: ProjectFolder,
	borrowed: boolean
): NonNullable<ReportOptions['placeOf']> {
	const from = borrowed ? '' : relative(process.cwd(), resolve(dir)).split(sep).join('/');
	return ({ scenario, index, step, depth }, check) => {
		const [collection = '', id = ''] = scenario.split('/');
		const path = `collections/${collection}.yaml`;
		const at = workspace.collections.get(collection)?.scenarios.findIndex((one) => one.id === id) ?? -1;
		const document = documents.get(path);
		if (at < 0 || !document) return undefined;
		// a step within a call stands in another scenario: its call is told
		const inside = (depth ?? 0) > 0 || step.includes('/');
		const place = document.placeOf([
			...['scenarios', at, 'steps', index],
			...(check === undefined || inside ? [] : ['checks', check])
		]);
		return place && { file: from ? `${from}/${path}` : path, line: place.line, column: place.column };
	};
}

/** @throws HeronError usage */
function annotationsOf(flags: Flags): Annotations | undefined {
	const form = one(flags, 'annotate');
	if (form === undefined || (ANNOTATIONS as readonly string[]).includes(form)) return form as Annotations | undefined;
	throw new HeronError('usage', { detail: `--annotate wants one of ${ANNOTATIONS.join(', ')}, this is "${form}"` });
}

/** Opens all reports before anything is sent, so that a wrong path is found out in time. */
export function openReports(io: Io, flags: Flags, project?: ProjectFolder): Delivery[] {
	const tty = process.stdout.isTTY === true && !io.env.NO_COLOR;
	const options = {
		color: tty && flags['no-color'] !== true,
		detail: flags.quiet ? ('quiet' as const) : flags.verbose ? ('verbose' as const) : ('normal' as const),
		version: io.version,
		...(project ? { placeOf: placesIn(project, one(flags, 'name') !== undefined) } : {})
	};
	const wanted = ((flags.report as string[] | undefined) ?? []).map((text) => {
		const [key = '', ...rest] = text.split('=');
		const kind = reportKind(key);
		if (!kind)
			throw new HeronError('usage', {
				detail: `there is no report "${key}"${didYouMean(
					key,
					reportKinds.map((k) => k.key)
				)}`
			});
		const file = rest.join('=');
		if (!file)
			throw new HeronError('usage', {
				detail: `--report ${key} wants a file: --report ${key}=out.${key === 'junit' ? 'xml' : key}`
			});
		return { kind, file };
	});
	const aside = one(flags, 'aside');
	if (aside !== undefined) wanted.push({ kind: reportKind('aside')!, file: aside });
	const toStdout = wanted.filter((one) => one.file === '-').length;
	if (toStdout > 1) throw new HeronError('usage', { detail: 'only one report can go to standard output' });
	const reports = wanted.map(({ kind, file }) => ({ ...openOutput(io, file), sink: kind.open(options) }));
	// where a report takes standard output, what people read goes to standard error
	const raw = toStdout ? { ...io.raw, out: io.raw.err } : io.raw;
	const shown = openOutput({ ...io, raw }, '-');
	// whoever reads it may have seen enough, such as head: that ends the printing, and nothing else
	const close = async () => {
		const trouble = toStdout ? undefined : await io.written();
		return trouble && trouble.code !== 'EPIPE' ? `standard output is not whole: ${trouble.message}` : undefined;
	};
	const form = annotationsOf(flags);
	const marks = form
		? [{ ...shown, close: () => Promise.resolve(undefined), sink: annotations(form).open(options) }]
		: [];
	return [...reports, ...marks, { ...shown, close, sink: consoleReport.open(options) }];
}

/** Where rows come from: a dataset of the project, or any file by its path. */
function rowsOf(folder: ProjectFolder, flags: Flags): { data: DataSource; choice: RowsChoice } {
	const take = one(flags, 'rows');
	if (take !== undefined && !parseTake(take))
		throw new HeronError('usage', {
			detail: `--rows wants numbers and ranges such as 1-10,15 or 20-, this is "${take}"`
		});
	const choice: RowsChoice = take === undefined ? {} : { take };
	const name = one(flags, 'data');
	if (name === undefined) return { data: folder.data, choice };
	if ('path' in datasetFile(name, folder.data.files()) || !existsSync(name))
		return { data: folder.data, choice: { ...choice, data: name } };
	const { source, data } = withFile(folder.data, resolve(name));
	return { data: source, choice: { ...choice, data } };
}

const placed = ({ documents }: ProjectFolder, problem: Problem): Problem => ({
	...problem,
	...documents.get(problem.file)?.placeOf(problem.path)
});

/** `--set NAME=VALUE`: a number, true, false or null keeps its type, everything else is text. */
function setOf(flags: Flags): JsonObject {
	const set: JsonObject = {};
	for (const text of (flags.set as string[] | undefined) ?? []) {
		const at = text.indexOf('=');
		if (at < 1) throw new HeronError('usage', { detail: `--set wants NAME=VALUE, this is "${text}"` });
		const value = text.slice(at + 1);
		const typed =
			/^-?(0|[1-9]\d*)(\.\d+)?$/.test(value) && value.length <= 400
				? exactNumber(value)
				: { true: true, false: false, null: null }[value];
		set[text.slice(0, at)] = typed === undefined ? value : typed;
	}
	return set;
}

/** One line on standard error that is written over, on a terminal only. */
function createProgress(io: Io, quiet: boolean) {
	const on = !quiet && process.stderr.isTTY === true;
	let last = 0;
	return {
		show(state: RunState) {
			if (!on || Date.now() - last < 80) return;
			last = Date.now();
			const width = 24;
			const full = state.total ? Math.round((state.done / state.total) * width) : 0;
			const { failed, errors } = state.summary;
			const under = [...state.under][0];
			const line = `${'━'.repeat(full)}${'─'.repeat(width - full)} ${state.done} of ${state.total}${failed + errors ? `, ${failed} failed, ${errors} errors` : ''}${under ? tame(`  ${under[0]} › ${under[1]}`) : ''}`;
			io.raw.err(`\r\u001b[2K${line.slice(0, (process.stderr.columns ?? 80) - 1)}`);
		},
		clear() {
			if (on) io.raw.err('\r\u001b[2K');
		}
	};
}

/** What a checkout says of itself, where no options do. */
async function versionHere(dir: string, flags: Flags): Promise<{ commit: string; branch: string }> {
	const given = one(flags, 'commit') !== undefined && one(flags, 'branch') !== undefined;
	const state = given || !isInCheckout(dir) ? undefined : await versionOf(dir);
	if (!state) return { commit: '', branch: '' };
	return {
		commit: state.commit && `${state.commit}${state.changed.size > 0 ? ' with changes' : ''}`,
		branch: state.branch
	};
}
