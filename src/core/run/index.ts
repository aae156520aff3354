export * from './events.ts';
export * from './ports.ts';
export {
	allScenarios,
	choose,
	findUnresolved,
	refuseProblems,
	secretVariable,
	startNames,
	titleOf,
	type Chosen,
	type StartNames
} from './plan.ts';
export { prepareRequest } from './prepare.ts';
export {
	countStep,
	emptySummary,
	exitCodeOf,
	reduceRun,
	startState,
	summaryLine,
	worst,
	type RunState,
	type ScenarioState
} from './reduce.ts';
export { emptyMemory, scopeOf, type Memory } from './scenario.ts';
export { runPlan, type RunPlan } from './runner.ts';
