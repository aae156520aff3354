export { functionNames, functions } from './functions/index.ts';
export { languageFunctions } from './functions/own.ts';
export { isMultipleOf } from './decimal.ts';
export { compilePattern } from './pattern.ts';
export { Raw, type FunctionPorts, type Hider, type Names, type Result, type Scope } from './scope.ts';
export { holds, learnMade } from './taint.ts';
export { dependents, resolveVariables } from './layers.ts';
export { hasExpression, parseTemplate, type Part } from './template.ts';
export { meantBy } from './meant.ts';
export { compileExpression, type Reference } from './expression.ts';
export { createEvaluator, type Evaluator } from './evaluator.ts';
export { referencesIn, templateProblem, unknownCallsIn } from './references.ts';
export * from './escape.ts';
export { reasonOf } from './reason.ts';
export { createMarks, joined, type Marks, type Segment } from './marks.ts';
export { digestOf, keyedDigest, Bytes } from './functions/digest.ts';
export {
	base64ToBytes,
	bytesToBase64,
	bytesToHex,
	decodeText,
	joinBytes,
	latin1,
	latin1Bytes,
	namedCharset,
	utf8,
	uuidOf
} from './bytes.ts';
