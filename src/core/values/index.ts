export { functions } from './functions/index.ts';
export { compilePattern, type Pattern } from './pattern.ts';
export { Raw, type FunctionPorts, type Names, type Result, type Scope } from './scope.ts';
export { resolveVariables, type Layers } from './layers.ts';
export { hasExpression, parseTemplate } from './template.ts';
export { compileExpression, type Expression, type Reference } from './expression.ts';
export { createEvaluator, referencesIn, templateProblem, type Evaluator } from './evaluator.ts';
export * from './escape.ts';
export { base64ToBytes, bytesToBase64, bytesToHex, decodeText, utf8 } from './bytes.ts';
