export { readAsked, traceOf, type Asked, type Reading } from './asked.ts';
export type { CallRecord } from './call-record.ts';
export {
	checkFault,
	faultKinds,
	faultWords,
	parseFault,
	type Fault,
	type FaultKind,
	type Given
} from './faults/index.ts';
export { covers, fitPath, namesIn, parsePath, partsOf, type PathPart } from './path.ts';
export type { Came, Outgoing, SignatureFound, SignatureGiven, StandInPorts } from './ports.ts';
export type { Refusal } from './held.ts';
export { spreadOf } from './measured.ts';
export { problemOf } from './problem.ts';
export { createService, type Remembered, type Service } from './service.ts';
export type { Answered, CallLater, ServiceTools, Tried } from './work.ts';
export { mergePatch } from './store.ts';
export { idOfCall, receivingStep, sendingStep, type StepOfLog } from './to-step.ts';
export { answersOf, originsOf, type RecordedAnswers } from './recorded.ts';
