export { approvedFile, approvedText, baselineFiles, isBaselineName, type Approved } from './file.ts';
export { compareApproved, dataOf, type Ignoring } from './compare.ts';
export { findVolatile, type Volatile } from './volatile.ts';
