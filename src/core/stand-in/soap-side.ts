import { writeFault, type FoundOperation } from '../soap/index.ts';
import { utf8 } from '../values/index.ts';
import type { Given } from './faults/index.ts';
import { blank } from './work.ts';

/** What it says by itself to whoever speaks SOAP. */
export function faultGiven(found: FoundOperation, reason: string): Given {
	const { text } = writeFault(found, { code: 'Server', reason });
	const type = found.operation.version === '1.1' ? 'text/xml' : 'application/soap+xml';
	return { ...blank(), status: 500, headers: [['Content-Type', `${type}; charset=utf-8`]], body: utf8(text) };
}
