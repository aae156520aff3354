import { counted } from '#core/messages.ts';
import { allScenarios, findUnresolved, lookingRun, openRows, rowStarts, startNames } from '#core/run/index.ts';
import { createEngine, readSecrets } from '#server/engine/index.ts';
import { one, USAGE, type Flags, type Io } from './command.ts';
import { environmentOf, listProblems, openProject } from './project.ts';

/** `heron check`: 0 when nothing is wrong, 2 when something is. */
export async function check(io: Io, _: string[], flags: Flags): Promise<number> {
	const folder = openProject(flags);
	const { workspace } = folder;
	const problems = [...workspace.problems];
	const environment = one(flags, 'env');
	if (environment !== undefined) {
		environmentOf(folder, environment);
		const engine = createEngine();
		const secrets = readSecrets(io.env, workspace.environments.get(environment)!.secrets, one(flags, 'secrets'));
		const ports = engine.ports({ seed: 1, readFile: folder.readFile, data: folder.data });
		const start = await startNames(
			workspace,
			environment,
			{ set: {}, secrets, run: lookingRun(environment, Date.now()) },
			ports
		);
		const rows = await rowStarts(await openRows(allScenarios(workspace), {}, ports), start);
		problems.push(
			...findUnresolved(workspace, allScenarios(workspace), start, rows).map((p) => ({
				...p,
				...folder.documents.get(p.file)?.placeOf(p.path)
			}))
		);
		engine.close();
	}
	const warnings = [...workspace.warnings, ...workspace.definitionWarnings()];
	listProblems(io, problems);
	listProblems(io, warnings, 'warning: ');
	const { collections, connections, environments, suites } = workspace;
	const has = [
		counted(collections.size, 'collection'),
		counted(allScenarios(workspace).length, 'scenario'),
		counted(connections.size, 'connection'),
		counted(environments.size, 'environment'),
		counted(suites.size, 'suite')
	];
	const also = warnings.length > 0 ? `, ${counted(warnings.length, 'warning')}` : '';
	io.out(
		problems.length === 0
			? `${has.join(', ')}: nothing is wrong${also}\n`
			: `${counted(problems.length, 'problem')}${also}\n`
	);
	return problems.length === 0 ? 0 : USAGE;
}
