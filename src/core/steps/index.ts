export type { Acting, Named, StepField, StepKind } from './kind.ts';
export { bodySchema, checkBody } from './fields/body.ts';
export { checkCheck, checkSchema } from './fields/checks.ts';
export { stepKinds, type StepName } from './kinds.ts';
export { sendNames, stepNames, stepReferences } from './references.ts';
export { parseSend } from './send.ts';
export {
	checksOf,
	detailOf,
	keepsOf,
	keptNames,
	kindOf,
	namedBy,
	noteOf,
	parseStep,
	runStepKind,
	setBy,
	summaryOf,
	type Step,
	type StepOf
} from './step.ts';
