import { checkKind, type Check } from '../checks/index.ts';
import type { SendSpec } from '../model/step.ts';
import { send } from './send.ts';
import { checksOf, readsOf, type Step } from './step.ts';
import { referencesIn, type Reference } from '../values/index.ts';

/** The outputs of other steps that a step asks for. */
export const stepReferences = (step: Step) => stepNames(step).filter((reference) => reference.root === 'steps');

const named = new WeakMap<Step, Reference[]>();
/** All names that a step asks for. A step is read once: of a large project most are the same after a change. */
export function stepNames(step: Step): Reference[] {
	let found = named.get(step);
	if (!found) named.set(step, (found = namesOf(step)));
	return found;
}

const ofSends = new WeakMap<SendSpec, Reference[]>();
/** All names that a request and its checks ask for; it is read once. */
export function sendNames(spec: SendSpec): Reference[] {
	let found = ofSends.get(spec);
	if (!found) ofSends.set(spec, (found = [...referencesIn(send.reads?.(spec)), ...spec.checks.flatMap(namesOfCheck)]));
	return found;
}

function namesOf(step: Step): Reference[] {
	const { each, until } = step;
	return [
		...(step.when ? referencesIn(step.when.replace(/^\{(\$[\s\S]*)\}$/, '$1'), true) : []),
		...(typeof each === 'string' && each.startsWith('$') ? referencesIn(each, true) : referencesIn(each)),
		...referencesIn(readsOf(step)),
		...checksOf(step).flatMap(namesOfCheck),
		...(until?.check ? namesOfCheck(until.check) : [])
	];
}

const namesOfCheck = (check: Check): Reference[] => {
	if (check.off) return [];
	return checkKind(check.kind)?.expression
		? referencesIn(String(check.relations[0]?.expected), true)
		: referencesIn(check);
};
