export { canonical, compareData, type CompareOptions, type Difference } from './data.ts';
export { compareLines, type LinePiece } from './lines.ts';
export { differenceSentence } from './sentence.ts';
