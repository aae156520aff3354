import type { Collection, Scenario } from '../documents/collection.ts';
import { keptNames, type Step } from '../steps/index.ts';

interface FoundScenario {
	collection: string;
	scenario: Scenario;
}

/** Which scenario calls which: looked up by name, once for a whole project. */
export interface Links {
	/** The scenario that a `call` in a collection means. */
	called(from: string, target: string): FoundScenario | undefined;
	isCalled(collection: string, scenario: string): boolean;
	/** `collection/scenario` of all that are called, of one collection. */
	calledOf(collection: string): string[];
	/** The collections that one calls into, through others too, in the order in which they are met. */
	reached(collection: string): string[];
	/** Names of all scenarios as a collection may write them. */
	names(from: string): string[];
}

const known = new WeakMap<Collection, string[]>();
/** What a collection calls, as it is written. */
export function callsOf(collection: Collection): string[] {
	let calls = known.get(collection);
	if (!calls) {
		calls = collection.scenarios.flatMap(({ steps }) => steps.flatMap(({ call }) => (call ? [call.target] : [])));
		known.set(collection, calls);
	}
	return calls;
}

/** Which scenarios call, need or name each other. */
export function createLinks(collections: ReadonlyMap<string, Collection>): Links {
	const scenarios = new Map<string, Map<string, Scenario>>();
	const scenariosOf = (name: string): Map<string, Scenario> => {
		let found = scenarios.get(name);
		if (!found) {
			found = new Map();
			// of several that are called alike the first one counts
			for (const one of collections.get(name)?.scenarios ?? []) if (!found.has(one.id)) found.set(one.id, one);
			scenarios.set(name, found);
		}
		return found;
	};
	const called: Links['called'] = (from, target) => {
		const [one = '', other] = target.split('/');
		const collection = other === undefined ? from : one;
		const scenario = scenariosOf(collection).get(other ?? one);
		return scenario && { collection, scenario };
	};
	const into = new Map<string, Set<string>>();
	const from = new Map<string, Set<string>>();
	for (const collection of collections.values())
		for (const target of callsOf(collection)) {
			const found = called(collection.name, target);
			if (!found) continue;
			const known = into.get(found.collection) ?? new Set();
			into.set(found.collection, known.add(found.scenario.id));
			const others = from.get(collection.name) ?? new Set();
			from.set(collection.name, others.add(found.collection));
		}
	return {
		called,
		isCalled: (collection, scenario) => into.get(collection)?.has(scenario) ?? false,
		calledOf: (collection) => (into.has(collection) ? [...into.get(collection)!].sort() : []),
		reached(collection) {
			const seen = new Set<string>();
			const waiting = [...(from.get(collection) ?? [])];
			for (let next = waiting.pop(); next !== undefined; next = waiting.pop()) {
				if (seen.has(next)) continue;
				seen.add(next);
				for (const other of from.get(next) ?? []) waiting.push(other);
			}
			return [...seen];
		},
		names: (own) =>
			[...collections.values()].flatMap(({ name, scenarios: list }) =>
				list.map(({ id }) => (name === own ? id : `${name}/${id}`))
			)
	};
}

/** What a step keeps: `any` where only running it tells. */
export function outputsOf(links: Links, collection: string, step: Step): Set<string> | 'any' {
	if (!step.call) return new Set(keptNames(step));
	const called = links.called(collection, step.call.target);
	if (!called) return 'any';
	if (called.scenario.outputs) return new Set(Object.keys(called.scenario.outputs));
	const all = called.scenario.steps.map((one) => (one.call ? 'any' : outputsOf(links, called.collection, one)));
	return all.includes('any') ? 'any' : new Set(all.flatMap((one) => (one === 'any' ? [] : [...one])));
}
