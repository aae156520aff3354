import { writeJson } from '#core/model/json.ts';
import { HeronError } from '#core/errors.ts';
import { createRedactor } from '#core/redact/index.ts';
import { reachLines, type ReachReport } from '#core/reach/index.ts';
import { guardOf, unrecordedRun, startNames } from '#core/run/index.ts';
import { createWorkspace } from '#core/project/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { createEngine, readSecrets } from '#server/engine/index.ts';
import { reach } from '#server/engine/reach/index.ts';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { one, type Flags, type Io } from './command.ts';
import { durationOf } from './options.ts';
import { assertSound, environmentOf, lookedUp, openProject } from './project.ts';

const INTERRUPTED = 130;
/** Reached; reached but not let in, or not answered as an API does; not reached. */
const EXIT: Record<ReachReport['outcome'], number> = { passed: 0, warning: 0, refused: 1, failed: 3 };

/** `heron reach`: exit codes are in the manual, docs/command.md. */
export async function reachTarget(io: Io, [target, ...more]: string[], flags: Flags): Promise<number> {
	if (!target || more.length > 0) throw new HeronError('usage.reach');
	// an address needs no project
	const here = one(flags, 'project') !== undefined || existsSync(join('.', 'heron.yaml'));
	const folder = here ? openProject(flags) : undefined;
	const workspace = folder?.workspace ?? createWorkspace([], new Set());
	const environment = folder
		? lookedUp(folder, () => environmentOf(folder, one(flags, 'env') ?? workspace.project.environment))
		: '';
	if (folder) assertSound(io, folder, { targets: [], scenarios: [], environment, connections: [target] });
	const secrets = readSecrets(io.env, workspace.environments.get(environment)?.secrets ?? [], one(flags, 'secrets'));
	const redactor = createRedactor(secrets);
	const limit = durationOf(flags, 'timeout');
	const method = one(flags, 'method') ?? 'GET';
	if (!/^[A-Z]+$/.test(method))
		throw new HeronError('usage.option', { option: 'method', wanted: 'a method in capitals', given: method });
	const engine = createEngine();
	const ports = engine.ports({
		seed: 1,
		guard: guardOf(workspace.environments.get(environment), secrets),
		...(folder ? { readFile: folder.readFile } : {})
	});
	const stop = new AbortController();
	const onSignal = () => stop.abort(new HeronError('send.cancelled'));
	process.on('SIGINT', onSignal).on('SIGTERM', onSignal);
	const timer = limit === undefined ? undefined : setTimeout(onSignal, limit);
	try {
		const given = { set: {}, secrets, run: unrecordedRun(environment, Date.now()) };
		const context = {
			workspace,
			start: await startNames(workspace, environment, given, ports, redactor),
			ports,
			evaluator: createEvaluator(),
			redactor,
			environment,
			agent: `loyal-heron/${io.version}`,
			signal: stop.signal
		};
		const order = orderOf(target, environment, method, flags);
		const json = flags.json === true;
		const { exchanges, ...report } = await reach(order, context, (stage) => {
			if (!json) for (const line of reachLines({ stages: [stage] })) io.out(`${line}\n`);
		});
		if (json) {
			const calls = exchanges.map(({ method, url, reply }) => ({ method, url, status: reply?.status ?? null }));
			io.out(`${writeJson({ ...report, exchanges: calls }, '\t')}\n`);
		}
		if (stop.signal.aborted) return limit === undefined ? INTERRUPTED : EXIT.failed;
		return EXIT[report.outcome];
	} finally {
		clearTimeout(timer);
		process.off('SIGINT', onSignal).off('SIGTERM', onSignal);
		engine.close();
	}
}

function orderOf(target: string, environment: string, method: string, flags: Flags): Parameters<typeof reach>[0] {
	const [path, credential] = [one(flags, 'path'), one(flags, 'credential')];
	return {
		...{ target, environment, method, suites: flags.suites === true },
		...(path === undefined ? {} : { path }),
		...(credential === undefined ? {} : { credential })
	};
}
