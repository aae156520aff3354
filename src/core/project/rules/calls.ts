import { didYouMean } from '../../messages.ts';
import type { Scenario } from '../../documents/collection.ts';
import type { Links } from '../links.ts';
import type { CollectionRule, Tell } from './rule.ts';

/** Calls of scenarios that are not there, that lead back to themselves, or that are not given what they want. */
export const calls: CollectionRule = {
	name: 'calls',
	look(collection, file, { links, wrong }) {
		collection.scenarios.forEach((scenario, at) => lookAt(scenario, at, collection.name, file, links, wrong));
	}
};

/** The scenarios through which a call comes back to the one that makes it; each is gone through once. */
function wayBack(links: Links, collection: string, id: string, target: string): string[] | undefined {
	const home = `${collection}/${id}`;
	const seen = new Set<string>();
	const follow = (from: string, call: string, way: string[]): string[] | undefined => {
		const called = links.called(from, call);
		if (!called) return undefined;
		const key = `${called.collection}/${called.scenario.id}`;
		if (key === home) return [...way, key];
		if (seen.has(key)) return undefined;
		seen.add(key);
		for (const { call: next } of called.scenario.steps) {
			const found = next && follow(called.collection, next.target, [...way, key]);
			if (found) return found;
		}
		return undefined;
	};
	return follow(collection, target, [home]);
}

function lookAt(scenario: Scenario, at: number, own: string, file: string, links: Links, wrong: Tell): void {
	scenario.steps.forEach((step, index) => {
		if (!step.call) return;
		const path = ['scenarios', at, 'steps', index, 'call'];
		const called = links.called(own, step.call.target);
		if (!called)
			return wrong(file, path, 'model.reference', {
				kind: 'scenario',
				name: step.call.target,
				nearest: didYouMean(step.call.target, links.names(own))
			});
		const cycle = wayBack(links, own, scenario.id, step.call.target);
		if (cycle) wrong(file, path, 'call.cycle', { cycle: cycle.join(' → ') });
		const { inputs } = called.scenario;
		for (const [name, value] of Object.entries(inputs))
			if (value === null && !Object.hasOwn(step.call.with, name))
				wrong(file, path, 'call.value', { target: step.call.target, name });
		if (Object.keys(inputs).length > 0)
			for (const name of Object.keys(step.call.with))
				if (!Object.hasOwn(inputs, name))
					wrong(file, [...path.slice(0, -1), 'with', name], 'model.reference', {
						kind: `input of ${step.call.target}`,
						name,
						nearest: didYouMean(name, Object.keys(inputs))
					});
	});
}
