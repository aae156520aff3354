export { diagnosisCodes, diagnosisOf, STAGES, STAGE_TITLES, type DiagnosisCode, type StageKey } from './diagnoses.ts';
export { found, notNeeded, notReached, passed, type Mend, type Stage } from './stage.ts';
export {
	certificateRows,
	daysLeft,
	isSlip,
	judgeAnswer,
	judgeAuthentication,
	judgeHeaderNames,
	judgeHttpError,
	judgeOpening,
	judgeRedirects,
	judgeSkew,
	schemeMends,
	schemesOf,
	type ReachTarget
} from './judge.ts';
export { outcomeOf, reachLines, type ReachReport } from './report.ts';
