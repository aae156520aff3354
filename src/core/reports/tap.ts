import { writeJson } from '../model/json.ts';
import { fails } from '../checks/index.ts';
import { tame } from '../tame.ts';
import { standingOf, type StepResult } from '../run/index.ts';
import type { ReportKind } from './kind.ts';
import { placeOfResult, quarantineWords, sentenceOfResult } from './sentence.ts';

/** TAP 14, test points: a number sign starts a directive, and a backslash escapes. */
const description = (text: string): string =>
	tame(text)
		.replace(/\s+/g, ' ')
		.replace(/[\\#]/g, (c) => `\\${c}`);
/** A text as a YAML scalar in one line. */
const scalar = (text: string): string => writeJson(tame(text).toWellFormed());

function diagnosis(result: StepResult): string {
	const last = result.exchanges.at(-1);
	const lines = [
		...(last ? [`call: ${scalar(`${last.method} ${last.url}`)}`] : []),
		...(last?.reply ? [`status: ${last.reply.status}`] : []),
		...(result.error ? [`message: ${scalar(result.error.message)}`, `code: ${scalar(result.error.code)}`] : []),
		`duration_ms: ${Math.round(result.ms)}`
	];
	const failed = result.checks.filter(fails);
	if (result.round) lines.push(`attempt: ${result.round}`);
	if (failed.length > 0) lines.push('failed:', ...failed.map((check) => `  - ${scalar(sentenceOfResult(check))}`));
	return ['---', ...lines, '...'].map((line) => `  ${line}\n`).join('');
}

/** The Test Anything Protocol, version 14, written while the run goes on. */
export const tap: ReportKind = {
	key: 'tap',
	ending: 'tap',
	label: 'TAP',
	doc: 'The Test Anything Protocol, version 14: a test point for each step.',
	open() {
		let count = 0;
		return {
			event(event) {
				if (event.type === 'run') return 'TAP version 14\n';
				if (event.type !== 'step' || event.result.superseded) return '';
				const { result } = event;
				const { outcome, title } = result;
				const good = outcome === 'passed' || outcome === 'skipped';
				const words = description(`${placeOfResult(result)}${title ? `: ${title}` : ''}`);
				const skip = outcome === 'skipped' ? ` # SKIP ${description(result.reason ?? '')}` : '';
				const known = standingOf(result) === 'quarantined' ? ` # TODO ${description(quarantineWords(result))}` : '';
				return `${good ? 'ok' : 'not ok'} ${++count} - ${words}${skip}${known}\n${good ? '' : diagnosis(result)}`;
			},
			end(state) {
				// a run that was stopped has not shown all that it meant to
				const bail = state.stopped ? `Bail out! ${description(state.stopped)}\n` : '';
				return `1..${count}\n${bail}`;
			}
		};
	}
};
