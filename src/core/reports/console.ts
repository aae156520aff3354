import { showDuration, showSize } from '../model/units.ts';
import { summaryLine, type Outcome, type StepResult } from '../run/index.ts';
import { relationOf } from '../checks/index.ts';
import type { ReportKind } from './kind.ts';

const WORDS: Record<Outcome, string> = { passed: 'passed', failed: 'FAILED', error: 'ERROR', skipped: 'skipped' };
const CODES: Record<Outcome, number> = { passed: 32, failed: 31, error: 35, skipped: 90 };

/** What came back, on one line. */
function replyLine(result: StepResult): string {
	const last = result.exchanges.at(-1);
	if (!last) return result.call;
	const call = `${last.method} ${last.url}`;
	if (!last.reply) return `${call} → no answer`;
	const { status, reason, phases, body } = last.reply;
	return `${call} → ${`${status} ${reason}`.trim()}, ${showDuration(phases.total)}, ${showSize(body.length)}`;
}

/** For people: what needs a look first and whole, then the summary. */
export const console: ReportKind = {
	key: 'console',
	label: 'console',
	doc: 'Text for a terminal or a build’s log.',
	open({ color, detail }) {
		const paint = (code: number, text: string) => (color ? `\u001b[${code}m${text}\u001b[0m` : text);
		const bold = (text: string) => paint(1, text);
		const faults: string[] = [];

		const fault = (result: StepResult): string => {
			const word = paint(CODES[result.outcome], WORDS[result.outcome].padEnd(7));
			const title = result.title ? `  ${result.title}` : '';
			const lines = [`${word} ${bold(`${result.scenario} › ${result.step}`)}${title}`];
			const line = replyLine(result);
			if (line) lines.push(`        ${line}`);
			if (result.error) lines.push(`        ${result.error.message}`);
			for (const check of result.checks.filter((one) => !one.holds)) {
				const relation =
					check.relation === check.subject ? '' : ` ${relationOf(check.relation)?.label ?? check.relation}`;
				lines.push(`        ${check.subject}${relation}`);
				if (check.error) lines.push(`          could not be judged: ${check.error}`);
				else lines.push(`          expected  ${check.expected}`, `          received  ${check.received}`);
			}
			if (result.attempts > 1) lines.push(`        tried ${result.attempts} times`);
			return lines.join('\n');
		};

		return {
			event(event) {
				if (event.type !== 'step') return '';
				const { result } = event;
				if (result.outcome === 'failed' || result.outcome === 'error') faults.push(fault(result));
				if (detail !== 'verbose') return '';
				const word = paint(CODES[result.outcome], WORDS[result.outcome].padEnd(7));
				const what = result.outcome === 'skipped' ? (result.reason ?? '') : replyLine(result);
				return `${word} ${result.scenario} › ${result.step}  ${what}\n`;
			},
			end(state) {
				const stopped = state.stopped ? `${state.stopped}\n` : '';
				const line = bold(summaryLine(state.summary));
				const extra = `${state.summary.checks} checks in ${state.scenarios.size} scenarios, ${showDuration(state.ms)}`;
				return `${faults.map((text) => `${text}\n\n`).join('')}${stopped}${line}\n${detail === 'quiet' ? '' : `${paint(90, extra)}\n`}`;
			}
		};
	}
};
