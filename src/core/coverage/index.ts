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
export { POINT_KINDS, type PointKind } from './points.ts';
export { countOf, kindWords, percentOf, TALLIES, talliesOf, type Tally } from './tally.ts';
