export type { Check } from './check.ts';
export type { CheckKind, CheckResult, ContractFault, JudgeTools, SchemaByItself, SchemaFault } from './kind.ts';
export { show } from '../model/show.ts';
export { wordsOfFault } from './contract.ts';
export { cutWords, fails, isPaused, judge, sentenceOf } from './judge.ts';
export { checkKind, checkKinds, requestChecks } from './kinds.ts';
export { parseCheck, parseChecks } from './parse.ts';
export { relationKinds, relationNames, relationOf, relationsProblem, relationTools } from './relations/index.ts';
