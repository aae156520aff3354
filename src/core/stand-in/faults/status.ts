import { problemOf } from '../problem.ts';
import type { FaultKind } from './kind.ts';

export const status: FaultKind = {
	key: 'status',
	label: 'another status',
	doc: 'Another status is answered, with problem details (RFC 9457) as its body.',
	example: 503,
	schema: { type: 'integer', minimum: 200, maximum: 599 },
	problem: (value) =>
		Number.isInteger(value) && (value as number) >= 200 && (value as number) <= 599
			? undefined
			: 'a status from 200 to 599 is wanted',
	words: (value) => `status ${String(value)}`,
	apply(given, value) {
		Object.assign(given, problemOf(Number(value), 'a fault on purpose: this stand-in was told to answer so'));
	}
};
