export { canonical, compareData, type Difference, type Path } from './data.ts';
export { documentDifferences } from './document.ts';
export { compareLines } from './lines.ts';
export { changedSteps } from './steps.ts';
export { spansOf, type ChangeSpan } from './spans.ts';
export { differenceSentence } from './sentence.ts';
