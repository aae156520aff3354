export { briefly, type DefinitionBrief, type OperationBrief } from './brief.ts';
export { madeCall, type Call } from './call.ts';
export {
	createCollector,
	type Collector,
	type Coverage,
	type CoveredDefinition,
	type CoveredOperation,
	type CoveredPoint
} from './collector.ts';
export { coverageHtml } from './html.ts';
export { createMadeCollector, type MadeStep } from './made.ts';
export { missingStep, type MissingStep } from './missing.ts';
export { plannedCoverage } from './planned.ts';
export { countOf, kindWords, percentOf, talliesOf, touchedTallies, type KindTally, type Tally } from './tally.ts';
export { touchCounter } from './gate.ts';
