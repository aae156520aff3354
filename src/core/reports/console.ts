import { tame } from '../tame.ts';
import { showDuration, showSize } from '../model/units.ts';
import { counted } from '../messages.ts';
import { isBad, standingOf, summaryLine, type Outcome, type ScenarioState, type StepResult } from '../run/index.ts';
import { fails, relationOf, show } from '../checks/index.ts';
import type { JsonObject } from '../model/json.ts';
import { shortened } from '../model/shortened.ts';
import type { ReportKind } from './kind.ts';
import { callWords, gateLines, placeOfResult, quarantineWords, sentenceOfResult } from './sentence.ts';

const WORDS: Record<Outcome, string> = { passed: 'passed', failed: 'FAILED', error: 'ERROR', skipped: 'skipped' };
const CODES: Record<Outcome, number> = { passed: 32, failed: 31, error: 35, skipped: 90 };

/** More than these are counted: what is read on a terminal is read from its end. */
const FAULTS_SHOWN = 200;

/** The first values of a row, on one line. */
function shortRow(values: JsonObject): string {
	const text = Object.entries(values)
		.map(([name, value]) => `${name} ${show(value, 40)}`)
		.join(', ');
	return shortened(text, 160);
}

/** What came back, on one line. */
function replyLine(result: StepResult): string {
	const last = result.exchanges.at(-1);
	if (!last) return result.call;
	const { call, answer } = callWords(result);
	if (!last.reply) return `${call} → ${answer}`;
	const { phases, body, cut } = last.reply;
	return `${call} → ${answer}, ${showDuration(phases.total)}, ${showSize(body.length)}${cut ? `, ${cut}` : ''}`;
}

/** `bookings/book: 9 rows of berths.csv passed, 1 failed`. */
function rowLine({ scenario, data, rowOutcomes }: ScenarioState): string {
	const { passed, failed, error, skipped } = rowOutcomes!;
	const parts = [
		`${counted(passed, 'row')} of ${data ?? ''} passed`,
		failed && `${failed} failed`,
		error && `${error} could not be carried out`,
		skipped && `${skipped} skipped`
	].filter(Boolean);
	return `${scenario}: ${parts.join(', ')}`;
}

/** Of a call that came in the step itself says what its exchange is. */
const notesOf = (result: StepResult): string[] =>
	result.exchanges.flatMap(({ notes = [], reply, came }) =>
		came ? [] : [...notes, ...(reply?.note ? [reply.note] : [])]
	);

/** For people: what needs a look first and whole, then the summary. */
export const console: ReportKind = {
	key: 'console',
	ending: 'txt',
	label: 'console',
	doc: 'Text for a terminal or a build’s log.',
	open({ color, detail }) {
		const paint = (code: number, text: string) => (color ? `\u001b[${code}m${text}\u001b[0m` : text);
		const bold = (text: string) => paint(1, text);
		const faults: string[] = [];
		const advice: string[] = [];
		const left: string[] = [];
		const noted: string[] = [];
		const unsteady: string[] = [];
		const known: string[] = [];
		let more = 0;

		const fault = (result: StepResult): string => {
			const word = paint(CODES[result.outcome], WORDS[result.outcome].padEnd(7));
			const title = result.title ? `  ${result.title}` : '';
			const lines = [`${word} ${bold(tame(placeOfResult(result)))}${tame(title)}`];
			if (result.row) lines.push(tame(`        row ${result.row.number}: ${shortRow(result.row.values)}`));
			const line = replyLine(result);
			if (line) lines.push(tame(`        ${line}`));
			if (result.error) lines.push(tame(`        ${result.error.message}`));
			else if (result.reason) lines.push(tame(`        ${result.reason}`));
			for (const check of result.checks.filter(fails)) {
				const relation =
					check.relation === check.subject ? '' : ` ${relationOf(check.relation)?.label ?? check.relation}`;
				lines.push(tame(`        ${check.subject}${relation}`));
				if (check.error) lines.push(tame(`          could not be judged: ${check.error}`));
				else lines.push(tame(`          expected  ${check.expected}`), tame(`          received  ${check.received}`));
			}
			if (result.attempts > 1) lines.push(`        tried ${result.attempts} times`);
			if (result.round) lines.push(`        attempt ${result.round} of the scenario`);
			if (result.quarantine) lines.push(tame(`        ${quarantineWords(result)}`));
			for (const line of result.log ?? []) lines.push(tame(`        log  ${line}`));
			for (const note of notesOf(result)) lines.push(tame(`        note  ${note}`));
			return lines.join('\n');
		};

		return {
			event(event) {
				if (event.type !== 'step') return '';
				const { result } = event;
				const standing = standingOf(result);
				if (standing === 'unsteady') unsteady.push(`${placeOfResult(result)}  on attempt ${result.round ?? 1}`);
				if (standing === 'quarantined') known.push(`${placeOfResult(result)}  ${quarantineWords(result)}`);
				if (isBad(standing)) {
					if (faults.length < FAULTS_SHOWN) faults.push(fault(result));
					else more++;
				}
				if (result.cleanup && isBad(result.outcome)) left.push(`${placeOfResult(result)}  ${replyLine(result)}`);
				for (const note of notesOf(result)) noted.push(`${placeOfResult(result)}  ${note}`);
				for (const check of result.checks)
					if (check.should && !check.holds) advice.push(`${placeOfResult(result)}  ${sentenceOfResult(check)}`);
				if (detail !== 'verbose') return '';
				const word = paint(
					CODES[standing === 'superseded' || standing === 'quarantined' ? 'skipped' : result.outcome],
					(standing === 'superseded' ? 'again' : WORDS[result.outcome]).padEnd(7)
				);
				const what = result.outcome === 'skipped' ? (result.reason ?? '') : replyLine(result);
				return `${word} ${tame(`${placeOfResult(result)}  ${what}`)}\n${notesOf(result)
					.map((note) => `        note  ${tame(note)}\n`)
					.join('')}`;
			},
			end(state, _, gate) {
				const stopped = state.stopped ? `${tame(state.stopped)}\n` : '';
				const line = bold(summaryLine(state.summary));
				const extra = `${counted(state.summary.checks, 'check')} in ${counted(state.scenarios.size, 'scenario')}, ${showDuration(state.ms)}`;
				const rest = more > 0 ? `and ${more} more that did not pass: a report has them all\n\n` : '';
				const rows = [...state.scenarios.values()].filter((one) => one.rowOutcomes).map(rowLine);
				const rowLines = detail === 'quiet' ? '' : rows.map((text) => `${tame(text)}\n`).join('');
				const list = (title: string, lines: string[]) =>
					lines.length > 0 ? `${title}\n${lines.map((text) => `        ${tame(text)}\n`).join('')}\n` : '';
				const later = list('passed on a later attempt only:', unsteady.slice(0, FAULTS_SHOWN));
				const quarantined = list('known, and stops nothing:', known.slice(0, FAULTS_SHOWN));
				const broken = gateLines(gate);
				// that a step fails stands above already
				const news =
					gate?.holds || gate?.notes.length || gate?.sentences.some(({ key }) => key !== 'failed' && key !== 'errors');
				const verdict =
					gate && broken.length > 0 && news
						? `${gate.holds ? 'the gate holds' : 'the gate does not hold'}\n${broken
								.flatMap(({ text, places }) => [
									`        ${tame(text)}`,
									...places.map((place) => `          ${tame(place)}`)
								])
								.map((line) => `${line}\n`)
								.join('')}\n`
						: '';
				const notes = detail === 'normal' ? list('noted:', [...new Set(noted)].slice(0, FAULTS_SHOWN)) : '';
				const behind = list('left behind, because its clean-up did not pass:', left);
				const should = detail === 'quiet' ? '' : list('should hold, and does not:', advice.slice(0, FAULTS_SHOWN));
				return `${faults.map((text) => `${text}\n\n`).join('')}${rest}${should}${later}${quarantined}${notes}${behind}${verdict}${rowLines}${stopped}${line}\n${detail === 'quiet' ? '' : `${paint(90, extra)}\n`}`;
			}
		};
	}
};
