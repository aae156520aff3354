import { writeJson } from '../model/json.ts';
import type { Exchange } from '../model/exchange.ts';
import type { Stage } from './stage.ts';

/** What a reach check found. */
export interface ReachReport {
	/** As it was asked for: a connection's name, or an address. */
	target: string;
	url: string;
	environment: string;
	/** Milliseconds since 1970. */
	startedAt: number;
	ms: number;
	stages: Stage[];
	exchanges: Exchange[];
	/** passed; warning: it works, with something to know; refused: reached, but not let in; failed: not reached. */
	outcome: 'passed' | 'warning' | 'refused' | 'failed';
}

/** The outcome of stages as a whole. */
export function outcomeOf(stages: Stage[]): ReachReport['outcome'] {
	const failed = stages.find((stage) => stage.state === 'failed');
	if (failed) return failed.key === 'authentication' || failed.key === 'answer' ? 'refused' : 'failed';
	return stages.some((stage) => stage.state === 'warning') ? 'warning' : 'passed';
}

const MARKS: Record<Stage['state'], string> = { passed: '✓', failed: '✗', warning: '!', none: '-', later: '·' };

/** The report for a terminal, line by line. */
export function reachLines({ stages }: Pick<ReachReport, 'stages'>): string[] {
	return stages.flatMap((stage) => {
		const time =
			stage.state === 'passed' || stage.state === 'failed' || stage.state === 'warning'
				? `${stage.ms.toFixed(0)} ms`
				: '';
		const lines = [`${MARKS[stage.state]} ${stage.title.padEnd(15)} ${time.padStart(8)}  ${stage.finding}`];
		if (stage.state === 'later' || stage.state === 'none') return lines;
		const indent = ' '.repeat(28);
		if (stage.meaning) lines.push(`${indent}${stage.meaning}`);
		for (const [name, value] of stage.facts) lines.push(`${indent}${name.padEnd(12)} ${value}`);
		for (const { label, edits, files, method } of stage.fixes) {
			lines.push(`${indent}mend: ${label}`);
			for (const { path, text } of files ?? [])
				lines.push(`${indent}      write ${path} (${text.length} letters of PEM)`);
			for (const { file, path, value } of edits)
				lines.push(
					`${indent}      in ${file} set ${path.join('.')}${value === undefined ? ' to nothing' : `: ${writeJson(value)}`}`
				);
			if (method) lines.push(`${indent}      once more with --method ${method}`);
		}
		return lines;
	});
}
