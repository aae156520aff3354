export { briefly, type DefinitionBrief } from './brief.ts';
export { madeCall } from './call.ts';
export { createCollector, type Coverage } from './collector.ts';
export { coverageHtml } from './html.ts';
export { createMadeCollector, type MadeStep } from './made.ts';
export { missingStep, type MissingStep } from './missing.ts';
export { plannedCoverage } from './planned.ts';
export { kindWords, percentOf, talliesOf } from './tally.ts';
export { touchCounter } from './gate.ts';
