import { relationOf, type CheckResult } from '../checks/index.ts';

/** A check that did not hold, on one line: `body $.nights equals: expected 3, received 2`. */
export function sentenceOfResult(check: CheckResult): string {
	const relation = check.relation === check.subject ? '' : ` ${relationOf(check.relation)?.label ?? check.relation}`;
	const why = check.error
		? `could not be judged: ${check.error}`
		: `expected ${check.expected}, received ${check.received}`;
	return `${check.subject}${relation}: ${why}`;
}
