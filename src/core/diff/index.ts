export { canonical, compareData, type CompareOptions, type Difference, type Path } from './data.ts';
export { documentDifferences } from './document.ts';
export { compareLines, type LinePiece } from './lines.ts';
export { changedSteps } from './steps.ts';
export { spansOf, type ChangeSpan } from './spans.ts';
export { differenceSentence } from './sentence.ts';
