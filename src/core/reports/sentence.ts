import { relationOf, type CheckResult } from '../checks/index.ts';
import { placeText, type Verdict } from '../gate/index.ts';
import type { Exchange } from '../model/exchange.ts';
import { redirectOf } from '../model/reply.ts';
import type { StepResult, Summary } from '../run/index.ts';

/** A check that did not hold, on one line: `body $.nights equals: expected 3, received 2`. */
export function sentenceOfResult(check: CheckResult): string {
	const relation = check.relation === check.subject ? '' : ` ${relationOf(check.relation)?.label ?? check.relation}`;
	const why = check.error
		? `could not be judged: ${check.error}`
		: `expected ${check.expected}, received ${check.received}`;
	return `${check.subject}${relation}: ${why}`;
}

/** Where a result is of: `bookings/book-a-mooring row 3 › book pass 2`. */
export const placeOfResult = ({
	scenario,
	step,
	row,
	pass
}: Pick<StepResult, 'scenario' | 'step' | 'row' | 'pass'>): string =>
	`${scenario}${row ? ` row ${row.number}` : ''} › ${step}${pass ? ` pass ${pass.number}` : ''}`;

/** Whether an exchange was answered with a redirect to an address. */
function leadsTo({ url, reply }: Exchange, address: string): boolean {
	const target = reply && redirectOf(reply, url);
	// the fragment stays with whoever asks
	return target?.href.split('#')[0] === address;
}

/** The call that was answered last, where it was redirected from, and its status; empty where nothing was sent. */
export function callWords({ exchanges }: Pick<StepResult, 'exchanges'>): { call: string; answer: string } {
	const last = exchanges.at(-1);
	if (!last) return { call: '', answer: '' };
	const hops: Exchange[] = [];
	for (let next = last, at = exchanges.length - 2; at >= 0; at--) {
		const one = exchanges[at]!;
		if (one.leg !== last.leg || !leadsTo(one, next.url)) break;
		hops.unshift(one);
		next = one;
	}
	const first = hops[0];
	const by = hops.map(({ reply }) => reply!.status).join(', ');
	const from = first ? ` (redirected from ${first.method} ${first.url} by ${by})` : '';
	const answer = last.reply ? `${last.reply.status} ${last.reply.reason}`.trim() : 'no answer';
	return { call: `${last.method} ${last.url}${from}`, answer };
}

/** `12 passed, 1 failed, 0 could not be carried out, 0 skipped`; what is unsteady or quarantined where there is some. */
export const summaryWords = ({ passed, failed, errors, skipped, unsteady, quarantined }: Summary): string =>
	[
		`${passed} passed`,
		...(unsteady ? [`${unsteady} passed on a later attempt`] : []),
		`${failed} failed`,
		`${errors} could not be carried out`,
		...(quarantined ? [`${quarantined} in quarantine`] : []),
		`${skipped} skipped`
	].join(', ');

/** What the quarantine says of a result: `in quarantine until 2027-03-31: why (who, link)`. */
export function quarantineWords({ quarantine }: Pick<StepResult, 'quarantine'>): string {
	if (!quarantine) return '';
	const { why, who, link, until, over } = quarantine;
	const more = [who, link].filter(Boolean).join(', ');
	return `in quarantine until ${until}${over ? ', which has passed' : ''}: ${why}${more ? ` (${more})` : ''}`;
}

/** Places are read one by one: these are enough for a log. */
const MOST_PLACES = 10;

/** Conditions of a gate that do not hold, a line each with the places below it, then notes; empty where there is nothing to tell. */
export function gateLines(gate: Verdict | undefined): { text: string; places: string[] }[] {
	if (!gate) return [];
	const broken = gate.sentences.filter(({ holds }) => !holds);
	return [
		...broken.map(({ text, because, places }) => ({
			text: `${text}: ${because}`,
			places: [
				...places.slice(0, MOST_PLACES).map(placeText),
				...(places.length > MOST_PLACES ? [`and ${places.length - MOST_PLACES} more`] : [])
			]
		})),
		...gate.notes.map((text) => ({ text, places: [] }))
	];
}
