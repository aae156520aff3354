import { createWorkspace } from '#core/project/index.ts';
import { createRedactor } from '#core/redact/index.ts';
import { guardOf, unrecordedRun, startNames } from '#core/run/index.ts';
import { createEvaluator } from '#core/values/index.ts';
import { createEngine, fetchDefinition, readSecrets, type ProjectFolder } from '#server/engine/index.ts';
import { one, type Flags, type Io } from './command.ts';
import { environmentOf } from './project.ts';

/** Fetches a definition from an address, over a connection of the project where there is one. */
export async function fetchFor(
	io: Io,
	address: string,
	to: string,
	connection: string,
	folder: ProjectFolder | undefined,
	flags: Flags
): ReturnType<typeof fetchDefinition> {
	const workspace = folder?.workspace ?? createWorkspace([], new Set());
	const environment = folder ? environmentOf(folder, one(flags, 'env') ?? workspace.project.environment) : '';
	const secrets = readSecrets(io.env, workspace.environments.get(environment)?.secrets ?? [], one(flags, 'secrets'));
	const engine = createEngine();
	try {
		const ports = engine.ports({
			seed: 1,
			...(folder ? { readFile: folder.readFile } : {}),
			guard: guardOf(workspace.environments.get(environment), secrets)
		});
		const given = { set: {}, secrets, run: unrecordedRun(environment, Date.now()) };
		const redactor = createRedactor(secrets);
		const start = await startNames(workspace, environment, given, ports, redactor);
		return await fetchDefinition(
			address,
			to,
			connection,
			{
				...{ workspace, start, ports, environment, signal: undefined },
				evaluator: createEvaluator(),
				redactor,
				agent: `loyal-heron/${io.version}`
			},
			flags['other-hosts'] === true
		);
	} finally {
		engine.close();
	}
}
