import { checkVector } from '#core/auth/index.ts';
import { counted } from '#core/messages.ts';
import { isObject, writeJson, type JsonObject } from '#core/model/json.ts';
import { createEvaluator } from '#core/values/index.ts';
import { HeronError, type Problem } from '#core/errors.ts';
import { fileOf } from '#core/documents/kinds.ts';
import {
	allScenarios,
	runnableScenarios,
	findUnkept,
	findUnresolved,
	unrecordedRun,
	openRows,
	rowStarts,
	startNames,
	type Chosen,
	type StartNames
} from '#core/run/index.ts';
import { createEngine, readSecrets, type ProjectFolder } from '#server/engine/index.ts';
import { trialServices } from '#server/engine/stand-in/trial.ts';
import { one, USAGE, type Flags, type Io } from './command.ts';
import { refusedIn } from './refused.ts';
import { environmentOf, listProblems, openProject, withProject } from './project.ts';

/** What is wrong with the rows of a scenario, at its place; nothing when that is known already. */
function rowsProblem(folder: ProjectFolder, { collection, scenario }: Chosen, error: HeronError): Problem[] {
	const { workspace, documents } = folder;
	const file = fileOf('collection', collection);
	const path = ['scenarios', workspace.collections.get(collection)!.scenarios.indexOf(scenario), 'rows'];
	const known = workspace.problems.some((one) => one.file === file && path.every((key, at) => one.path[at] === key));
	return known ? [] : [{ code: error.code, message: error.message, file, path, ...documents.get(file)?.placeOf(path) }];
}

/** Signature recipes that do not give what their test vectors say. */
async function vectorProblems({ documents }: ProjectFolder): Promise<Problem[]> {
	const out: Problem[] = [];
	for (const { path: file, kind, value, problems, placeOf } of documents.values()) {
		if (kind.name !== 'credential' || problems.length > 0 || !isObject(value) || value.vector === undefined) continue;
		const path = ['vector'];
		const say = (message: string) => void out.push({ code: 'auth.vector', message, file, path, ...placeOf(path) });
		try {
			const { agrees, first, error, lines } = await checkVector(value as JsonObject, createEvaluator());
			const line = lines.find(({ name }) => name === first);
			if (!agrees)
				say(
					first === undefined
						? `the recipe does not work for its test vector: ${error ?? ''}`
						: `the recipe does not give what its test vector says: ${first} is ${writeJson(line?.value ?? null)}${line?.expected === undefined ? '' : `, and ${writeJson(line.expected)} is expected`}`
				);
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			say(error.message);
		}
	}
	return out;
}

/** What of the answers of stand-ins is refused by their definitions, or fails. */
async function standInWarnings(io: Io, folder: ProjectFolder, flags: Flags): Promise<Problem[]> {
	const { workspace } = folder;
	const sound = [...workspace.standIns.values()].filter(
		({ name }) => !workspace.problems.some(({ file }) => file === fileOf('stand-in', name))
	);
	if (sound.length === 0) return [];
	const environment = one(flags, 'env') ?? '';
	const secrets = readSecrets(io.env, workspace.environments.get(environment)?.secrets ?? [], one(flags, 'secrets'));
	const engine = createEngine();
	try {
		const services = await trialServices(engine, folder, sound, { environment, secrets });
		return await refusedIn(folder, services, { environment: environment !== '', secrets });
	} finally {
		engine.close();
	}
}

/** Without stand-ins that do not run: that is no mistake in a file. */
const unresolvedIn = (problems: Problem[]): Problem[] => problems.filter(({ code }) => code !== 'run.standIn');

/** `heron check`: 0 when nothing is wrong, 2 when something is. */
export async function check(io: Io, _: string[], flags: Flags): Promise<number> {
	const begun: { close(): Promise<void> }[] = [];
	try {
		return await checkFolder(io, (await withProject(io, [], flags, begun)).flags);
	} finally {
		for (const one of begun) await one.close();
	}
}

async function checkFolder(io: Io, flags: Flags): Promise<number> {
	const folder = openProject(flags);
	const { workspace } = folder;
	const problems = [...workspace.problems];
	const environment = one(flags, 'env');
	const refused = await standInWarnings(io, folder, flags);
	if (environment !== undefined) {
		environmentOf(folder, environment);
		const engine = createEngine();
		const secrets = readSecrets(io.env, workspace.environments.get(environment)?.secrets ?? [], one(flags, 'secrets'));
		const ports = engine.ports({ seed: 1, readFile: folder.readFile, data: folder.data });
		const start = await startNames(
			workspace,
			environment,
			{ set: {}, secrets, run: unrecordedRun(environment, Date.now()) },
			ports
		);
		const rows = new Map<string, StartNames>();
		// one dataset that cannot be read hides nothing of the others
		const runnable = runnableScenarios(workspace);
		for (const chosen of runnable) {
			try {
				for (const [key, found] of await rowStarts(await openRows([chosen], {}, ports), start)) rows.set(key, found);
			} catch (error) {
				if (!(error instanceof HeronError)) throw error;
				problems.push(...rowsProblem(folder, chosen, error));
			}
		}
		problems.push(
			...unresolvedIn(findUnresolved(workspace, runnable, start, rows)).map((p) => ({
				...p,
				...folder.documents.get(p.file)?.placeOf(p.path)
			}))
		);
		engine.close();
	} else {
		for (const problem of findUnkept(workspace, runnableScenarios(workspace), workspace.project.environment))
			problems.push({ ...problem, ...folder.documents.get(problem.file)?.placeOf(problem.path) });
	}
	problems.push(...(await vectorProblems(folder)));
	const warnings = [...workspace.warnings, ...workspace.definitionWarnings(), ...refused];
	listProblems(io, problems);
	listProblems(io, warnings, 'warning: ');
	const { collections, connections, environments, suites } = workspace;
	const has = [
		counted(collections.size, 'collection'),
		counted(allScenarios(workspace).length, 'scenario'),
		counted(connections.size, 'connection'),
		counted(environments.size, 'environment'),
		counted(suites.size, 'suite'),
		...(workspace.standIns.size > 0 ? [counted(workspace.standIns.size, 'stand-in')] : [])
	];
	const also = warnings.length > 0 ? `, ${counted(warnings.length, 'warning')}` : '';
	io.out(
		problems.length === 0
			? `${has.join(', ')}: nothing is wrong${also}\n`
			: `${counted(problems.length, 'problem')}${also}\n`
	);
	return problems.length === 0 ? 0 : USAGE;
}
