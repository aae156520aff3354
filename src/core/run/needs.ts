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
	suite?: Suite | undefined;
	environment: string;
	/** Connections that are used by themselves: for a reach check. */
	connections?: readonly string[];
}

/**
 * The problems that stand in the way of something: those of files that it depends on. A collection stands in the way with the
 * scenarios that are done; a file that cannot be read does where nobody can know what is in it.
 */
export function blockingProblems(workspace: Workspace, selection: RunSelection): Problem[] {
	const { targets, scenarios, suite, environment, connections = [] } = selection;
	const files = new Set(['heron.yaml', LOCAL_FILE, `environments/${environment}.yaml`]);
	/** `file` and index of a scenario. */
	const parts = new Set<string>();
	let credentials = false;
	let anyConnection = false;
	const whole = targets.length === 0 && connections.length === 0;
	const byTag = suite?.scenarios.some((entry) => 'tag' in entry) ?? false;
	// what is known to fail decides over a gate
	if (suite || whole) files.add(QUARANTINE_FILE);
	if (suite) files.add(`suites/${suite.name}.yaml`);
	// of a collection that cannot be read a suite would run nothing, and be green
	for (const entry of suite?.scenarios ?? [])
		if ('target' in entry) files.add(`collections/${entry.target.split('/')[0]}.yaml`);
	for (const target of targets) files.add(`collections/${target.split('/')[0]}.yaml`).add(`suites/${target}.yaml`);

	const addCredential = (name: string): void => {
		if (!name || name === 'none') return;
		if (name.includes('{$')) credentials = true;
		const file = `credentials/${name}.yaml`;
		if (files.has(file)) return;
		files.add(file);
		const { connection, beside } = workspace.credentials.get(name)?.value ?? {};
		if (typeof connection === 'string') addConnection(connection);
		if (typeof beside === 'string') addCredential(beside);
	};
	const addConnection = (name: string): void => {
		if (name.includes('{$')) {
			// which one is known only when it is sent: each has to be right, and what it bears
			anyConnection = true;
			for (const one of workspace.connections.keys()) addConnection(one);
			return;
		}
		const file = `connections/${name}.yaml`;
		if (!name || files.has(file)) return;
		files.add(file);
		const found = workspace.connections.get(name);
		if (found) addCredential(inEnvironment(found, environment).credential);
	};
	const addScenario = (chosen: Chosen): void => {
		const file = `collections/${chosen.collection}.yaml`;
		const at = workspace.collections.get(chosen.collection)?.scenarios.indexOf(chosen.scenario) ?? -1;
		if (parts.has(`${file} ${at}`)) return;
		parts.add(`${file} ${at}`);
		files.add(file);
		for (const step of chosen.scenario.steps) {
			if (step.send) {
				addConnection(step.send.connection || chosen.connection);
				addCredential(inheritedCredential(workspace, chosen, step.send, environment).name);
			}
			const called = step.call && calledScenario(workspace, chosen, step.call.target);
			if (called) addScenario(called);
		}
	};
	scenarios.forEach(addScenario);
	connections.forEach(addConnection);

	return workspace.problems.filter(({ file, path }) => {
		// what stands in is started by itself, and a check that needs a schema says for itself that it is broken
		if (whole) return !/^(stand-ins|schemas)\//.test(file);
		if (byTag && file.startsWith('collections/')) return true;
		if (anyConnection && file.startsWith('connections/')) return true;
		if (credentials && file.startsWith('credentials/')) return true;
		if (!files.has(file)) return false;
		const [first, index] = path;
		const ofScenario = file.startsWith('collections/') && first === 'scenarios' && typeof index === 'number';
		return !ofScenario || parts.has(`${file} ${index}`);
	});
}
