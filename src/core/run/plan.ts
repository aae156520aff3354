import { HeronError, type Problem } from '../errors.ts';
import { counted, didYouMean } from '../messages.ts';
import type { Collection, Scenario } from '../documents/collection.ts';
import { standInOf, standInVariable } from '../documents/connection.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { LOCAL_FILE, localIn } from '../documents/local.ts';
import type { Suite, SuiteEntry } from '../documents/suite.ts';
import { type Workspace } from '../project/index.ts';
import { dependents, resolveVariables, type FunctionPorts, type Names, type Scope } from '../values/index.ts';
import type { Redactor } from '../redact/index.ts';
import type { RunInfo } from './events.ts';

/** A scenario that will run, with the collection it comes from. */
export interface Chosen {
	/** `collection/scenario`. */
	key: string;
	collection: string;
	collectionTitle: string;
	/** The connection by name, as the scenario or its collection says. */
	connection: string;
	scenario: Scenario;
}

/** What somebody wants to run. */
export interface Choice {
	/** Suites, collections or `collection/scenario`; none for the whole project. */
	targets: string[];
	/** Only scenarios with this tag; `a,b` for either, `!a` for none with it. */
	tag?: string;
}

/** The scenario that a step of another one calls: of the same collection by its id, or `collection/scenario`. */
export function calledScenario(
	workspace: Workspace,
	from: Pick<Chosen, 'collection'>,
	target: string
): Chosen | undefined {
	const [one = '', other] = target.split('/');
	const collection = workspace.collections.get(other === undefined ? from.collection : one);
	const scenario = collection?.scenarios.find(({ id }) => id === (other ?? one));
	return collection && scenario && chosenOf(collection, scenario);
}

const chosenOf = (collection: Collection, scenario: Scenario): Chosen => ({
	key: `${collection.name}/${scenario.id}`,
	collection: collection.name,
	collectionTitle: collection.title,
	connection: scenario.connection || collection.connection,
	scenario
});

/** All scenarios of a workspace, in order. */
export function allScenarios(workspace: Workspace): Chosen[] {
	return [...workspace.collections.values()].flatMap((collection) =>
		collection.scenarios.map((scenario) => chosenOf(collection, scenario))
	);
}

/** Those that run: what is switched off is looked at where another one calls it. */
export const runnableScenarios = (workspace: Workspace): Chosen[] =>
	allScenarios(workspace).filter(({ scenario }) => !scenario.off);

const entryFits = (entry: SuiteEntry, { key, collection, scenario }: Chosen): boolean =>
	'tag' in entry ? scenario.tags.includes(entry.tag) : entry.target === key || entry.target === collection;

function tagFits(tag: string, tags: string[]): boolean {
	const words = tag.split(',').map((word) => word.trim());
	const wanted = words.filter((word) => word && !word.startsWith('!'));
	const barred = words.filter((word) => word.startsWith('!')).map((word) => word.slice(1));
	return (
		!barred.some((word) => tags.includes(word)) && (wanted.length === 0 || wanted.some((word) => tags.includes(word)))
	);
}

/**
 * The scenarios that a choice names, each once, in the order of the project. A scenario that is off only runs when named itself.
 * @throws HeronError run.target for a name that is nothing
 */
export function choose(workspace: Workspace, choice: Choice): { scenarios: Chosen[]; suite?: Suite } {
	const all = allScenarios(workspace);
	const entries: SuiteEntry[] = [];
	let suite: Suite | undefined;
	for (const target of choice.targets) {
		const named = workspace.suites.get(target);
		if (named && !all.some((one) => one.collection === target)) {
			suite ??= named;
			for (const entry of named.scenarios) entries.push(entry);
		} else if (all.some((one) => entryFits({ target }, one)) || workspace.collections.has(target)) {
			entries.push({ target });
		} else {
			const known = [...workspace.suites.keys(), ...workspace.collections.keys(), ...all.map((one) => one.key)];
			// a scenario by its id alone
			const meant = all.find(({ scenario }) => scenario.id === target)?.key ?? target;
			throw new HeronError('run.target', { name: target, nearest: didYouMean(meant, known) });
		}
	}
	const scenarios = all.filter((one) => {
		const fits = choice.targets.length === 0 || entries.some((entry) => entryFits(entry, one));
		const named = entries.some((entry) => 'target' in entry && entry.target === one.key);
		return fits && (!one.scenario.off || named) && (!choice.tag || tagFits(choice.tag, one.scenario.tags));
	});
	return { scenarios, ...(suite ? { suite } : {}) };
}

/** What a run is called: its suite, its collection or scenario, else the project. */
export function titleOf(
	workspace: Workspace,
	targets: string[],
	chosen: { scenarios: Chosen[]; suite?: Suite }
): string {
	if (chosen.suite) return chosen.suite.title;
	const [target = ''] = targets;
	if (targets.length !== 1) return workspace.project.title;
	return workspace.collections.get(target)?.title ?? chosen.scenarios[0]?.scenario.title ?? workspace.project.title;
}

/** What a variable is from, before rows and steps. */
interface VariableOrigin {
	place: string;
	raw: JsonObject[string] | undefined;
}

/** The names a run starts with. */
export interface StartNames {
	names: Omit<Names, 'steps'>;
	broken: Map<string, Error>;
	hint: NonNullable<Scope['hint']>;
	environment: string;
	/** Where a variable has its value from, and what is written there. */
	originOf(name: string): VariableOrigin;
	/**
	 * The names with a row: its columns win over variables, and those that depend on them are computed anew.
	 * @param ports by which they make up data, in place of the run's
	 */
	withRow(row: JsonObject, ports?: FunctionPorts): Promise<StartNames>;
}

/** `clerkPassword` → `HERON_SECRET_CLERK_PASSWORD`. */
export const secretVariable = (name: string): string =>
	`HERON_SECRET_${name
		.replace(/([a-z0-9])([A-Z])/g, '$1_$2')
		.replace(/[^A-Za-z0-9]+/g, '_')
		.toUpperCase()}`;

/** Stand-ins that an environment names, and that do not run: their addresses are given as the variable `standIns`. */
export function standInsOff(workspace: Workspace, environment: string, set: JsonObject): string[] {
	const wanted = Object.values(workspace.environments.get(environment)?.standIns ?? {});
	const running = isObject(set.standIns) ? set.standIns : {};
	return [...new Set(wanted)].filter((name) => typeof running[name] !== 'string');
}

/** What cannot be had of stand-ins that do not run: the way to each that an environment names, and the addresses, `$env.standIns`. */
function standInsWithout(
	workspace: Workspace,
	environment: string,
	set: JsonObject,
	raw: JsonObject
): [string, Error][] {
	const off = (name: string) => new HeronError('run.standIn', { name, environment: environment || 'this environment' });
	const without = standInsOff(workspace, environment, set).map((name): [string, Error] => [
		`env.${standInVariable(name)}`,
		off(name)
	]);
	if (workspace.standIns.size > 0 && !Object.hasOwn(raw, 'standIns'))
		without.push(['env.standIns', off([...workspace.standIns.keys()].join(' or '))]);
	return without;
}

/** Where a variable is set, the last that wins first. */
function originIn(
	layers: Record<'set' | 'local' | 'environment' | 'project', JsonObject>,
	environment: string,
	name: string
): VariableOrigin {
	const places: [JsonObject, string][] = [
		[layers.set, 'given for this run'],
		[layers.local, `${LOCAL_FILE}, on this machine alone`],
		[layers.environment, `environments/${environment}.yaml`],
		[layers.project, 'heron.yaml']
	];
	const found = places.find(([layer]) => Object.hasOwn(layer, name));
	return { place: found?.[1] ?? 'nowhere', raw: found?.[0][name] };
}

/** What is to be done about a name without a value. @param known the variables that are set */
const hintFor =
	(environment: string, known: JsonObject) =>
	(root: string, name: string): string => {
		if (root === 'secret') return `: give it as ${secretVariable(name)}, or in a secrets file`;
		if (root === 'env') {
			const where = [...(environment ? [`environments/${environment}.yaml`] : []), 'heron.yaml'].join(', in ');
			const guess = didYouMean(name, Object.keys(known));
			return guess.startsWith(': did') ? guess : `: set it in ${where}, or with --set ${name}=…`;
		}
		if (root === 'row')
			return ': the scenario runs over no rows (rows: NAME), and the step repeats nothing (each: NAME)';
		if (root === 'token') return ': the step’s credential gives no token';
		if (root === 'steps') return ': that step has not kept it';
		return '';
	};

/** Computes the variables of an environment for a run. */
export async function startNames(
	workspace: Workspace,
	environment: string,
	given: { set: JsonObject; secrets: Record<string, string>; run: RunInfo },
	ports: FunctionPorts,
	redactor?: Pick<Redactor, 'text' | 'made'>
): Promise<StartNames> {
	const { id, startedAt, job, build, commit, branch } = given.run;
	const run: JsonObject = { id, startedAt: new Date(startedAt).toISOString(), job, build, commit, branch };
	const layers = {
		project: workspace.project.variables,
		environment: workspace.environments.get(environment)?.variables ?? {},
		local: localIn(workspace.local, environment),
		set: given.set,
		row: {}
	};
	const raw = { ...layers.project, ...layers.environment, ...layers.local, ...layers.set };
	const hint = hintFor(environment, raw);
	const outer = { secret: given.secrets, run };
	// what variables make of secrets is hidden as long as the run lasts
	const hider = redactor && {
		text: (text: string) => redactor.text(text),
		made: (name: string, value: string) => redactor.made(name, value, true)
	};
	const without = standInsWithout(workspace, environment, given.set, raw);
	const { env, broken } = await resolveVariables(layers, outer, ports, { hint, row: {}, hider, without });
	for (const [name, address] of Object.entries(isObject(given.set.standIns) ? given.set.standIns : {}))
		env[standInVariable(name)] = address as Json;
	const names: StartNames['names'] = { env, secret: given.secrets, row: {}, run };
	// rows of one dataset have the same columns
	let known: { columns: string; affected: Set<string> } | undefined;
	const start: StartNames = {
		names,
		broken,
		hint,
		environment,
		originOf(name) {
			const standIn = standInOf(name);
			if (standIn !== undefined) return { place: `stand-ins/${standIn}.yaml`, raw: env[name] };
			return originIn(layers, environment, name);
		},
		async withRow(row, own = ports) {
			const columns = Object.keys(row).join('\0');
			if (known?.columns !== columns) known = { columns, affected: dependents(raw, new Set(Object.keys(row))) };
			const { number: _, ...values } = row;
			void _;
			const rowHint: StartNames['hint'] = (root, name) =>
				root === 'row' ? didYouMean(name, Object.keys(row)) : hint(root, name);
			const one: StartNames = { ...start, hint: rowHint, names: { ...names, env: { ...env, ...values }, row } };
			if (known.affected.size === 0) return one;
			const rest = Object.fromEntries(Object.entries(env).filter(([name]) => !known!.affected.has(name)));
			const anew = await resolveVariables({ ...layers, row: values }, outer, own, {
				...{ hint: rowHint, known: rest, row, hider, without }
			});
			return { ...one, names: { ...one.names, env: anew.env }, broken: anew.broken };
		}
	};
	return start;
}

/** @throws HeronError project.invalid with all problems when there are any */
export function refuseProblems(problems: Problem[]): void {
	if (problems.length > 0)
		throw new HeronError('project.invalid', { count: counted(problems.length, 'problem') }, { problems });
}
