import { bytesToHex, digestOf, utf8 } from '../values/index.ts';

/**
 * What the spans of a step's calls begin with (W3C Trace Context section 3.2.2.4): twelve digits, the same in every run.
 * @param step `collection/scenario/step`
 */
export const spanOf = (step: string): string => bytesToHex(digestOf('sha256', utf8(step)).subarray(0, 6));
