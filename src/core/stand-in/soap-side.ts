import { messageOf } from '../messages.ts';
import { writeFault, type AnsweredFault, type FoundOperation } from '../soap/index.ts';
import { joined, utf8, type Segment } from '../values/index.ts';
import { addressed } from './addressing.ts';
import type { Reading } from './asked.ts';
import type { Given } from './faults/index.ts';
import { begun, blank, EMPTY, type Answered, type Made, type Work } from './work.ts';
import { checkSecurity, isFault } from './ws-security.ts';

/** How long after a message was taken its answer goes to the address that it gives. */
const ANSWERS_AFTER_MS = 500;

/** What it says by itself to whoever speaks SOAP. */
export function faultGiven(found: FoundOperation, reason: string, more: Partial<AnsweredFault> = {}): Given {
	const { text } = writeFault(found, { code: 'Server', reason, ...more });
	const { version } = found.operation;
	const type = version === '1.1' ? 'text/xml' : 'application/soap+xml';
	// SOAP 1.1 section 6.2; SOAP 1.2 part 2 section 7.5.2.2
	const status = version === '1.2' && more.code === 'Sender' ? 400 : 500;
	return { ...blank(), status, headers: [['Content-Type', `${type}; charset=utf-8`]], body: utf8(text) };
}

/** Refuses a message whose Security header is not as the stand-in wants it; what the header says is known from then on. */
export async function secured(work: Work, found: FoundOperation, reading: Reading): Promise<Answered | undefined> {
	if (!work.spec.wsSecurity) return undefined;
	const checked = await checkSecurity(work, reading);
	if (!isFault(checked)) {
		reading.security = checked;
		return undefined;
	}
	const { namespace, code, reason } = checked;
	const given = faultGiven(found, reason, { code: 'Sender', subcode: { namespace, local: code } });
	return { ...begun(''), given, notes: [`WS-Security: ${code}: ${reason}`], refused: true };
}

/** Lets an answer go where the message that was asked wants it. */
export function sentTo(answered: Answered, found: FoundOperation, reading: Reading, work: Work): void {
	const { given, trial } = answered;
	const { made, elsewhere } = addressed(given, found, reading, work);
	if (trial) trial.body = within(trial.body, new TextDecoder().decode(made.body));
	given.body = made.body;
	if (!elsewhere) return;
	const { to, outgoing } = elsewhere;
	answered.instead = { ...given };
	Object.assign(given, { status: 202, headers: [], body: EMPTY } satisfies Made);
	if (trial) trial.body = [];
	if (outgoing && (!/^https?:/i.test(to) || !URL.canParse(to)))
		answered.calls.push({ after: 0, error: messageOf('value.address', { address: to }) });
	else if (outgoing) answered.calls.push({ after: ANSWERS_AFTER_MS, outgoing });
	answered.notes.push(outgoing ? `its answer goes to ${to} (WS-Addressing)` : 'no answer is wanted (WS-Addressing)');
}

/** Segments of a text into which something was put in one place. */
function within(segments: Segment[], text: string): Segment[] {
	const before = joined(segments);
	let at = 0;
	while (at < before.length && before[at] === text[at]) at++;
	const put = text.slice(at, text.length - (before.length - at));
	if (!put) return segments;
	const out: Segment[] = [];
	let from = 0;
	for (const one of segments) {
		const cut = at - from;
		from += one.text.length;
		if (cut < 0 || cut >= one.text.length) out.push(one);
		else out.push({ ...one, text: one.text.slice(0, cut) }, { text: put }, { ...one, text: one.text.slice(cut) });
	}
	return out.filter(({ text: own }) => own !== '');
}
