import type { Problem } from '../errors.ts';
import { inEnvironment } from '../documents/connection.ts';
import { LOCAL_FILE } from '../documents/local.ts';
import { QUARANTINE_FILE } from '../documents/quarantine.ts';
import type { Suite } from '../documents/suite.ts';
import type { Workspace } from '../project/index.ts';
import { inheritedCredential } from './authorize.ts';
import { calledScenario, type Chosen } from './plan.ts';

/** What is going to be done, as far as it says on which files it depends. */
export interface RunSelection {
	/** As they were named; none for the whole project. */
	targets: readonly string[];
	scenarios: readonly Chosen[];
	/** Ids of the steps that are sent by hand; none for whole scenarios. */
	only?: readonly string[];
	suite?: Suite | undefined;
	environment: string;
	/** Connections that are used by themselves: for a reach check. */
	connections?: readonly string[];
}

/**
 * The problems that stand in the way of something: those of files that it depends on. A collection stands in the way with the
 * scenarios that are done, or with the steps that are sent by hand; a file that cannot be read does where nobody can know what
 * is in it.
 */
export function blockingProblems(workspace: Workspace, selection: RunSelection): Problem[] {
	const { targets, scenarios, only = [], suite, environment, connections = [] } = selection;
	const needs = new Needs(workspace, environment);
	const whole = targets.length === 0 && connections.length === 0;
	const byTag = suite?.scenarios.some((entry) => 'tag' in entry) ?? false;
	// what is known to fail decides over a gate
	if (suite || whole) needs.files.add(QUARANTINE_FILE);
	if (suite) needs.files.add(`suites/${suite.name}.yaml`);
	// of a collection that cannot be read a suite would run nothing, and be green
	for (const entry of suite?.scenarios ?? [])
		if ('target' in entry) needs.files.add(`collections/${entry.target.split('/')[0]}.yaml`);
	for (const target of targets)
		needs.files.add(`collections/${target.split('/')[0]}.yaml`).add(`suites/${target}.yaml`);
	for (const one of scenarios) needs.scenario(one, only);
	for (const one of connections) needs.connection(one);

	return workspace.problems.filter((problem) => {
		const { file } = problem;
		// what stands in is started by itself, and a check that needs a schema says for itself that it is broken
		if (whole) return !/^(stand-ins|schemas)\//.test(file);
		return (byTag && file.startsWith('collections/')) || needs.include(problem);
	});
}

/** The files that are depended on, found by following names. */
class Needs {
	readonly files: Set<string>;
	/** By `file` and index of a scenario the indexes of its steps; undefined for all. */
	readonly #parts = new Map<string, Set<number> | undefined>();
	/** Names are computed: any may be meant. */
	#anyCredential = false;
	#anyConnection = false;
	readonly #workspace: Workspace;
	readonly #environment: string;

	constructor(workspace: Workspace, environment: string) {
		this.#workspace = workspace;
		this.#environment = environment;
		this.files = new Set(['heron.yaml', LOCAL_FILE, `environments/${environment}.yaml`]);
	}

	/** @param only ids of its steps that are done; none for all */
	scenario(chosen: Chosen, only: readonly string[] = []): void {
		const workspace = this.#workspace;
		const file = `collections/${chosen.collection}.yaml`;
		const at = workspace.collections.get(chosen.collection)?.scenarios.indexOf(chosen.scenario) ?? -1;
		if (this.#parts.has(`${file} ${at}`)) return;
		const steps = [...chosen.scenario.steps.entries()].filter(([, { id }]) => only.length === 0 || only.includes(id));
		this.#parts.set(`${file} ${at}`, only.length === 0 ? undefined : new Set(steps.map(([index]) => index)));
		this.files.add(file);
		for (const [, step] of steps) {
			if (step.send) {
				this.connection(step.send.connection || chosen.connection);
				this.#credential(inheritedCredential(workspace, chosen, step.send, this.#environment).name);
			}
			const called = step.call && calledScenario(workspace, chosen, step.call.target);
			if (called) this.scenario(called);
		}
	}

	connection(name: string): void {
		const { connections } = this.#workspace;
		if (name.includes('{$')) {
			// which one is known only when it is sent: each has to be right, and what it bears
			this.#anyConnection = true;
			for (const one of connections.keys()) this.connection(one);
			return;
		}
		const file = `connections/${name}.yaml`;
		if (!name || this.files.has(file)) return;
		this.files.add(file);
		const found = connections.get(name);
		if (found) this.#credential(inEnvironment(found, this.#environment).credential);
	}

	#credential(name: string): void {
		if (!name || name === 'none') return;
		if (name.includes('{$')) this.#anyCredential = true;
		const file = `credentials/${name}.yaml`;
		if (this.files.has(file)) return;
		this.files.add(file);
		const { connection, beside } = this.#workspace.credentials.get(name)?.value ?? {};
		if (typeof connection === 'string') this.connection(connection);
		if (typeof beside === 'string') this.#credential(beside);
	}

	/** Whether a problem is one of what is depended on. */
	include({ file, path }: Problem): boolean {
		if (this.#anyConnection && file.startsWith('connections/')) return true;
		if (this.#anyCredential && file.startsWith('credentials/')) return true;
		if (!this.files.has(file)) return false;
		const [first, index, second, step] = path;
		if (!file.startsWith('collections/') || first !== 'scenarios' || typeof index !== 'number') return true;
		const part = `${file} ${index}`;
		if (!this.#parts.has(part)) return false;
		const steps = this.#parts.get(part);
		return !steps || second !== 'steps' || typeof step !== 'number' || steps.has(step);
	}
}
