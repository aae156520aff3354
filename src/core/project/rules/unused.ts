import { isObject, writeJson } from '../../model/json.ts';
import type { Collection } from '../../documents/collection.ts';
import { referencesIn, type Reference } from '../../values/index.ts';
import { stepNames } from '../../steps/index.ts';
import type { ProjectRule } from './rule.ts';

/** So many unused variables of a file are named: more are a file that is not in use yet. */
const UNUSED_NAMED = 50;

interface Used {
	env: Set<string>;
	secret: Set<string>;
	/** A name that is computed may be any of them. */
	open: boolean;
}
const COMPUTED = /\$(env|secret)\s*(\[|\)|,)|\$lookup|\$eval/;

function take(used: Used, references: Reference[]): void {
	for (const { root, name } of references) if (root === 'env' || root === 'secret') used[root].add(name);
}
function look(used: Used, value: unknown): void {
	take(used, referencesIn(value));
	used.open ||= COMPUTED.test(writeJson(value ?? null));
}
/** What is looked through once for each object that says it. */
function once<T extends object>(through: (value: T, used: Used) => void): (value: T) => Used {
	const known = new WeakMap<T, Used>();
	return (value) => {
		let used = known.get(value);
		if (!used) {
			used = { env: new Set(), secret: new Set(), open: false };
			through(value, used);
			known.set(value, used);
		}
		return used;
	};
}
const usedByCollection = once<Collection>((collection, used) => {
	for (const scenario of collection.scenarios) {
		if (scenario.rows?.where) take(used, referencesIn(scenario.rows.where, true));
		look(used, [collection.credential, scenario.credential]);
		for (const step of scenario.steps) {
			take(used, stepNames(step));
			used.open ||= COMPUTED.test(writeJson(step));
		}
	}
});
const usedByData = once<object>((value, used) => look(used, value));

/** Variables and secrets that no document speaks of. */
export const unused: ProjectRule = {
	name: 'unused',
	look({ workspace, warn }) {
		const { project, environments, connections, credentials, collections, local, standIns } = workspace;
		const data: unknown[] = [
			project.variables,
			local.variables,
			...Object.values(local.environments),
			...[...environments.values()].map(({ variables }) => variables),
			...[...connections.values()].flatMap(({ raw, variants }) => [
				raw,
				...[...variants.values()].map((one) => one.raw)
			]),
			...standIns.values(),
			...[...credentials.values()].map(({ value }) => value)
		];
		const all = [
			...data.flatMap((value) => (isObject(value) || Array.isArray(value) ? [usedByData(value)] : [])),
			...[...collections.values()].map(usedByCollection)
		];
		if (all.some(({ open }) => open)) return;
		const named = { env: new Set<string>(), secret: new Set<string>() };
		for (const used of all)
			for (const kind of ['env', 'secret'] as const) for (const name of used[kind]) named[kind].add(name);
		const say = (file: string, variables: string[], secrets: string[]) => {
			const spare = variables.filter((name) => !named.env.has(name));
			for (const name of spare.slice(0, UNUSED_NAMED)) warn(file, ['variables', name], 'lint.unusedVariable', { name });
			for (const [index, name] of secrets.entries())
				if (!named.secret.has(name)) warn(file, ['secrets', index], 'lint.unusedSecret', { name });
		};
		say('heron.yaml', Object.keys(project.variables), []);
		for (const { name, variables, secrets } of environments.values())
			say(`environments/${name}.yaml`, Object.keys(variables), secrets);
	}
};
