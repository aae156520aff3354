import { fails } from '../checks/index.ts';
import { callWords, quarantineWords, sentenceOfResult } from './sentence.ts';
import { standingOf, stepsIn, type RunEvent, type RunState, type StepResult } from '../run/index.ts';
import { escapeXml } from '../values/index.ts';
import type { ReportKind, ReportSink } from './kind.ts';

// XML 1.0 section 2.2: what is not a character cannot stand in a document, not even escaped
const NOT_XML = /[^\t\n\r\x20-\uD7FF\uE000-\uFFFD\u{10000}-\u{10FFFF}]/gu;
const text = (value: string): string => escapeXml(value.toWellFormed().replace(NOT_XML, '\uFFFD'));
/** A moment without a zone, in UTC. */
const stampOf = (at: number): string => new Date(at).toISOString().slice(0, 19);
const seconds = (ms: number): string => (ms / 1000).toFixed(3);

function testcase(result: StepResult): string {
	const pass = result.pass ? ` (pass ${result.pass.number})` : '';
	const name = `${result.title ? `${result.step}: ${result.title}` : result.step}${pass}`;
	const open = `    <testcase classname="${text(result.scenario)}" name="${text(name)}" time="${seconds(result.ms)}"`;
	const { call: made, answer } = callWords(result);
	const call = made && `${made} → ${answer}`;
	if (result.outcome === 'skipped')
		return `${open}>\n      <skipped message="${text(result.reason ?? '')}"/>\n    </testcase>\n`;
	if (standingOf(result) === 'quarantined') {
		const found = [result.error?.message ?? '', ...result.checks.filter(fails).map(sentenceOfResult)].filter(Boolean);
		return `${open}>\n      <skipped message="${text(quarantineWords(result))}"/>\n      <system-out>${text([call, ...found].join('\n'))}</system-out>\n    </testcase>\n`;
	}
	if (result.outcome === 'error') {
		const { code, message } = result.error!;
		return `${open}>\n      <error message="${text(message)}" type="${text(code)}">${text(call)}</error>\n    </testcase>\n`;
	}
	if (result.unsteady)
		return `${open}>\n      <system-out>unsteady: it passed on attempt ${result.round ?? 1} of the scenario</system-out>\n    </testcase>\n`;
	if (result.outcome === 'passed') return `${open}/>\n`;
	const failed = result.checks.filter(fails);
	const lines = failed.map(sentenceOfResult);
	if (lines.length === 0) lines.push(result.reason ?? 'it failed');
	const message = lines.length === 1 ? lines[0]! : `${failed.length} checks do not hold: ${lines.join('; ')}`;
	return `${open}>\n      <failure message="${text(message)}" type="check">${text([call, ...lines].join('\n'))}</failure>\n    </testcase>\n`;
}

/** What a run that was stopped has not shown, where no step says it: who reads nothing but this report takes it for held. */
const stoppedSuite = (why: string, stamp: string): string =>
	`  <testsuite name="the run" tests="1" failures="0" errors="1" skipped="0" time="0.000" timestamp="${stamp}">\n` +
	`    <testcase classname="the run" name="comes to its end" time="0.000">\n` +
	`      <error message="${text(why)}" type="stopped"/>\n    </testcase>\n  </testsuite>\n`;

interface Suite {
	title: string;
	/** Milliseconds since 1970. */
	startedAt: number;
	ms: number;
	cases: string;
	tests: number;
	failures: number;
	errors: number;
	skipped: number;
}

const suiteOf = (title: string, startedAt: number): Suite => ({
	...{ title, startedAt, ms: 0, cases: '' },
	...{ tests: 0, failures: 0, errors: 0, skipped: 0 }
});

const testsuite = (key: string, suite: Suite): string =>
	`  <testsuite name="${text(`${key}: ${suite.title}`)}" tests="${suite.tests}" failures="${suite.failures}" errors="${suite.errors}" skipped="${suite.skipped}" time="${seconds(suite.ms)}" timestamp="${stampOf(suite.startedAt)}">\n${suite.cases}  </testsuite>\n`;

class JUnitSink implements ReportSink {
	/** By their scenario, and the row where it runs over rows. */
	readonly #suites = new Map<string, Suite>();

	#keyOf(scenario: string, row?: number): string {
		return row === undefined ? scenario : `${scenario} row ${row}`;
	}

	event(event: RunEvent): string {
		if (event.type === 'run') {
			for (const { scenario, title } of event.scenarios)
				this.#suites.set(scenario, suiteOf(title, event.run.startedAt));
		} else if (event.type === 'scenario') {
			const suite = this.#suites.get(event.scenario)!;
			if (event.row)
				this.#suites.set(this.#keyOf(event.scenario, event.row.number), suiteOf(suite.title, event.startedAt));
			else suite.startedAt = event.startedAt;
		} else if (event.type === 'scenario-end') {
			this.#suites.get(this.#keyOf(event.scenario, event.row))!.ms += event.ms;
		} else if (event.type === 'step' && !event.result.superseded) {
			const standing = standingOf(event.result);
			const suite = this.#suites.get(this.#keyOf(event.result.scenario, event.result.row?.number))!;
			suite.cases += testcase(event.result);
			suite.tests++;
			if (standing === 'failed') suite.failures++;
			if (standing === 'error') suite.errors++;
			if (standing === 'skipped' || standing === 'quarantined') suite.skipped++;
		}
		return '';
	}

	end(state: RunState): string {
		const { failed, errors } = state.summary;
		const unsaid = state.stopped !== '' && failed + errors === 0;
		const more = unsaid ? 1 : 0;
		const suites = [...this.#suites]
			// a scenario that runs over rows has a suite for each of them, and none of its own
			.filter(([key, { tests }]) => tests > 0 || !state.scenarios.get(key)?.data)
			.map(([key, suite]) => testsuite(key, suite));
		return [
			'<?xml version="1.0" encoding="UTF-8"?>\n',
			`<testsuites name="${text(state.run?.title ?? '')}" tests="${stepsIn(state.summary) + more}" failures="${failed}" errors="${errors + more}" time="${seconds(state.ms)}">\n`,
			...suites,
			unsaid ? stoppedSuite(state.stopped, stampOf(state.run?.startedAt ?? 0)) : '',
			'</testsuites>\n'
		].join('');
	}
}

/** JUnit XML as build servers read it: a testsuite for each scenario, a testcase for each step. */
export const junit: ReportKind = {
	key: 'junit',
	ending: 'xml',
	label: 'JUnit XML',
	doc: 'One testsuite for each scenario, one testcase for each step.',
	open: () => new JUnitSink()
};
