import { columnsOfRows, type RowResult } from '#core/reports/index.ts';
import { countedIn, type CauseTally, type ScenarioTally } from '#core/run/index.ts';
import type { StoredStep } from '$lib/wire.ts';
import type { Asked } from './pages.ts';
import type { RunSheetState } from './sheet.svelte.ts';

/** A line of a run's page. */
export type Line =
	| { kind: 'head'; key: string; text: string }
	/** A result by its sequence number, shown in one way or another. */
	| { kind: 'fault' | 'left' | 'advice' | 'named'; key: string; seq: number }
	| { kind: 'alike'; key: string; text: string }
	| { kind: 'note'; key: string; text: string }
	/** More findings of the same cause, from a sequence number on. */
	| { kind: 'further'; key: string; fold: string; from: number }
	| { kind: 'scenario'; key: string; scenario: string }
	| { kind: 'step'; key: string; step: StoredStep }
	| { kind: 'rows'; key: string; scenario: string; columns: string[]; paged?: Paged }
	| { kind: 'row'; key: string; row: RowResult; columns: string[] }
	| { kind: 'pager'; key: string; scenario: string; paged: Paged; what: string };

/** Which of many results, or rows, are shown: from a place, from 0. */
export interface Paged {
	from: number;
	shown: number;
	total: number;
}

/** What of a run's page is unfolded, and where in it one is. */
export interface Unfolded {
	has(key: string): boolean;
	/** The place from which a scenario's results, or rows, are shown. */
	from(scenario: string): number;
	/** The sequence numbers from which findings of one cause are shown. */
	further(fold: string): number[];
	onlyBad: boolean;
	printing: boolean;
}

/** The key of the fold of findings that have the same cause. */
const foldOf = (kind: 'faults' | 'known', cause: string): string => `c${kind} ${cause}`;
const READING = { kind: 'note', text: 'reading…' } as const;

/** The columns of a scenario's rows, also of a run whose tally has none. */
const columnsOf = (scenario: ScenarioTally | undefined, rows: RowResult[]): string[] =>
	scenario?.columns ?? columnsOfRows(rows);

function findings(sheet: RunSheetState, kind: 'faults' | 'known', unfolded: Unfolded): Line[] {
	const { tally } = sheet;
	const lines: Line[] = [];
	const more = (fold: string, cause: string, first: number): void => {
		for (const from of [first, ...unfolded.further(fold)]) {
			const page = sheet.page({ of: 'findings', cause, known: kind === 'known', from });
			if (!page || !('steps' in page)) {
				lines.push({ ...READING, key: `${fold} ${from}` });
				return;
			}
			for (const { seq } of page.steps) lines.push({ kind: 'fault', key: `f${seq}`, seq });
			if (!page.more) return;
			const next = page.steps.at(-1)!.seq + 1;
			if (!unfolded.further(fold).includes(next)) {
				lines.push({ kind: 'further', key: `m${fold} ${next}`, fold, from: next });
				return;
			}
		}
	};
	for (const { cause, first, count } of tally[kind] as CauseTally[]) {
		lines.push({ kind: 'fault', key: `f${first}`, seq: first });
		if (count === 1) continue;
		const fold = foldOf(kind, cause);
		lines.push({ kind: 'alike', key: fold, text: `${count - 1} more with the same cause` });
		if (unfolded.has(fold) || unfolded.printing) more(fold, cause, first + 1);
	}
	if (tally.others[kind] > 0) {
		const fold = foldOf(kind, '');
		lines.push({ kind: 'alike', key: fold, text: `${tally.others[kind]} more of other causes` });
		if (unfolded.has(fold)) more(fold, '', 0);
	}
	return lines;
}

function scenarioLines(sheet: RunSheetState, scenario: string, data: boolean, unfolded: Unfolded): Line[] {
	const lines: Line[] = [];
	const from = unfolded.from(scenario);
	const tally = sheet.tally.scenarios[scenario];
	const asked: Asked = data
		? { of: 'rows', scenario, bad: unfolded.onlyBad, from }
		: { of: 'scenario', scenario, from };
	const page = sheet.page(asked);
	const columns = columnsOf(tally, page && 'rows' in page ? page.rows : []);
	if (!page) {
		if (data) lines.push({ kind: 'rows', key: `h${scenario}`, scenario, columns });
		return [...lines, { ...READING, key: `w${scenario}` }];
	}
	const shown = 'rows' in page ? page.rows.length : page.steps.length;
	const all = tally ? (data ? ((unfolded.onlyBad ? tally.badRows : tally.rows) ?? 0) : countedIn(tally)) : 0;
	const paged: Paged | undefined =
		from > 0 || page.more ? { from, shown, total: Math.max(all, from + shown) } : undefined;
	const pager = (key: string, what: string): void => {
		if (paged) lines.push({ kind: 'pager', key: `${key}${scenario}`, scenario, paged, what });
	};
	if ('rows' in page) {
		lines.push({ kind: 'rows', key: `h${scenario}`, scenario, columns, ...(paged ? { paged } : {}) });
		lines.push(...rowLines(sheet, scenario, page.rows, columns, unfolded));
	} else {
		pager('p', 'results');
		for (const step of page.steps) lines.push({ kind: 'step', key: `t${step.seq}`, step });
	}
	pager('q', data ? 'rows, below' : 'results, below');
	return lines;
}

function rowLines(
	sheet: RunSheetState,
	scenario: string,
	rows: RowResult[],
	columns: string[],
	unfolded: Unfolded
): Line[] {
	return rows.flatMap((row): Line[] => {
		const key = `r${scenario} ${row.number}`;
		const line: Line = { kind: 'row', key, row, columns };
		if (!unfolded.has(key)) return [line];
		const own = sheet.page({ of: 'row', scenario, row: row.number });
		if (!own || !('steps' in own)) return [line, { ...READING, key: `w${key}` }];
		return [line, ...own.steps.map((step): Line => ({ kind: 'step', key: `t${step.seq}`, step }))];
	});
}

/** A run as lines: what needs a look first, then everything that ran, as far as it is unfolded. */
export function linesOf(sheet: RunSheetState, unfolded: Unfolded): Line[] {
	const { tally, run } = sheet;
	const lines: Line[] = [];
	const named = (kind: 'left' | 'advice' | 'unsteady', text: string) => {
		const { count, first } = tally[kind];
		if (count === 0) return;
		lines.push({ kind: 'head', key: kind, text });
		for (const seq of first) lines.push({ kind: kind === 'unsteady' ? 'named' : kind, key: `${kind} ${seq}`, seq });
		// a result may have several pieces of advice
		if (kind !== 'advice' && count > first.length)
			lines.push({ kind: 'note', key: `${kind} more`, text: `and ${count - first.length} more` });
	};
	const found = (kind: 'faults' | 'known', text: string) => {
		if (tally[kind].length === 0) return;
		lines.push({ kind: 'head', key: kind, text }, ...findings(sheet, kind, unfolded));
	};
	named('left', 'Left behind: its clean-up did not pass');
	found('faults', 'What needs a look');
	found('known', 'Known: in quarantine');
	named('unsteady', 'Passed on a later attempt only');
	named('advice', 'Should hold, and does not');
	lines.push({ kind: 'head', key: 'all', text: 'Everything that ran' });
	for (const { scenario, data } of run.scenarios) {
		lines.push({ kind: 'scenario', key: `s${scenario}`, scenario });
		if (unfolded.has(scenario) || unfolded.printing)
			lines.push(...scenarioLines(sheet, scenario, data !== undefined, unfolded));
	}
	return lines;
}
