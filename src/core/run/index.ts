export { guardOf, hostFits, type Guard } from './binding.ts';
export * from './events.ts';
export * from './ports.ts';
export type { Place, Sentence, Verdict } from './verdict.ts';
export {
	SCRIPT_LIMITS,
	secretPlaces,
	shownOutcome,
	type ScriptInput,
	type ScriptLimits,
	type ScriptOutcome,
	type ScriptPort
} from './script.ts';
export {
	allScenarios,
	runnableScenarios,
	choose,
	refuseProblems,
	secretVariable,
	standInsOff,
	startNames,
	titleOf,
	type Chosen,
	type StartNames
} from './plan.ts';
export {
	emptySummary,
	isBad,
	reduceRun,
	standingOf,
	startState,
	stepsIn,
	summaryLine,
	wholeSummary,
	worst,
	type RunState,
	type ScenarioState,
	type Standing
} from './reduce.ts';
export { replaying } from './replay.ts';
export { standInsInVariables, standInsNeeded } from './stand-ins.ts';
export { blankRequest, inheritedCredential, signIn, transportOfLegs } from './authorize.ts';
export { judgeReply, namespacesFor, prepareCall } from './call.ts';
export { keepOne } from './keep.ts';
export { misfits, operationOf } from './contract.ts';
export { emptyMemory, scopeOf, type Memory, type StepContext } from './context.ts';
export { assertAllowed } from './guard.ts';
export { blockingProblems, type RunSelection } from './needs.ts';
export { chosenRows, openRows, passesOf, rowNames, rowStarts, type RowsChoice, type RowsOf } from './rows.ts';
export type { Pieces } from './origins.ts';
export { batchOf, resultOf, type RunBatch } from './published.ts';
export { dayOf, isAbout } from './quarantine.ts';
export { runPlan, type RunPlan } from './runner/index.ts';
export { parseShard, shardOf, type Shard } from './shard.ts';
export {
	causeOf,
	changedTally,
	countedIn,
	outcomeIn,
	RESULTS_PAGE,
	tallying,
	type CauseTally,
	type RunTally,
	type ScenarioTally
} from './tally.ts';
export type { KeptTokens } from './context.ts';
export { hideRemembered, tokenNames } from './tokens.ts';
export { whereUsed, type Use } from './uses.ts';
export { rehearse, rehearsedText, rehearseStep, dryRunPorts, unmasked, type RehearsedStep } from './rehearse.ts';
export { findUnkept, findUnresolved } from './unresolved.ts';
