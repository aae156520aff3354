import { textOf } from '../errors.ts';
import { writeJson, type Json } from '../model/json.ts';
import type { Reply } from '../model/reply.ts';
import { show } from '../model/show.ts';
import { showSize } from '../model/units.ts';
import type { Check } from './check.ts';
import type { CheckKind, CheckResult, JudgeTools, Subject } from './kind.ts';
import { checkKind } from './kinds.ts';
import type { RelationKind } from './relation.ts';
import { asMeant, relationOf, relationTools } from './relations/index.ts';

/** What a check looks at, in words: `body $.nights`. */
const subjectOf = ({ kind, selector, relations: [first] }: Check): string =>
	selector ? `${kind} ${selector}` : ((first && checkKind(kind)?.words?.(first.expected)?.subject) ?? kind);

/** A check as a sentence: `body $.nights equals 3`. */
export function sentenceOf(check: Check): string {
	const kind = checkKind(check.kind);
	const relations = check.relations.map((relation) => {
		const expected = typeof relation.expected === 'string' ? relation.expected : writeJson(relation.expected);
		const own = kind?.words?.(relation.expected)?.relation;
		if (own !== undefined) return own;
		if (relation.name === check.kind) return kind?.expression ? expected : `is ${expected}`;
		const label = relationOf(relation.name)?.label ?? relation.name;
		return relation.expected === true ? label : `${label} ${expected}`;
	});
	return `${subjectOf(check)} ${relations.join(', ')}`;
}

/** Why a reply that was cut cannot be judged by its body; undefined when it is whole. */
export const cutWords = ({ cut, body: read }: Pick<Reply, 'cut' | 'body'>): string | undefined =>
	cut ? `only the first ${showSize(read.length)} were read (${cut})` : undefined;

/** Whether a result fails its step: those of a check that only should hold do not. */
export const fails = (result: Pick<CheckResult, 'holds' | 'should'>): boolean => !result.holds && !result.should;

/** Whether a check is left out: it is off, or its pause has not ended. */
export const isPaused = ({ off, pause }: Check, now: number): boolean =>
	off && (!pause?.until || new Date(now).toISOString().slice(0, 10) <= pause.until);

/** What a relation looks at: all matches when it is about a list, else the one value or the list. */
function subjectFor({ found, value, items, blank }: Subject, kind: RelationKind) {
	if (!found && kind.needsItems) return { found, value };
	if (!found && kind.blank && blank !== undefined) return { found: true, value: blank };
	return kind.list === true && items ? { found: true, value: items } : { found, value };
}

/**
 * Judges one check on a reply: one result for each relation. Never throws for what a reply holds;
 * what could not be judged carries `error` and does not hold.
 */
export async function judge(check: Check, index: number, tools: JudgeTools): Promise<CheckResult[]> {
	const subject = subjectOf(check);
	const results: CheckResult[] = [];
	for (const { name, expected } of check.relations) {
		const result: CheckResult = {
			index,
			subject,
			relation: name,
			expected: show(expected),
			received: '',
			holds: false,
			...(check.should ? { should: true } : {})
		};
		results.push(result);
		try {
			await judgeRelation(check, expected, result, tools);
		} catch (error) {
			result.error = error instanceof RangeError ? 'the value is nested too deep' : textOf(error);
		}
	}
	return results;
}

/** Judges one relation into its result. @param written what is expected, as it stands in the check */
async function judgeRelation(check: Check, written: Json, result: CheckResult, tools: JudgeTools): Promise<void> {
	const kind = checkKind(check.kind)!;
	const cut = cutWords(tools.view.reply);
	// most of it is there at once, and waiting for that costs more than computing it;
	// one kind holds an expression already, everything else is a text with expressions
	const resolved = kind.expression ? written : tools.resolve(written);
	const expected = resolved instanceof Promise ? await resolved : resolved;
	const where = check.selector ? tools.resolve(check.selector) : undefined;
	const selector = where === undefined ? undefined : String(where instanceof Promise ? await where : where);
	result.expected = typeof expected === 'string' && kind.form === 'value' ? expected : show(expected);
	if (kind.placed && selector?.startsWith('$')) result.place = selector;
	if (cut && kind.whole?.(written)) throw new Error(cut);
	const looked = kind.look(tools, selector);
	const found = looked instanceof Promise ? await looked : looked;
	if (kind.judge) {
		const verdict = await kind.judge(found, expected, tools, check.settings ?? {});
		result.holds = verdict.holds;
		result.received = verdict.received ?? show(found.value);
		if (verdict.expected) result.expected = verdict.expected;
		if (verdict.place && !verdict.holds) result.place = verdict.place;
	} else relate(kind, found, expected, result, tools);
}

/** Holds what was found against what a relation expects. */
function relate(kind: CheckKind, found: Subject, expected: Json, result: CheckResult, tools: JudgeTools): void {
	const relation = relationOf(result.relation)!;
	const seen = subjectFor(found, relation);
	const value = seen.found && found.text ? asMeant(relation, seen.value, expected) : seen.value;
	if (!seen.found) result.received = 'nothing';
	else result.received = kind.show?.(value) ?? show(value);
	if (kind.show && typeof expected === 'string') result.expected = expected;
	if (!seen.found && !relation.nothing) return;
	const verdict = relation.judge(seen.found ? value : undefined, expected, relationTools(tools.now, found.text));
	result.holds = verdict.holds;
	if (verdict.received) result.received = verdict.received;
	const cut = cutWords(tools.view.reply);
	// what was read settles that there is as much, and never that there is no more
	if (cut && kind.grows && verdict.holds === ['atMost', 'below'].includes(relation.name)) {
		result.holds = false;
		result.error = cut;
	}
	if (verdict.at !== undefined && result.place && !/[*?:,]|\.\./.test(result.place)) result.place += `[${verdict.at}]`;
}
