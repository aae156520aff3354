import { tame } from '../tame.ts';
import { showDuration, showSize } from '../model/units.ts';
import { counted } from '../messages.ts';
import type { Verdict } from '../gate/index.ts';
import {
	isBad,
	standingOf,
	summaryLine,
	type Outcome,
	type RunEvent,
	type RunState,
	type ScenarioState,
	type StepResult
} from '../run/index.ts';
import { fails, relationOf, show, type CheckResult } from '../checks/index.ts';
import type { JsonObject } from '../model/json.ts';
import { shortened } from '../model/shortened.ts';
import type { ReportKind, ReportOptions, ReportSink } from './kind.ts';
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

/** What a failed check wanted and got, on lines. */
function checkLines(check: CheckResult): string[] {
	const relation = check.relation === check.subject ? '' : ` ${relationOf(check.relation)?.label ?? check.relation}`;
	const received = check.error
		? [`          could not be judged: ${check.error}`]
		: [`          expected  ${check.expected}`, `          received  ${check.received}`];
	return [`        ${check.subject}${relation}`, ...received];
}

/** A heading with its lines, and an empty one after them; nothing without lines. */
const section = (title: string, lines: readonly string[]): string =>
	lines.length > 0 ? `${title}\n${lines.map((text) => `        ${tame(text)}\n`).join('')}\n` : '';

/** What the gate says, where it says more than that steps failed, which stands above already. */
function gateSection(gate: Verdict | undefined): string {
	const broken = gateLines(gate);
	const news =
		gate?.holds || gate?.notes.length || gate?.sentences.some(({ key }) => key !== 'failed' && key !== 'errors');
	if (!gate || broken.length === 0 || !news) return '';
	const lines = broken.flatMap(({ text, places }) => [
		`        ${tame(text)}`,
		...places.map((place) => `          ${tame(place)}`)
	]);
	return `${gate.holds ? 'the gate holds' : 'the gate does not hold'}\n${lines.map((line) => `${line}\n`).join('')}\n`;
}

class ConsoleSink implements ReportSink {
	readonly #options: ReportOptions;
	readonly #faults: string[] = [];
	readonly #advice: string[] = [];
	readonly #left: string[] = [];
	readonly #noted: string[] = [];
	readonly #unsteady: string[] = [];
	readonly #known: string[] = [];
	/** Faults beyond those that are shown. */
	#more = 0;

	constructor(options: ReportOptions) {
		this.#options = options;
	}

	#paint(code: number, text: string): string {
		return this.#options.color ? `\u001b[${code}m${text}\u001b[0m` : text;
	}

	#faultOf(result: StepResult): string {
		const word = this.#paint(CODES[result.outcome], WORDS[result.outcome].padEnd(7));
		const title = result.title ? `  ${result.title}` : '';
		const lines: string[] = [];
		if (result.row) lines.push(`        row ${result.row.number}: ${shortRow(result.row.values)}`);
		const line = replyLine(result);
		if (line) lines.push(`        ${line}`);
		if (result.error) lines.push(`        ${result.error.message}`);
		else if (result.reason) lines.push(`        ${result.reason}`);
		lines.push(...result.checks.filter(fails).flatMap(checkLines));
		if (result.attempts > 1) lines.push(`        tried ${result.attempts} times`);
		if (result.round) lines.push(`        attempt ${result.round} of the scenario`);
		if (result.quarantine) lines.push(`        ${quarantineWords(result)}`);
		for (const line of result.log ?? []) lines.push(`        log  ${line}`);
		for (const note of notesOf(result)) lines.push(`        note  ${note}`);
		return [`${word} ${this.#paint(1, tame(placeOfResult(result)))}${tame(title)}`, ...lines.map(tame)].join('\n');
	}

	/** A step as it is told while the run goes on. */
	#lineOf(result: StepResult): string {
		const standing = standingOf(result);
		const word = this.#paint(
			CODES[standing === 'superseded' || standing === 'quarantined' ? 'skipped' : result.outcome],
			(standing === 'superseded' ? 'again' : WORDS[result.outcome]).padEnd(7)
		);
		const what = result.outcome === 'skipped' ? (result.reason ?? '') : replyLine(result);
		const notes = notesOf(result).map((note) => `        note  ${tame(note)}\n`);
		return `${word} ${tame(`${placeOfResult(result)}  ${what}`)}\n${notes.join('')}`;
	}

	event(event: RunEvent): string {
		if (event.type !== 'step') return '';
		const { result } = event;
		const standing = standingOf(result);
		const place = placeOfResult(result);
		if (standing === 'unsteady') this.#unsteady.push(`${place}  on attempt ${result.round ?? 1}`);
		if (standing === 'quarantined') this.#known.push(`${place}  ${quarantineWords(result)}`);
		if (isBad(standing)) {
			if (this.#faults.length < FAULTS_SHOWN) this.#faults.push(this.#faultOf(result));
			else this.#more++;
		}
		if (result.cleanup && isBad(result.outcome)) this.#left.push(`${place}  ${replyLine(result)}`);
		for (const note of notesOf(result)) this.#noted.push(`${place}  ${note}`);
		for (const check of result.checks)
			if (check.should && !check.holds) this.#advice.push(`${place}  ${sentenceOfResult(check)}`);
		return this.#options.detail === 'verbose' ? this.#lineOf(result) : '';
	}

	end(state: RunState, _: number, gate?: Verdict): string {
		const { detail } = this.#options;
		const quiet = detail === 'quiet';
		const extra = `${counted(state.summary.checks, 'check')} in ${counted(state.scenarios.size, 'scenario')}, ${showDuration(state.ms)}`;
		const rows = [...state.scenarios.values()].filter((one) => one.rowOutcomes).map(rowLine);
		return [
			...this.#faults.map((text) => `${text}\n\n`),
			this.#more > 0 ? `and ${this.#more} more that did not pass: a report has them all\n\n` : '',
			quiet ? '' : section('should hold, and does not:', this.#advice.slice(0, FAULTS_SHOWN)),
			section('passed on a later attempt only:', this.#unsteady.slice(0, FAULTS_SHOWN)),
			section('known, and stops nothing:', this.#known.slice(0, FAULTS_SHOWN)),
			detail === 'normal' ? section('noted:', [...new Set(this.#noted)].slice(0, FAULTS_SHOWN)) : '',
			section('left behind, because its clean-up did not pass:', this.#left),
			gateSection(gate),
			...(quiet ? [] : rows.map((text) => `${tame(text)}\n`)),
			state.stopped ? `${tame(state.stopped)}\n` : '',
			`${this.#paint(1, summaryLine(state.summary))}\n`,
			quiet ? '' : `${this.#paint(90, extra)}\n`
		].join('');
	}
}

/** For people: what needs a look first and whole, then the summary. */
export const console: ReportKind = {
	key: 'console',
	ending: 'txt',
	label: 'console',
	doc: 'Text for a terminal or a build’s log.',
	open: (options) => new ConsoleSink(options)
};
