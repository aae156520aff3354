import type { Step } from '../model/collection.ts';
import { referencesIn } from '../values/index.ts';

/** The names under which a step keeps values; those of a script as far as its text tells. */
export const keptNames = (step: Step): string[] =>
	step.script === undefined
		? ((step.send ?? step.receive)?.keep.map(({ name }) => name) ?? [])
		: [...step.script.matchAll(/\bkeep\(\s*(["'`])(\w+)\1/g)].map(([, , name]) => name!);

/** The outputs of other steps that a step asks for. */
export const stepReferences = (step: Step) => stepNames(step).filter((reference) => reference.root === 'steps');

const named = new WeakMap<Step, ReturnType<typeof namesOf>>();
/** All names that a step asks for. A step is read once: of a large project most are the same after a change. */
export function stepNames(step: Step): ReturnType<typeof namesOf> {
	let found = named.get(step);
	if (!found) named.set(step, (found = namesOf(step)));
	return found;
}

function namesOf(step: Step) {
	const { send } = step;
	const bare = step.when ? referencesIn(step.when.replace(/^\{(\$[\s\S]*)\}$/, '$1'), true) : [];
	const all = [...(send?.checks ?? []), ...(step.receive?.must ?? [])];
	const that = all.flatMap((check) =>
		check.kind === 'that' ? referencesIn(String(check.relations[0]?.expected), true) : []
	);
	const checks = all.filter((check) => check.kind !== 'that' && !check.off);
	const until = step.until?.check;
	const untilThat = until?.kind === 'that' ? referencesIn(String(until.relations[0]?.expected), true) : [];
	const on = <T extends { off: boolean }>(list: T[] = []) => list.filter((item) => !item.off);
	const sent = send
		? [
				send.target,
				on(send.path),
				on(send.query),
				on(send.headers),
				on(send.cookies),
				send.body?.value,
				send.body?.type
			]
		: [];
	const { each } = step;
	const repeated = typeof each === 'string' && each.startsWith('$') ? referencesIn(each, true) : referencesIn(each);
	return [
		...bare,
		...repeated,
		...referencesIn(sent),
		...referencesIn(checks),
		...that,
		...untilThat,
		...referencesIn([
			step.receive?.within,
			step.set,
			step.wait,
			step.stop,
			step.call?.with,
			until?.kind === 'that' ? undefined : until
		])
	];
}
