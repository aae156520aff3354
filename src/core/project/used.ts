import { isObject, writeJson } from '../model/json.ts';
import type { Collection } from '../documents/collection.ts';
import { referencesIn, type Reference } from '../values/index.ts';
import { stepNames } from '../steps/index.ts';
import type { Workspace } from './shape.ts';

/** Names of variables and secrets that documents ask for. */
export interface Used {
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

/** The variables and secrets that the documents of a project ask for. */
export function namesUsed(workspace: Workspace): Used {
	const { project, environments, connections, credentials, collections, local, standIns } = workspace;
	const data: unknown[] = [
		project.variables,
		local.variables,
		...Object.values(local.environments),
		...[...environments.values()].map(({ variables }) => variables),
		...[...connections.values()].flatMap(({ raw, variants }) => [raw, ...[...variants.values()].map((one) => one.raw)]),
		...standIns.values(),
		...[...credentials.values()].map(({ value }) => value)
	];
	const all: Used = { env: new Set(), secret: new Set(), open: false };
	for (const { env, secret, open } of [
		...data.flatMap((value) => (isObject(value) || Array.isArray(value) ? [usedByData(value)] : [])),
		...[...collections.values()].map(usedByCollection)
	]) {
		for (const name of env) all.env.add(name);
		for (const name of secret) all.secret.add(name);
		all.open ||= open;
	}
	return all;
}
