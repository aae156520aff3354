import type { CertificateFacts } from '../model/exchange.ts';
import type { Json } from '../model/json.ts';
import { diagnosisOf, filled, STAGE_TITLES, type DiagnosisCode, type StageKey } from './diagnoses.ts';

/** A change that fixes what was found. */
export interface Fix {
	label: string;
	/** Values of documents that change; undefined takes one away. */
	edits: { file: string; path: (string | number)[]; value?: Json }[];
	/** Files that are added. */
	files?: { path: string; text: string }[];
	/** Checks once more with another method; nothing is changed. */
	method?: string;
}

/** What a stage of a reach check found. */
export interface Stage {
	key: StageKey;
	title: string;
	/** none: not needed here; later: not reached. */
	state: 'passed' | 'failed' | 'warning' | 'none' | 'later';
	/** Milliseconds. */
	ms: number;
	/** One line. */
	finding: string;
	code?: DiagnosisCode;
	meaning?: string;
	facts: [name: string, value: string][];
	fixes: Fix[];
	chain?: CertificateFacts[];
}

/** A stage that is as it should be. @param ms how long it took */
export const passed = (key: StageKey, ms: number, finding: string, facts: Stage['facts'] = []): Stage => ({
	key,
	title: STAGE_TITLES[key],
	state: 'passed',
	ms,
	finding,
	facts,
	fixes: []
});
/** A stage that has nothing to do here. */
export const notNeeded = (key: StageKey, finding: string): Stage => ({ ...passed(key, 0, finding), state: 'none' });
/** A stage that comes after one that failed. */
export const notReached = (key: StageKey): Stage => ({ ...passed(key, 0, 'not reached'), state: 'later' });

/** A stage with what was found wrong. */
export function found(
	code: DiagnosisCode,
	values: Record<string, string | number>,
	more: Partial<Pick<Stage, 'ms' | 'facts' | 'fixes' | 'chain'>> = {}
): Stage {
	const { stage, title, meaning, warning } = diagnosisOf(code) as ReturnType<typeof diagnosisOf>;
	return {
		key: stage,
		title: STAGE_TITLES[stage],
		state: warning ? 'warning' : 'failed',
		ms: more.ms ?? 0,
		finding: filled(title, values),
		code,
		meaning: filled(meaning, values),
		facts: more.facts ?? [],
		fixes: more.fixes ?? [],
		...(more.chain ? { chain: more.chain } : {})
	};
}
