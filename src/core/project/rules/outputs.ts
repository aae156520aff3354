import { didYouMean } from '../../messages.ts';
import type { Scenario } from '../../documents/collection.ts';
import { meantBy, referencesIn } from '../../values/index.ts';
import { outputsOf, type Links } from '../links.ts';
import { stepNames } from '../../steps/index.ts';
import type { CollectionRule, Tell } from './rule.ts';

/** Uses of outputs before they are kept, of steps that are not there, and outputs that nobody uses. */
export const outputs: CollectionRule = {
	name: 'outputs',
	look(collection, file, { links, wrong, warn }) {
		collection.scenarios.forEach((scenario, at) => lookAt(scenario, at, collection.name, file, links, wrong, warn));
	}
};

/** What steps keep, as far as it is known. */
const keptBy = (outputs: ReadonlyMap<string, Set<string> | 'any'>): Record<string, object> =>
	Object.fromEntries(
		[...outputs].map(([id, names]) => [
			id,
			Object.fromEntries([...(names === 'any' ? [] : names)].map((name) => [name, '']))
		])
	);

/** `$steps.sign-in.token` is a difference: a name with a dash stands in backticks. */
function stepMeant(name: string, known: string[]): string {
	const dashed = known.find((id) => id.startsWith(`${name}-`));
	return dashed ? `: the step ${dashed} is written \`${dashed}\`, in backticks` : didYouMean(name, known);
}

function lookAt(
	scenario: Scenario,
	at: number,
	collection: string,
	file: string,
	links: Links,
	wrong: Tell,
	warn: Tell
): void {
	const used = new Set<string>();
	const before = new Map<string, Set<string> | 'any'>();
	scenario.steps.forEach((step, index) => {
		const path = ['scenarios', at, 'steps', index];
		const own = outputsOf(links, collection, step);
		for (const { root, name, rest, optional } of stepNames(step)) {
			if (root === '' && !optional)
				wrong(file, path, 'value.missing', { name: `$${name}`, hint: meantBy(name, { steps: keptBy(before) }) });
			if (root !== 'steps') continue;
			const output = rest[0] ?? '';
			used.add(`${name}.${output}`);
			if (optional) continue;
			const outputs = name === step.id ? own : before.get(name);
			if (!outputs) {
				const later = scenario.steps.some((other) => other.id === name);
				if (later) wrong(file, path, 'step.order', { name });
				else wrong(file, path, 'model.reference', { kind: 'step', name, nearest: stepMeant(name, [...before.keys()]) });
			} else if (output && outputs !== 'any' && !outputs.has(output)) {
				wrong(file, path, 'model.reference', {
					kind: `value kept by ${name} as`,
					name: output,
					nearest: didYouMean(output, [...outputs])
				});
			}
		}
		before.set(step.id, own);
	});
	for (const { root, name, rest } of referencesIn(scenario.outputs))
		if (root === 'steps') used.add(`${name}.${rest[0] ?? ''}`);
	// without outputs all that is kept is given to whoever calls
	const given = !scenario.outputs && links.isCalled(collection, scenario.id);
	scenario.steps.forEach((step, index) => {
		if (given) return;
		step.send?.keep.forEach((keep) => {
			if (!used.has(`${step.id}.${keep.name}`)) {
				warn(file, ['scenarios', at, 'steps', index, 'keep', keep.name], 'lint.unusedOutput', { name: keep.name });
			}
		});
	});
}
