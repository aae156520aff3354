export { briefly, type DefinitionBrief, type OperationBrief } from './brief.ts';
export { madeCall } from './call.ts';
export { Collector } from './collector.ts';
export { coverageHtml } from './html.ts';
export { createMadeCollector, type MadeStep } from './made.ts';
export { missingStep } from './missing.ts';
export type { MissingStep } from './missing-step.ts';
export { plannedCoverage } from './planned.ts';
export { touchCounter } from './gate.ts';
