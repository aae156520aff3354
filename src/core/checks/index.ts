import { textOf } from '../errors.ts';
import type { Json } from '../model/json.ts';
import { body } from './body.ts';
import { cookie, header } from './header.ts';
import type { Check, CheckKind, CheckResult, JudgeTools } from './kind.ts';
import { showMeasure, size, time } from './measure.ts';
import { show } from './relation.ts';
import { relationOf, relationTools } from './relations.ts';
import { status } from './status.ts';
import { that } from './that.ts';

export type { Check, CheckKind, CheckResult, JudgeTools, Relation } from './kind.ts';
export { relationKinds, relationNames, relationOf, relationsProblem, relationTools } from './relations.ts';
export { show } from './relation.ts';

export const checkKinds: readonly CheckKind[] = [status, header, body, time, size, cookie, that];
const byKey = new Map(checkKinds.map((kind) => [kind.key, kind]));
export const checkKind = (key: string): CheckKind | undefined => byKey.get(key);

/** What a check looks at, in words: `body $.nights`. */
export const subjectOf = (check: Check): string => (check.selector ? `${check.kind} ${check.selector}` : check.kind);

/** A check as a sentence: `body $.nights equals 3`. */
export function sentenceOf(check: Check): string {
	const relations = check.relations.map((relation) => {
		const expected = typeof relation.expected === 'string' ? relation.expected : JSON.stringify(relation.expected);
		if (relation.name === check.kind) return check.kind === 'that' ? expected : `is ${expected}`;
		const label = relationOf(relation.name)?.label ?? relation.name;
		return relation.expected === true ? label : `${label} ${expected}`;
	});
	return `${subjectOf(check)} ${relations.join(', ')}`;
}

/**
 * Judges one check on a reply: one result for each relation. Never throws for what a reply holds;
 * what could not be judged carries `error` and does not hold.
 */
export async function judge(check: Check, index: number, tools: JudgeTools): Promise<CheckResult[]> {
	const kind = byKey.get(check.kind)!;
	const subject = subjectOf(check);
	const results: CheckResult[] = [];
	const relational = relationTools(tools.now);
	for (const { name, expected: written } of check.relations) {
		const result: CheckResult = { index, subject, relation: name, expected: show(written), received: '', holds: false };
		results.push(result);
		try {
			// `that` holds an expression already, everything else is a text with expressions
			const expected: Json = kind === that ? written : await tools.resolve(written);
			const selector = check.selector ? String(await tools.resolve(check.selector)) : undefined;
			result.expected = typeof expected === 'string' && kind.form === 'value' ? expected : show(expected);
			const found = await kind.look(tools, selector);
			if (kind.judge) {
				const verdict = await kind.judge(found, expected, tools);
				result.holds = verdict.holds;
				result.received = verdict.received ?? show(found.value);
				continue;
			}
			const relation = relationOf(name)!;
			const measured = kind === time || kind === size;
			result.received = !found.found
				? 'nothing'
				: measured
					? showMeasure(kind.key, found.value as number)
					: show(found.value);
			if (measured && typeof expected === 'string') result.expected = expected;
			if (!found.found && !relation.nothing) continue;
			const verdict = relation.judge(found.found ? found.value : undefined, expected, relational);
			result.holds = verdict.holds;
			if (verdict.received) result.received = verdict.received;
		} catch (error) {
			result.error = error instanceof RangeError ? 'the value is nested too deep' : textOf(error);
		}
	}
	return results;
}
