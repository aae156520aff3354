import { parseCheck, type Check } from '../checks/index.ts';
import { isObject, type Json, type JsonObject } from '../model/json.ts';
import type { Kept, Retry, StepCommon, Until } from '../model/step.ts';
import { parseDuration } from '../model/units.ts';
import { asText } from '../model/written.ts';
import type { Acting, Named, StepKind } from './kind.ts';
import { stepKinds, type StepName, type StepSpecs } from './kinds.ts';
import { send } from './send.ts';

/** A step of one kind: what it says stands under the kind's key. */
export type StepOf<Name extends StepName> = StepCommon & { kind: Name } & { [Own in Name]: StepSpecs[Own] } & {
	[Other in Exclude<StepName, Name>]?: undefined;
};

/** A step of a scenario. */
export type Step = { [Name in StepName]: StepOf<Name> }[StepName];

/** A step in full, defaults filled in; what is wrong in it is reported by the schema, not here. */
export function parseStep(value: unknown): Step {
	const given = isObject(value) ? value : {};
	const kind = stepKinds.find(({ key }) => Object.hasOwn(given, key)) ?? send;
	// one shape for all steps of a kind: a large project has many
	const step = parseCommon(given) as StepCommon & Record<string, unknown>;
	step.kind = kind.key;
	step[kind.key] = kind.parse(given);
	return step as unknown as Step;
}

function parseCommon(given: Record<string, unknown>): StepCommon {
	const common: StepCommon = {
		id: asText(given.id),
		title: asText(given.title),
		off: given.off === true,
		when: asText(given.when),
		cleanup: given.cleanup === true,
		parallel: given.parallel === true,
		retry: parseRetry(isObject(given.retry) ? given.retry : { times: given.retry }),
		timeout: parseDuration(given.timeout) ?? 0
	};
	if (given.each !== undefined && given.each !== null) common.each = given.each as Json;
	if (isObject(given.until)) common.until = parseUntil(given.until);
	return common;
}

const parseRetry = ({ times, every, growth, on }: Record<string, unknown>): Retry => ({
	times: Number(times ?? 0) || 0,
	every: parseDuration(every) ?? 0,
	growth: Number(growth ?? 1) || 1,
	on: (Array.isArray(on) ? on : on === undefined ? [] : [on]).map((one) => String(one))
});

function parseUntil({ every, growth, within, times, ...rest }: Record<string, unknown>): Until {
	const check = parseCheck(rest as Json);
	return {
		...(check ? { check } : {}),
		every: parseDuration(every) ?? 1000,
		growth: Number(growth ?? 1) || 1,
		within: parseDuration(within) ?? 30_000,
		times: Number(times ?? 0) || 0
	};
}

/** The kind of a step. */
export const kindOf = ({ kind }: Step): StepKind => stepKinds.find(({ key }) => key === kind)!;
/** What a step says, as its kind has read it. */
const specOf = (step: Step): unknown => step[step.kind];

/** What a step does, in a few words. */
export const summaryOf = (step: Step): string => kindOf(step).summary(specOf(step));
/** What a row adds to the summary of a step. */
export const detailOf = (step: Step): string => kindOf(step).detail?.(specOf(step)) ?? '';
/** What a rehearsal says of a step that is not carried out. */
export const noteOf = (step: Step): string => kindOf(step).note(specOf(step), step);
/** Values of a step in which expressions are filled in; those of its checks are not among them. */
export const readsOf = (step: Step): unknown[] => kindOf(step).reads?.(specOf(step)) ?? [];
/** What a step checks. */
export const checksOf = (step: Step): Check[] => kindOf(step).checks?.(specOf(step)) ?? [];
/** What a step keeps, as far as that is known before it runs. */
export const keepsOf = (step: Step): Pick<Kept, 'name' | 'secret'>[] => kindOf(step).keeps?.(specOf(step)) ?? [];
/** The names under which a step keeps values; those of a script as far as its text tells. */
export const keptNames = (step: Step): string[] => keepsOf(step).map(({ name }) => name);
/** Variables that a step sets for those below. */
export const setBy = (step: Step): JsonObject => kindOf(step).sets?.(specOf(step)) ?? {};
/** What a step names of the project's other documents. */
export const namedBy = (step: Step): Named[] => (kindOf(step).names?.(specOf(step)) ?? []).filter(({ name }) => name);
/** Carries out a step. @throws HeronError */
export const runStepKind = (step: Step, act: Acting): Promise<void> => kindOf(step).run(specOf(step), act);
