import { fails } from '../checks/index.ts';
import { counted } from '../messages.ts';
import { shortened } from '../model/shortened.ts';
import { showDuration } from '../model/units.ts';
import { isBad, standingOf, type StepResult } from '../run/index.ts';
import { tame } from '../tame.ts';
import type { ReportKind } from './kind.ts';
import { callWords, gateLines, placeOfResult, quarantineWords, sentenceOfResult, summaryWords } from './sentence.ts';

/** A summary is read at a glance: what is beyond this is counted. */
const MOST_SHOWN = 25;
const MOST_CHECKS = 5;
const LONGEST = 300;

const short = (text: string): string => shortened(text, LONGEST);
/** A text that stays text: every mark of Markdown and HTML in it is escaped (CommonMark 0.31 section 2.4). */
const plain = (text: string): string =>
	short(tame(text).replace(/\s+/g, ' ')).replace(/[!"#$%&'()*+,./:;<=>?@[\\\]^_`{|}~-]/g, (c) =>
		c === '<' ? '&lt;' : c === '&' ? '&amp;' : `\\${c}`
	);
/** A text as code, whatever backticks it holds (section 6.1). In a table a bar would end its cell. */
function code(text: string): string {
	const line = short(tame(text).replace(/\s+/g, ' '));
	const longest = Math.max(0, ...[...line.matchAll(/`+/g)].map(([run]) => run.length));
	const fence = '`'.repeat(longest + 1);
	const room = /^`|`$|^ .* $/.test(line) || line === '' ? ' ' : '';
	return `${fence}${room}${line}${room}${fence}`;
}

function describeFault(result: StepResult): string {
	const { call, answer } = callWords(result);
	const lines = [`- **${plain(placeOfResult(result))}**${result.title ? ` ${plain(result.title)}` : ''}`];
	if (call) lines.push(`  ${code(call)} → ${plain(answer)}`);
	if (result.error) lines.push(`  ${plain(result.error.message)}`);
	const failed = result.checks.filter(fails);
	for (const check of failed.slice(0, MOST_CHECKS)) lines.push(`  - ${code(sentenceOfResult(check))}`);
	if (failed.length > MOST_CHECKS) lines.push(`  - and ${failed.length - MOST_CHECKS} more`);
	return lines.join('\n');
}

/** For a build's summary page or a comment on a review: the verdict, and what needs a look, in short. */
export const markdown: ReportKind = {
	key: 'markdown',
	ending: 'md',
	label: 'Markdown',
	doc: 'Short, for a build’s summary page or a review: the verdict, and what did not pass.',
	open() {
		const faults: string[] = [];
		const known: string[] = [];
		const unsteady: string[] = [];
		let more = 0;
		return {
			event(event) {
				if (event.type !== 'step') return '';
				const { result } = event;
				const standing = standingOf(result);
				if (standing === 'unsteady')
					unsteady.push(`- ${plain(placeOfResult(result))}, on attempt ${result.round ?? 1}`);
				if (standing === 'quarantined')
					known.push(`- ${plain(placeOfResult(result))}: ${plain(quarantineWords(result))}`);
				if (!isBad(standing)) return '';
				if (faults.length < MOST_SHOWN) faults.push(describeFault(result));
				else more++;
				return '';
			},
			end(state, exitCode, gate) {
				const { run, summary } = state;
				const facts = [run?.environment, run?.branch, run?.build && `build ${run.build}`].filter(Boolean).map(String);
				const lines = [
					`### ${exitCode === 0 ? 'Passed' : 'Did not pass'}: ${plain(run?.title ?? '')}`,
					'',
					`${summaryWords(summary)}; ${counted(summary.checks, 'check')} in ${counted(state.scenarios.size, 'scenario')}, ${showDuration(state.ms)}${facts.length > 0 ? ` · ${facts.map(plain).join(' · ')}` : ''}`
				];
				if (run?.link) lines.push('', `[the build](<${run.link.replace(/[<>\s\\]/g, encodeURIComponent)}>)`);
				if (state.stopped) lines.push('', plain(state.stopped));
				for (const { text, places } of gateLines(gate))
					lines.push(
						'',
						`**${plain(text)}**`,
						...(places.length > 0 ? ['', ...places.map((one) => `- ${plain(one)}`)] : [])
					);
				if (faults.length > 0) lines.push('', '#### What needs a look', '', ...faults);
				if (more > 0) lines.push(`- and ${more} more`);
				const list = (title: string, all: string[]) => {
					if (all.length === 0) return;
					lines.push('', `#### ${title}`, '', ...all.slice(0, MOST_SHOWN));
					if (all.length > MOST_SHOWN) lines.push(`- and ${all.length - MOST_SHOWN} more`);
				};
				list('Passed on a later attempt only', unsteady);
				list('Known, and stops nothing', known);
				return `${lines.join('\n')}\n`;
			}
		};
	}
};
