export { guardOf, hostFits, type Guard } from './binding.ts';
export * from './events.ts';
export * from './ports.ts';
export type { Place, Sentence, Verdict } from './verdict.ts';
export {
	noteScript,
	SCRIPT_LIMITS,
	secretPlaces,
	type ScriptInput,
	type ScriptLimits,
	type ScriptOutcome,
	type ScriptPort
} from './script.ts';
export {
	allScenarios,
	calledScenario,
	choose,
	findUnresolved,
	refuseProblems,
	secretVariable,
	standInsOff,
	startNames,
	titleOf,
	type Chosen,
	type StartNames
} from './plan.ts';
export {
	countStep,
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
export { replaying, type Replay } from './replay.ts';
export { blankRequest, inheritedCredential, signIn, wayOfLegs, type Inherited, type SignIn } from './authorize.ts';
export { judgeReply, keepOne, namespacesFor, prepareCall } from './call.ts';
export { misfits, operationOf } from './contract.ts';
export { emptyMemory, scopeOf, type Memory, type StepContext } from './context.ts';
export { demandAllowed, unsafeCalls } from './guard.ts';
export { problemsInTheWay, type Undertaking } from './needs.ts';
export {
	countRows,
	chosenRows,
	openRows,
	passesOf,
	rowNames,
	rowStarts,
	type OpenRows,
	type RowsChoice,
	type RowsOf
} from './rows.ts';
export type { Fill, Pieces } from './origins.ts';
export { batchOf, resultOf, wireOf, type RunBatch, type WireResult } from './published.ts';
export { dayOf, isAbout } from './quarantine.ts';
export { runPlan, type RunPlan } from './runner.ts';
export { parseShard, shardOf, type Shard } from './shard.ts';
export {
	causeOf,
	changedTally,
	countedIn,
	outcomeIn,
	RESULTS_PAGE,
	tallying,
	type CauseTally,
	type Named,
	type RunTally,
	type ScenarioTally
} from './tally.ts';
export { hideRemembered, tokenNames, type KeptTokens } from './tokens.ts';
export { whereUsed, type Use, type Uses } from './uses.ts';
export {
	rehearse,
	rehearsedText,
	rehearseStep,
	stillPorts,
	unmasked,
	type Rehearsed,
	type RehearsedStep
} from './rehearse.ts';
