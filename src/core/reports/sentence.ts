import { relationOf, type CheckResult } from '../checks/index.ts';
import type { StepResult } from '../run/index.ts';

/** A check that did not hold, on one line: `body $.nights equals: expected 3, received 2`. */
export function sentenceOfResult(check: CheckResult): string {
	const relation = check.relation === check.subject ? '' : ` ${relationOf(check.relation)?.label ?? check.relation}`;
	const why = check.error
		? `could not be judged: ${check.error}`
		: `expected ${check.expected}, received ${check.received}`;
	return `${check.subject}${relation}: ${why}`;
}

/** Where a result is of: `bookings/book-a-mooring row 3 › book pass 2`. */
export const placeOfResult = ({
	scenario,
	step,
	row,
	pass
}: Pick<StepResult, 'scenario' | 'step' | 'row' | 'pass'>): string =>
	`${scenario}${row ? ` row ${row.number}` : ''} › ${step}${pass ? ` pass ${pass.number}` : ''}`;
