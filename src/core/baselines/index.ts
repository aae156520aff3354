export { approvedFile, approvedText, baselineFiles, isBaselineName, type Approved } from './file.ts';
export { compareApproved, dataOf, isXmlText } from './compare.ts';
export { acceptXml } from './accept-xml.ts';
export { acceptDifferences, alike, type Alike } from './accept.ts';
export { findVolatile, generalSelector, type Volatile } from './volatile.ts';
