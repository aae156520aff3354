import { HeronError, type Problem } from '../errors.ts';
import { namedBy, setBy, stepNames, type Step } from '../steps/index.ts';
import type { JsonObject } from '../model/json.ts';
import type { Path } from '../model/path.ts';
import { inEnvironment, standInVariable } from '../documents/connection.ts';
import type { Workspace } from '../project/index.ts';
import { meantBy, referencesIn, type Reference } from '../values/index.ts';
import { inheritedCredential } from './authorize.ts';
import { calledScenario, type Chosen, type StartNames } from './plan.ts';

/**
 * Names that are asked for before anything is sent and that are not there, each with its place.
 * @param rowStarts the names of scenarios that run over rows, with a row
 */
export function findUnresolved(
	workspace: Workspace,
	scenarios: Chosen[],
	start: StartNames,
	rowStarts: ReadonlyMap<string, StartNames> = new Map()
): Problem[] {
	const search = new Search(workspace, start.environment);
	for (const chosen of scenarios) {
		const own = Object.entries(chosen.scenario.inputs).filter(([, value]) => value !== null);
		const given = new Set(own.map(([name]) => name));
		search.scenario(chosen, { here: rowStarts.get(chosen.key) ?? start, given, calls: [chosen.key] });
	}
	search.used();
	return search.problems;
}

/** Values of steps that a connection or a credential asks for and no step above keeps: known without any value. */
export function findUnkept(workspace: Workspace, scenarios: Chosen[], environment: string): Problem[] {
	const search = new Search(workspace, environment);
	for (const chosen of scenarios) search.kept(chosen);
	return search.problems;
}

/** How a scenario is come to: by itself, or by a call. */
interface Way {
	/** The names that it starts with. */
	here: StartNames;
	/** Names that a call or the scenario's own inputs give. */
	given: ReadonlySet<string>;
	/** The scenarios that lead here, and this one. */
	calls: readonly string[];
}

/** A step, and where it stands. */
interface Placed {
	chosen: Chosen;
	step: Step;
	file: string;
	path: Path;
}

type Owner = 'connection' | 'credential';

class Search {
	readonly problems: Problem[] = [];
	readonly #workspace: Workspace;
	readonly #environment: string;
	readonly #seen = new Set<string>();
	/** Connections and credentials that are used, with the names that they are used with. */
	readonly #used: Record<Owner, Map<string, Set<StartNames>>> = { connection: new Map(), credential: new Map() };
	readonly #asked = new Map<string, Reference[]>();

	constructor(workspace: Workspace, environment: string) {
		this.#workspace = workspace;
		this.#environment = environment;
	}

	/** Looks through a scenario, and those that it calls. */
	scenario(chosen: Chosen, { here, given, calls }: Way): void {
		const set = new Set(given);
		for (const { above, ...placed } of this.#steps(chosen)) {
			const { step } = placed;
			for (const [owner, name] of this.#owners(placed)) {
				const starts = this.#used[owner].get(name) ?? new Set();
				this.#used[owner].set(name, starts.add(here));
			}
			this.#kept(placed, above);
			this.#standIns(placed, here);
			for (const { root, name, optional } of stepNames(step)) {
				// names that nobody knows are problems of the file
				if (optional || root === '' || root === 'steps' || root === 'token') continue;
				if ((root === 'row' && step.each !== undefined) || (root === 'env' && set.has(name))) continue;
				const isInput = calls.length === 1 && root === 'env' && chosen.scenario.inputs[name] === null;
				this.#name(placed, [root, name], here, isInput ? chosen.scenario.id : '');
			}
			for (const name of Object.keys(setBy(step))) set.add(name);
			const called = step.call && calledScenario(this.#workspace, chosen, step.call.target);
			if (!called || calls.includes(called.key)) continue;
			const inner = new Set([...Object.keys(called.scenario.inputs), ...Object.keys(step.call!.with)]);
			this.scenario(called, { here, given: inner, calls: [...calls, called.key] });
		}
	}

	/** Looks at the connections and credentials that the scenarios use. */
	used(): void {
		for (const [owner, names] of Object.entries(this.#used) as [Owner, Map<string, Set<StartNames>>][])
			for (const [name, starts] of names)
				for (const reference of this.#askedOf(owner, name)) {
					const { root, optional } = reference;
					if (optional || root === 'steps' || root === 'token') continue;
					if (owner === 'credential' && (root === 'lines' || root === 'row')) continue;
					for (const here of starts)
						this.#name(
							{ file: `${owner}s/${name}.yaml`, path: this.#pathOf(owner, name, reference) },
							[root, reference.name],
							here
						);
				}
	}

	/** Looks at what the connections and credentials of a scenario ask for of its steps. */
	kept(chosen: Chosen): void {
		for (const { above, ...placed } of this.#steps(chosen)) this.#kept(placed, above);
	}

	/** The steps of a scenario that are on, each with those that have been carried out before. */
	*#steps(chosen: Chosen): Generator<Placed & { above: ReadonlySet<string> }> {
		const at = this.#workspace.collections.get(chosen.collection)!.scenarios.indexOf(chosen.scenario);
		const file = `collections/${chosen.collection}.yaml`;
		const above = new Set<string>();
		for (const [index, step] of chosen.scenario.steps.entries()) {
			if (step.off) continue;
			yield { chosen, step, file, path: ['scenarios', at, 'steps', index], above };
			above.add(step.id);
		}
	}

	/** The connection that a step calls over, and the credential that it calls as. */
	#owners({ chosen, step }: Placed): [Owner, string][] {
		if (!step.send) return [];
		const { name } = inheritedCredential(this.#workspace, chosen, step.send, this.#environment);
		const through: [Owner, string] = ['connection', step.send.connection || chosen.connection];
		return name ? [through, ['credential', name]] : [through];
	}

	#kept(placed: Placed, above: ReadonlySet<string>): void {
		const { chosen, step, file, path } = placed;
		// what may be left out may have been left out for this
		if (step.when) return;
		for (const [owner, name] of this.#owners(placed))
			for (const { root, name: kept, rest, optional } of this.#askedOf(owner, name)) {
				if (root !== 'steps' || optional || above.has(kept)) continue;
				const source = ['$steps', kept, ...rest].join('.');
				const message = `${source} is not set: the ${owner} ${name} asks for it, and no step above keeps it`;
				// the first step of a scenario stands for all
				this.#add(chosen.key, { code: 'value.missing', message, file, path });
			}
	}

	#standIns(placed: Placed, here: StartNames): void {
		for (const { what, field, name } of namedBy(placed.step)) {
			if (what !== 'stand-in') continue;
			const variable = standInVariable(name);
			if (!here.broken.has(`env.${variable}`) && here.names.env[variable] === undefined) {
				const environment = this.#environment || 'this environment';
				here.broken.set(`env.${variable}`, new HeronError('run.standIn', { name, environment }));
			}
			this.#name({ ...placed, path: [...placed.path, field] }, ['env', variable], here);
		}
	}

	/** @param input of which the name is an input, where a scenario by itself asks for it */
	#name(
		{ file, path }: Pick<Placed, 'file' | 'path'>,
		[root, name]: [string, string],
		here: StartNames,
		input = ''
	): void {
		const message = missing(root, name, here, input);
		if (message === undefined) return;
		// what has to be started is no mistake in a file
		const cause = here.broken.get(`${root}.${name}`);
		const code = cause instanceof HeronError && cause.code === 'run.standIn' ? cause.code : 'value.missing';
		const wanted = !cause && !input && (root === 'env' || root === 'secret');
		this.#add(file, { code, message, file, path, ...(wanted ? { missing: { root, name } } : {}) });
	}

	/** Adds a problem, once for each place of its kind. */
	#add(where: string, problem: Problem): void {
		const key = `${where} ${problem.message}`;
		if (this.#seen.has(key)) return;
		this.#seen.add(key);
		this.problems.push(problem);
	}

	/** Where a connection or a credential asks for a name. */
	#pathOf(owner: Owner, name: string, reference: Reference): Path {
		const { connections, credentials } = this.#workspace;
		if (owner === 'credential') return pathAsking(withoutVector(credentials.get(name)?.value), reference) ?? [];
		const named = connections.get(name);
		if (!named) return [];
		const path = pathAsking(named.raw, reference);
		if (path) return path;
		const own = pathAsking(inEnvironment(named, this.#environment).raw, reference);
		return own ? ['environments', this.#environment, ...own] : [];
	}

	#askedOf(owner: Owner, name: string): Reference[] {
		const key = `${owner} ${name}`;
		const known = this.#asked.get(key);
		if (known) return known;
		const found =
			owner === 'connection'
				? askedOfConnection(this.#workspace, name, this.#environment)
				: askedOfCredential(this.#workspace, name);
		this.#asked.set(key, found);
		return found;
	}
}

/** Why a name has no value; undefined when it has one. */
function missing(root: string, name: string, here: StartNames, input: string): string | undefined {
	const broken = here.broken.get(`${root}.${name}`);
	if (broken) return broken.message;
	const owner = (here.names as unknown as Record<string, object>)[root];
	if (owner && Object.hasOwn(owner, name)) return undefined;
	if (input)
		return `$${root}.${name} is not set: it is an input of ${input}. A step that calls it gives it; --set ${name}=… runs it by itself, and off: true leaves it to those that call it`;
	if (root === '') return `$${name} is not set${meantBy(name, { ...here.names, steps: {} })}`;
	return `$${root}.${name} is not set${here.hint(root, name)}`;
}

/** Where plain data first asks for a name. */
function pathAsking(value: unknown, wanted: Reference): Path | undefined {
	if (typeof value !== 'object' || value === null)
		return referencesIn(value).some(({ root, name }) => root === wanted.root && name === wanted.name) ? [] : undefined;
	// a header or a parameter that is switched off
	if ('off' in value && value.off === true) return undefined;
	for (const [key, part] of Object.entries(value)) {
		const below = pathAsking(part, wanted);
		if (below) return [Array.isArray(value) ? Number(key) : key, ...below];
	}
	return undefined;
}

/** What a connection asks for in an environment. */
function askedOfConnection(workspace: Workspace, name: string, environment: string): Reference[] {
	const named = workspace.connections.get(name);
	if (!named) return [];
	const connection = inEnvironment(named, environment);
	const { title: _, headers, query, ...rest } = connection.raw;
	void [_, headers, query];
	return referencesIn([rest, [...connection.headers, ...connection.query].filter((param) => !param.off)]);
}

/** What a credential asks for. */
const askedOfCredential = (workspace: Workspace, name: string): Reference[] =>
	referencesIn(withoutVector(workspace.credentials.get(name)?.value));

/** A credential without its test vector, which brings values of its own. */
function withoutVector({ vector: _, ...value }: JsonObject = {}): JsonObject {
	void _;
	return value;
}
