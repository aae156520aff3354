import { dataOf, findVolatile, type Volatile } from '../baselines/index.ts';
import { percentile, median, placeKey, type PastRun } from '../gate/index.ts';
import { show } from '../checks/index.ts';
import { showDuration } from '../model/units.ts';
import type { HeaderList } from '../model/reply.ts';
import { isBad, standingOf, type Outcome, type Standing, type StepResult } from '../run/index.ts';

/** What a comparison looks at of a step: the answer is its last one. */
export interface Side {
	result: Pick<
		StepResult,
		'scenario' | 'step' | 'title' | 'row' | 'pass' | 'outcome' | 'superseded' | 'unsteady' | 'quarantine' | 'ms'
	> & { seq: number };
	/** Why it did not pass, a sentence each. */
	faults: string[];
	reply?: { status: number; headers: HeaderList; bodyHash: string };
	/** What was sent by its scenario up to it: values in the answer that come from there follow it. */
	sent: string;
	/** The body as text; undefined where it is none, or too large to be looked at. */
	body(): Promise<string | undefined>;
}

/** newFailure: passed before, or was not there; fixed: the other way round; answer, time: passed in both, or failed in both. */
export const CHANGES = ['newFailure', 'fixed', 'answer', 'slower', 'faster', 'added', 'gone'] as const;
/** In which way a step is another one than in the run before. */
export type ChangeKind = (typeof CHANGES)[number];

/** A step that is not as it was in the run before. */
export interface StepChange {
	kind: ChangeKind;
	scenario: string;
	step: string;
	title: string;
	row?: number;
	pass?: number;
	before?: { standing: Standing; ms: number; seq: number };
	after?: { standing: Standing; ms: number; seq: number };
	/** What is different, a sentence each. */
	details: string[];
}

/** What changed from one run to another. */
export interface Comparison {
	changes: StepChange[];
	/** How many steps are the same in both. */
	same: number;
}

const keyOf = ({ result }: Side): string =>
	[result.scenario, result.step, result.row?.number ?? '', result.pass?.number ?? ''].join('\0');
/** What is another one in every answer, whatever happens. */
const PASSING_HEADERS = new Set([
	'date',
	'keep-alive',
	'connection',
	'age',
	'etag',
	'last-modified',
	'expires',
	'set-cookie',
	'content-length',
	'x-request-id',
	'x-correlation-id',
	'traceparent',
	'tracestate',
	'server-timing'
]);
/** Reasons for which a value is another one each time. */
const PASSING: readonly Volatile['reason'][] = ['time', 'id', 'token', 'counter'];
const MOST_SHOWN = 12;
const SHOWN = 60;

const headersOf = (list: HeaderList): Map<string, string> => {
	const out = new Map<string, string>();
	for (const [name, value] of list) {
		const key = name.toLowerCase();
		if (!PASSING_HEADERS.has(key)) out.set(key, out.has(key) ? `${out.get(key)}, ${value}` : value);
	}
	return out;
};

/** What is different between two answers, leaving out what is another one each time. */
async function answerChanges(before: Side, after: Side): Promise<string[]> {
	const [a, b] = [before.reply, after.reply];
	if (!a || !b) return a === b ? [] : [a ? `${a.status} before, no answer now` : `no answer before, ${b!.status} now`];
	const details: string[] = [];
	// another status is another kind of answer: nothing in it is compared
	if (a.status !== b.status) return [`status ${a.status} → ${b.status}`];
	const [was, is] = [headersOf(a.headers), headersOf(b.headers)];
	for (const name of new Set([...was.keys(), ...is.keys()])) {
		const [x, y] = [was.get(name), is.get(name)];
		// the same kind of value, such as another id, says nothing
		if (x === y || (x !== undefined && y !== undefined && isPassing(x, y, before.sent, after.sent))) continue;
		details.push(`${name}: ${x ?? 'not there'} → ${y ?? 'not there'}`);
	}
	if (a.bodyHash === b.bodyHash) return details;
	const [x, y] = await Promise.all([before.body(), after.body()]);
	if (x === undefined || y === undefined) return [...details, 'the body is another one'];
	try {
		for (const { selector, reason, order, seen } of findVolatile([dataOf(x), dataOf(y)])) {
			if (order) details.push(`${selector} is in another order`);
			else if (!PASSING.includes(reason) && !followsIn(seen, before.sent, after.sent))
				details.push(
					`${selector}: ${seen[0] === undefined ? 'not there' : show(seen[0], SHOWN)} → ${seen[1] === undefined ? 'not there' : show(seen[1], SHOWN)}`
				);
		}
	} catch {
		details.push('the body is another one');
	}
	return details;
}

/** Where two texts differ, out to the ends of the words there: `/bookings/RW-1` and `/bookings/RW-2` give `RW-1` and `RW-2`. */
function apart(before: string, after: string): [string, string] {
	let from = 0;
	while (from < before.length && before[from] === after[from]) from++;
	let back = 0;
	const most = Math.min(before.length, after.length) - from;
	while (back < most && before.at(-1 - back) === after.at(-1 - back)) back++;
	const isWord = (char: string | undefined) => char !== undefined && /[\w-]/.test(char);
	while (from > 0 && isWord(before[from - 1])) from--;
	while (back > 0 && isWord(before.at(-back))) back--;
	return [before.slice(from, before.length - back), after.slice(from, after.length - back)];
}

const NUMBERED = /^[A-Za-z]{1,8}[-_]?\d+$/;
/** Shorter texts are found anywhere. */
const LEAST_SENT = 3;

/** Whether two texts are told apart by an id or a time alone, or by what was sent before them. */
function isPassing(before: string, after: string, sentBefore: string, sentAfter: string): boolean {
	const [a, b] = apart(before, after);
	const [found] = findVolatile([{ value: a }, { value: b }]);
	if (found !== undefined && PASSING.includes(found.reason)) return true;
	if (NUMBERED.test(a) && NUMBERED.test(b) && a.replace(/\d+$/, '') === b.replace(/\d+$/, '')) return true;
	return a.length >= LEAST_SENT && b.length >= LEAST_SENT && sentBefore.includes(a) && sentAfter.includes(b);
}

const followsIn = ([before, after]: Volatile['seen'], sentBefore: string, sentAfter: string): boolean =>
	typeof before === 'string' && typeof after === 'string' && isPassing(before, after, sentBefore, sentAfter);

/** How long steps take, run by run: by it a time is told that has moved beyond what always varies. */
export function timesByStep(past: readonly PastRun[]): Map<string, number[]> {
	const times = new Map<string, number[]>();
	for (const { steps } of past)
		for (const { scenario, step, standing, ms } of steps) {
			if (standing !== 'passed' && standing !== 'unsteady') continue;
			const list = times.get(placeKey(scenario, step)) ?? [];
			list.push(ms);
			times.set(placeKey(scenario, step), list);
		}
	return times;
}

const LEAST_TIMES = 5;
const RATIO = 1.5;
/** Whether a time has moved, judged by how long it usually takes. */
function moved(before: number, after: number, usual: readonly number[] | undefined): 'slower' | 'faster' | undefined {
	const [less, more] = before < after ? [before, after] : [after, before];
	const way = before < after ? 'slower' : 'faster';
	// a first call that connects says nothing of the next one
	if (!usual || usual.length < LEAST_TIMES) return undefined;
	const sorted = [...usual].sort((a, b) => a - b);
	const [low, high] = [percentile(sorted, 0.05), percentile(sorted, 0.95)];
	if (more < less * RATIO || more - less < high - low) return undefined;
	const middle = median(usual);
	// one of the two has to be out of what is usual
	return after > high || after < low || Math.abs(before - middle) > high - low ? way : undefined;
}

/**
 * What is different between two runs, step by step and row by row; superseded attempts are left out.
 * @param usual how long steps took in other runs
 */
export async function compareRuns(
	before: readonly Side[],
	after: readonly Side[],
	usual: ReadonlyMap<string, readonly number[]> = new Map()
): Promise<Comparison> {
	const counted = (list: readonly Side[]) =>
		new Map(list.filter(({ result }) => !result.superseded).map((side) => [keyOf(side), side]));
	const [was, is] = [counted(before), counted(after)];
	const changes: StepChange[] = [];
	let same = 0;
	const partOf = ({ result }: Side) => ({ standing: standingOf(result), ms: result.ms, seq: result.seq });
	const add = (kind: ChangeKind, a: Side | undefined, b: Side | undefined, details: string[]) => {
		const { result } = (b ?? a)!;
		changes.push({
			...{ kind, scenario: result.scenario, step: result.step, title: result.title },
			...(result.row ? { row: result.row.number } : {}),
			...(result.pass ? { pass: result.pass.number } : {}),
			...(a ? { before: partOf(a) } : {}),
			...(b ? { after: partOf(b) } : {}),
			details:
				details.length > MOST_SHOWN
					? [...details.slice(0, MOST_SHOWN), `and ${details.length - MOST_SHOWN} more`]
					: details
		});
	};
	const bad = ({ result }: Side) => isBad(result.outcome);
	for (const [key, b] of is) {
		const a = was.get(key);
		if (!a) {
			add(bad(b) ? 'newFailure' : 'added', undefined, b, b.faults);
			continue;
		}
		const ran = ({ result: { outcome } }: { result: { outcome: Outcome } }) => outcome !== 'skipped';
		if (bad(b) && !bad(a)) add('newFailure', a, b, [...b.faults, ...(ran(a) ? await answerChanges(a, b) : [])]);
		else if (bad(a) && !bad(b)) {
			if (ran(b)) add('fixed', a, b, a.faults);
			else add('gone', a, b, ['not tried in this run']);
		} else {
			const details = ran(a) && ran(b) ? await answerChanges(a, b) : [];
			if (ran(a) !== ran(b)) add(ran(b) ? 'added' : 'gone', a, b, []);
			else if (details.length > 0) add('answer', a, b, details);
			else {
				const times = usual.get(placeKey(b.result.scenario, b.result.step));
				const way = ran(b) && !bad(b) ? moved(a.result.ms, b.result.ms, times) : undefined;
				if (way) add(way, a, b, [`${showDuration(a.result.ms)} → ${showDuration(b.result.ms)}`]);
				else same++;
			}
		}
	}
	for (const [key, a] of was) if (!is.has(key)) add('gone', a, undefined, []);
	const place = (kind: ChangeKind) => CHANGES.indexOf(kind);
	changes.sort((x, y) => place(x.kind) - place(y.kind));
	return { changes, same };
}
