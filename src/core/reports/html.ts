import { fails, type CheckResult } from '../checks/index.ts';
import { counted } from '../messages.ts';
import { mediaType, type HeaderList } from '../model/reply.ts';
import { showDuration, showSize } from '../model/units.ts';
import type { Verdict } from '../gate/index.ts';
import {
	isBad,
	standingOf,
	type Exchange,
	type Outcome,
	type RunEvent,
	type RunState,
	type ScenarioState,
	type StepResult
} from '../run/index.ts';
import { bytesToBase64, decodeText, digestOf, utf8 } from '../values/index.ts';
import type { ReportKind, ReportSink } from './kind.ts';
import { STYLE, text } from './page.ts';
import { gateLines, placeOfResult, quarantineWords, summaryWords } from './sentence.ts';

/** So many failures are told in full, and so much of a body. */
const MOST_FAULTS = 500;
const MOST_BODY = 20_000;

const WORDS: Record<Outcome, string> = {
	passed: 'passed',
	failed: 'failed',
	error: 'could not be carried out',
	skipped: 'skipped'
};

function standingWords(result: StepResult): string {
	const standing = standingOf(result);
	if (standing === 'superseded') return `${WORDS[result.outcome]}, tried again`;
	if (standing === 'unsteady') return `passed on attempt ${result.round ?? 1}`;
	return standing === 'quarantined' ? `${WORDS[result.outcome]}, ${quarantineWords(result)}` : WORDS[standing];
}

/** A text with what is another one than in the other marked: between what both begin and end with. */
function marked(own: string, other: string): string {
	let from = 0;
	while (from < own.length && own[from] === other[from]) from++;
	let back = 0;
	while (back < own.length - from && back < other.length - from && own.at(-1 - back) === other.at(-1 - back)) back++;
	const to = own.length - back;
	// where nothing is alike, marking all of it says nothing
	return from < to && from + back > 0
		? `${text(own.slice(0, from))}<mark>${text(own.slice(from, to))}</mark>${text(own.slice(to))}`
		: text(own);
}

const checkRow = ({ subject, relation, expected, received, error }: CheckResult): string =>
	`<tr><td class="data">${text(relation === subject ? subject : `${subject} ${relation}`)}</td>${
		error
			? `<td colspan="2">could not be judged: ${text(error)}</td>`
			: `<td class="data">${marked(expected, received)}</td><td class="data">${marked(received, expected)}</td>`
	}</tr>`;

function bodyOf(bytes: Uint8Array, headers: HeaderList): string {
	if (bytes.length === 0) return '';
	const { text: shown, valid } = decodeText(bytes.subarray(0, MOST_BODY), mediaType(headers).charset);
	if (!valid && bytes.length <= MOST_BODY) return `<p class="quiet">${showSize(bytes.length)} that are not text</p>`;
	const more =
		bytes.length > MOST_BODY
			? `<p class="quiet">the first ${showSize(MOST_BODY)} of ${showSize(bytes.length)}</p>`
			: '';
	return `<pre>${text(shown)}</pre>${more}`;
}
const fieldsOf = (headers: HeaderList): string =>
	headers.length === 0
		? ''
		: `<pre class="quiet">${headers.map(([name, value]) => text(`${name}: ${value}`)).join('\n')}</pre>`;

function exchangeOf({ method, url, requestHeaders, requestBody, reply, error, notes }: Exchange): string {
	const answer = reply
		? `${reply.status} ${reply.reason}`.trim() + `, ${showDuration(reply.phases.total)}, ${showSize(reply.body.length)}`
		: 'no answer';
	return `<details><summary><code>${text(`${method} ${url}`)}</code> → ${text(answer)}</summary><div>${
		error ? `<p>${text(error.message)}</p>` : ''
	}${(notes ?? []).map((note) => `<p class="quiet">${text(note)}</p>`).join('')}<h4>Sent</h4>${fieldsOf(requestHeaders)}${bodyOf(
		requestBody,
		requestHeaders
	)}${reply ? `<h4>Came back</h4>${fieldsOf(reply.headers)}${bodyOf(reply.body, reply.headers)}` : ''}</div></details>`;
}

function faultOf(result: StepResult): string {
	const { title, outcome, error, reason, row, attempts, exchanges } = result;
	const failed = result.checks.filter(fails);
	const facts = [
		row &&
			`row ${row.number}: ${Object.entries(row.values)
				.map(([name, value]) => `${name} ${String(value)}`)
				.join(', ')}`,
		attempts > 1 && `tried ${attempts} times`
	].filter(Boolean);
	return `<article><h3>${text(placeOfResult(result))}${title ? ` <span class="quiet">${text(title)}</span>` : ''}</h3><p><span class="bad">${WORDS[outcome]}</span>${
		error ? `: ${text(error.message)}` : reason ? `: ${text(reason)}` : ''
	}</p>${facts.map((fact) => `<p class="quiet">${text(String(fact))}</p>`).join('')}${
		failed.length > 0
			? `<table><thead><tr><th scope="col">check</th><th scope="col">expected</th><th scope="col">received</th></tr></thead><tbody>${failed.map(checkRow).join('')}</tbody></table>`
			: ''
	}${exchanges.map(exchangeOf).join('')}</article>\n`;
}

/** A step among those of its scenario. */
function stepRow(result: StepResult): string {
	const standing = standingOf(result);
	const last = result.exchanges.at(-1);
	const name = `${result.row ? `row ${result.row.number} › ` : ''}${result.step}${result.pass ? ` pass ${result.pass.number}` : ''}`;
	const title = result.title ? ` <span class="quiet">${text(result.title)}</span>` : '';
	const call = last ? `${last.method} ${last.url}` : result.call;
	return `<tr><td class="${isBad(standing) ? 'bad' : standing === 'passed' ? '' : 'quiet'}">${text(standingWords(result))}</td><td>${text(name)}${title}</td><td class="data">${text(call)}</td><td class="data">${last?.reply?.status ?? ''}</td><td>${showDuration(result.ms)}</td></tr>`;
}

/** A scenario, folded, with its steps. */
function scenarioOf({ scenario, title, outcome, ms }: ScenarioState, rows: readonly string[]): string {
	const bad = outcome === 'failed' || outcome === 'error';
	return `<details><summary><span class="${bad ? 'bad' : 'quiet'}">${outcome ? WORDS[outcome] : 'did not run'}</span> ${text(title)} <span class="quiet">${text(scenario)}, ${showDuration(ms)}</span></summary><div><table><tbody>${rows.join('')}</tbody></table></div></details>\n`;
}

/** What is known of a run, as a table, and the link to its build. */
function factsOf({ run, ms }: RunState): string {
	const facts: [string, string][] = [
		['environment', run?.environment ?? ''],
		['began', run ? new Date(run.startedAt).toISOString() : ''],
		['took', showDuration(ms)],
		['build', [run?.build, run?.job].filter(Boolean).join(' of ')],
		['commit', run?.commit ?? ''],
		['branch', run?.branch ?? ''],
		['seed', String(run?.seed ?? '')]
	];
	const rows = facts
		.filter(([, value]) => value !== '')
		.map(([name, value]) => `<tr><th scope="row">${name}</th><td>${text(value)}</td></tr>`);
	const link =
		run?.link && /^https?:\/\//i.test(run.link)
			? `<p><a href="${text(run.link)}" rel="noreferrer">the build</a></p>`
			: '';
	return `<table><tbody>${rows.join('')}</tbody></table>${link}`;
}

function gateOf(gate: Verdict | undefined): string {
	return gateLines(gate)
		.map(({ text: line, places }) => {
			const list = places.map((one) => `<li>${text(one)}</li>`).join('');
			return `<p><strong>${text(line)}</strong></p>${list && `<ul>${list}</ul>`}`;
		})
		.join('');
}

class HtmlSink implements ReportSink {
	readonly #version: string;
	readonly #faults: string[] = [];
	/** Faults beyond those that are shown. */
	#more = 0;
	/** Rows of a table, by scenario. */
	readonly #steps = new Map<string, string[]>();

	constructor(version: string) {
		this.#version = version;
	}

	event(event: RunEvent): string {
		if (event.type !== 'step') return '';
		const { result } = event;
		if (isBad(standingOf(result))) {
			if (this.#faults.length < MOST_FAULTS) this.#faults.push(faultOf(result));
			else this.#more++;
		}
		const list = this.#steps.get(result.scenario) ?? [];
		this.#steps.set(result.scenario, list);
		list.push(stepRow(result));
		return '';
	}

	end(state: RunState, exitCode: number, gate?: Verdict): string {
		const { run, summary } = state;
		const style = bytesToBase64(digestOf('sha256', utf8(STYLE)));
		const scenarios = [...state.scenarios.values()].map((one) => scenarioOf(one, this.#steps.get(one.scenario) ?? []));
		const more = this.#more > 0 ? `<p>and ${this.#more} more</p>` : '';
		return `<!doctype html>
<html lang="en"><head><meta charset="utf-8"><meta name="viewport" content="width=device-width, initial-scale=1">
<meta http-equiv="Content-Security-Policy" content="default-src 'none'; style-src 'sha256-${style}'; base-uri 'none'; form-action 'none'">
<title>${text(run?.title ?? 'Run')}: ${exitCode === 0 ? 'passed' : 'did not pass'}</title>
<style>${STYLE}</style></head><body><main>
<h1>${text(run?.title ?? '')}</h1>
<p><strong class="${exitCode === 0 ? '' : 'bad'}">${exitCode === 0 ? 'Passed' : 'Did not pass'}</strong>: ${summaryWords(summary)}; ${counted(summary.checks, 'check')} in ${counted(state.scenarios.size, 'scenario')}</p>
${gateOf(gate)}${state.stopped ? `<p>${text(state.stopped)}</p>` : ''}${factsOf(state)}
${this.#faults.length > 0 ? `<h2>What needs a look</h2>\n${this.#faults.join('')}${more}` : ''}<h2>Every scenario</h2>
${scenarios.join('')}<p class="quiet">Loyal Heron ${text(this.#version)}</p>
</main></body></html>
`;
	}
}

/** One file that opens without a server and without scripts: failures first, then every step. */
export const html: ReportKind = {
	key: 'html',
	ending: 'html',
	label: 'HTML',
	doc: 'One file for a browser, without scripts: failures first with what was expected and received, exchanges folded.',
	open: ({ version }) => new HtmlSink(version)
};
