import { HeronError } from '../errors.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import { createEvaluator } from './evaluator.ts';
import { referencesIn } from './references.ts';
import { hasExpression } from './template.ts';
import type { FunctionPorts, Names, Scope } from './scope.ts';

/** Variables from the outermost layer in: later ones win. */
export interface Layers {
	project: JsonObject;
	environment: JsonObject;
	local: JsonObject;
	set: JsonObject;
	row: JsonObject;
}

/** Variables whose value depends on some names, or on the row: by what they refer to, through others too. */
export function dependents(raw: JsonObject, names: ReadonlySet<string>): Set<string> {
	const out = new Set([...names].filter((name) => Object.hasOwn(raw, name)));
	const references = Object.entries(raw).map(([name, value]) => [name, referencesIn(value)] as const);
	for (let before = -1; before !== out.size;) {
		before = out.size;
		for (const [name, list] of references)
			if (
				list.some(({ root, name: other }) => root === 'row' || (root === 'env' && (out.has(other) || names.has(other))))
			)
				out.add(name);
	}
	return out;
}

/** What variables are computed with, beside their layers. */
interface Resolving {
	hint?: Scope['hint'];
	/** Variables that have their value already. */
	known?: JsonObject;
	/** What `$row` is. */
	row?: JsonObject;
	hider?: Scope['hider'];
	/** Names that cannot be had, with the reason: `env.NAME` → error. */
	without?: Iterable<[string, Error]>;
}

/**
 * Computes the variables of a run once, in whatever order they refer to each other.
 * What cannot be computed is in `broken`, and is only an error for those who ask for it.
 */
export async function resolveVariables(
	layers: Layers,
	outer: Pick<Names, 'secret' | 'run'>,
	ports: FunctionPorts,
	{ hint, known = {}, row = layers.row, hider, without = [] }: Resolving = {}
): Promise<{ env: JsonObject; broken: Map<string, Error> }> {
	const raw: JsonObject = { ...layers.project, ...layers.environment, ...layers.local, ...layers.set, ...layers.row };
	const env: JsonObject = { ...known };
	const broken = new Map<string, Error>(without);
	const scope: Scope = { names: { ...outer, env, row, steps: {} }, ports, broken, hint, ...(hider ? { hider } : {}) };
	const evaluator = createEvaluator();
	const open: string[] = [];

	const settle = async (name: string): Promise<void> => {
		if (Object.hasOwn(env, name) || broken.has(`env.${name}`) || !Object.hasOwn(raw, name)) return;
		const value = raw[name] as Json;
		if (!holdsExpression(value)) {
			env[name] = value;
			return;
		}
		if (open.includes(name)) {
			const circle = [...open.slice(open.indexOf(name)), name].map((n) => `$env.${n}`).join(' → ');
			for (const member of open.slice(open.indexOf(name))) {
				broken.set(`env.${member}`, new HeronError('value.cycle', { circle }));
			}
			return;
		}
		open.push(name);
		for (const reference of referencesIn(value)) if (reference.root === 'env') await settle(reference.name);
		open.pop();
		if (broken.has(`env.${name}`)) return;
		try {
			env[name] = await evaluator.deep(value, scope);
		} catch (error) {
			if (!(error instanceof HeronError)) throw error;
			broken.set(`env.${name}`, error);
		}
	};
	for (const name of Object.keys(raw)) await settle(name);
	return { env, broken };
}

function holdsExpression(value: unknown): boolean {
	if (typeof value === 'string') return hasExpression(value);
	if (Array.isArray(value)) return value.some(holdsExpression);
	return isObject(value) && Object.entries(value).some(([key, item]) => hasExpression(key) || holdsExpression(item));
}
