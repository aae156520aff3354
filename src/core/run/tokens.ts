import { credentialKind } from '../auth/index.ts';
import type { Collection } from '../documents/collection.ts';
import { keepsOf, setBy, type Step } from '../steps/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { Param } from '../model/params.ts';
import type { Workspace } from '../project/index.ts';
import { maskOf } from '../model/mask.ts';
import type { Redactor } from '../redact/index.ts';
import { referencesIn } from '../values/index.ts';
import type { HiddenValues, Memory, StepContext } from './context.ts';
import type { StepResult } from './events.ts';
import { calledScenario } from './plan.ts';

// What a step keeps and another one says who it is with is nobody's to read: it is hidden like a secret.

/** The names under which steps keep tokens. */
export type TokenNames = ReadonlyMap<Step, ReadonlySet<string>>;

/** Header fields that say who calls. */
const BEARS = /^((proxy-)?authorization|cookie|x-(api-key|(auth|access)-token))$/i;

/** Values that end where somebody says who they are: outputs of steps by `step.name`, and variables. */
interface Asked {
	outputs: { step: string; name: string }[];
	variables: string[];
}
const askedIn = (value: unknown): Asked => {
	const variables = new Set<string>();
	const outputs = new Map<string, { step: string; name: string }>();
	for (const { root, name, rest } of referencesIn(value))
		if (root === 'env') variables.add(name);
		else if (root === 'steps' && rest[0] !== undefined)
			outputs.set(`${name}.${rest[0]}`, { step: name, name: rest[0] });
	return { outputs: [...outputs.values()], variables: [...variables] };
};
const bearing = (headers: Param[], cookies: Param[] = []): Json[] =>
	[...headers.filter(({ name }) => BEARS.test(name)), ...cookies].filter(({ off }) => !off).map(({ value }) => value);

/** What a scenario has to do with tokens. */
interface Traits {
	collection: string;
	steps: readonly Step[];
	byId: ReadonlyMap<string, Step>;
	asked: Asked;
	/** `secret: true` and `secret: false`. */
	marked: { step: Step; name: string; secret: boolean }[];
	/** Variables that are set here, or handed over. */
	given: { step: Step; name: string; value: Json }[];
}
const traitsKnown = new WeakMap<Collection, Traits[]>();
function traitsOf(collection: Collection): Traits[] {
	let found = traitsKnown.get(collection);
	if (!found) {
		found = collection.scenarios.map(({ steps }) => ({
			collection: collection.name,
			steps,
			byId: new Map(steps.map((step) => [step.id, step])),
			asked: askedIn(steps.flatMap(({ send }) => (send ? bearing(send.headers, send.cookies) : []))),
			marked: steps.flatMap((step) =>
				keepsOf(step).flatMap(({ name, secret }) => (secret === undefined ? [] : [{ step, name, secret }]))
			),
			given: steps.flatMap((step) =>
				Object.entries({ ...setBy(step), ...step.call?.with }).map(([name, value]) => ({ step, name, value }))
			)
		}));
		traitsKnown.set(collection, found);
	}
	return found;
}

const known = new WeakMap<Workspace, TokenNames>();
/** Which kept values of a project are tokens: those marked `secret`, and those that go into a header field or a credential that says who calls, also by variables and calls. */
export function tokenNames(workspace: Workspace): TokenNames {
	let found = known.get(workspace);
	if (!found) known.set(workspace, (found = findTokens(workspace)));
	return found;
}

function findTokens(workspace: Workspace): TokenNames {
	const tokens = new Map<Step, Set<string>>();
	const shown = new Map<Step, Set<string>>();
	const variables = new Set<string>();
	const all = [...workspace.collections.values()].flatMap(traitsOf);
	const later: (() => void)[] = [];
	/** `within`: the scenario whose step is meant; left out for that of whichever uses it. */
	const take = ({ outputs, variables: names }: Asked, within?: Traits): void => {
		for (const { step, name } of outputs)
			for (const traits of within ? [within] : all) {
				const found = traits.byId.get(step);
				if (found) later.push(() => add(found, name, traits));
			}
		for (const name of names)
			if (!variables.has(name)) {
				variables.add(name);
				later.push(() => follow(name));
			}
	};
	/** What a variable is set to, and handed over as. */
	const follow = (wanted: string): void => {
		for (const traits of all)
			for (const { step, name, value } of traits.given) {
				if (name !== wanted) continue;
				take(askedIn(value), traits);
				if (Object.hasOwn(setBy(step), name)) add(step, name, traits);
			}
	};
	const add = (step: Step, name: string, traits: Traits): void => {
		const names = tokens.get(step) ?? new Set<string>();
		if (shown.get(step)?.has(name) || names.has(name)) return;
		tokens.set(step, names.add(name));
		if (!step.call) return;
		// what a call gives was kept by a step of the scenario that it calls
		const called = calledScenario(workspace, traits, step.call.target);
		const collection = called && workspace.collections.get(called.collection);
		const inside = collection && traitsOf(collection).find(({ steps }) => steps === called.scenario.steps);
		if (!called || !inside) return;
		if (called.scenario.outputs) take(askedIn(called.scenario.outputs[name]), inside);
		else for (const inner of inside.steps) later.push(() => add(inner, name, inside));
	};

	for (const { marked } of all)
		for (const { step, name, secret } of marked) if (!secret) shown.set(step, (shown.get(step) ?? new Set()).add(name));
	for (const traits of all) {
		for (const { step, name, secret } of traits.marked) if (secret) add(step, name, traits);
		take(traits.asked, traits);
	}
	for (const connection of workspace.connections.values())
		for (const one of [connection, ...connection.variants.values()]) take(askedIn(bearing(one.headers)));
	for (const { kind, value } of workspace.credentials.values())
		for (const field of credentialKind(kind)?.fields ?? []) if (field.secret) take(askedIn(value[field.name]));
	for (let next = later.pop(); next; next = later.pop()) next();
	return tokens;
}

/** So many values of a scenario are hidden at a time, the newest ones. */
const HIDDEN_MOST = 500;

/** Hides the tokens that a step has kept from all that is shown from now on, and from its own result. */
export function hideTokens(
	step: Step,
	result: StepResult,
	memory: Memory,
	{ workspace, redactor }: Pick<StepContext, 'workspace' | 'redactor'>
): StepResult {
	const values = tokensIn(step, result.kept, workspace);
	if (Object.keys(values).length === 0) return result;
	const hidden = (memory.hidden ??= { kept: {}, release: [] });
	hidden.kept[result.step] = { at: result.startedAt, values };
	hold(step.id, values, hidden, redactor);
	const masks = Object.keys(values).map((name) => [name, maskOf(`${step.id}.${name}`)]);
	return { ...result, kept: { ...result.kept, ...(Object.fromEntries(masks) as JsonObject) } };
}

/** Hides the tokens among what is remembered of a scenario. */
export function hideRemembered(
	steps: readonly Step[],
	memory: Memory,
	{ workspace, redactor }: Pick<StepContext, 'workspace' | 'redactor'>
): void {
	const hidden = (memory.hidden ??= { kept: {}, release: [] });
	for (const step of steps) {
		const kept = { ...memory.outputs[step.id] };
		for (const name of Object.keys(setBy(step))) if (Object.hasOwn(memory.set, name)) kept[name] = memory.set[name]!;
		hold(step.id, tokensIn(step, kept, workspace), hidden, redactor);
	}
	for (const [step, { values }] of Object.entries(hidden.kept)) hold(step, values, hidden, redactor);
}

const tokensIn = (step: Step, kept: JsonObject, workspace: Workspace): JsonObject => {
	const names = tokenNames(workspace).get(step);
	return names ? Object.fromEntries(Object.entries(kept).filter(([name]) => names.has(name))) : {};
};

function hold(id: string, values: JsonObject, { release }: HiddenValues, redactor: Redactor): void {
	for (const [name, value] of Object.entries(values))
		for (const text of textsIn(value)) release.push(redactor.hold(`${id}.${name}`, text));
	for (const end of release.splice(0, Math.max(0, release.length - HIDDEN_MOST))) end();
}

const textsIn = (value: Json): string[] => {
	if (typeof value === 'string') return [value];
	if (typeof value === 'number' || typeof value === 'bigint') return [String(value)];
	if (typeof value !== 'object' || value === null) return [];
	return Object.values(value).flatMap(textsIn);
};
