import type { Reply } from '../model/reply.ts';
import { mediaType } from '../model/reply.ts';
import { shortened } from '../model/shortened.ts';
import { decodeText } from '../values/index.ts';
import { found, passed, type Stage } from './stage.ts';
import type { ReachTarget } from './target.ts';

const SOAP11 = 'http://schemas.xmlsoap.org/soap/envelope/';
const SOAP12 = 'http://www.w3.org/2003/05/soap-envelope';

/** An envelope without an operation: enough to see whether its Security header is taken. */
export const emptyEnvelope = (version: '1.1' | '1.2'): { type: string; text: string } => ({
	type: version === '1.1' ? 'text/xml; charset=utf-8' : 'application/soap+xml; charset=utf-8',
	text: `<?xml version="1.0" encoding="UTF-8"?>\n<soap:Envelope xmlns:soap="${version === '1.1' ? SOAP11 : SOAP12}"><soap:Header/><soap:Body/></soap:Envelope>`
});

/** Whether a server wants the other version of SOAP: a VersionMismatch (SOAP 1.1 section 4.4), or a type it does not take. */
export const wantsOther = (reply: Reply): boolean =>
	reply.status === 415 || /VersionMismatch\s*</.test(decodeText(reply.body.subarray(0, 20_000)).text);

// SOAP Message Security 1.1 section 12
const REFUSALS =
	/[:>](UnsupportedSecurityToken|UnsupportedAlgorithm|InvalidSecurity|InvalidSecurityToken|FailedAuthentication|FailedCheck|SecurityTokenUnavailable|MessageExpired)\s*</;

interface Fault {
	code: string;
	reason: string;
}

/** The fault in an answer; undefined when it is none. */
function faultIn(reply: Reply): Fault | undefined {
	const { type, charset } = mediaType(reply.headers);
	if (type === 'text/html') return undefined;
	const text = decodeText(reply.body.subarray(0, 200_000), charset).text;
	if (!text.includes(SOAP11) && !text.includes(SOAP12)) return undefined;
	const [fault] = /<(?:[\w.-]+:)?Fault[\s>][\s\S]*/.exec(text) ?? [];
	if (!fault) return undefined;
	const inside = (pattern: RegExp) =>
		(pattern.exec(fault)?.[1] ?? '')
			.replace(/<[^>]*>/g, ' ')
			.replace(/\s+/g, ' ')
			.trim();
	const refusal = REFUSALS.exec(fault)?.[1];
	const code = refusal ?? inside(/<(?:faultcode|(?:[\w.-]+:)?Value)[^>]*>([\s\S]*?)<\//);
	const reason = inside(/<(?:faultstring|(?:[\w.-]+:)?Text)[^>]*>([\s\S]*?)<\//);
	return { code: code.replace(/^.*:/, ''), reason: shortened(reason, 160) };
}

/**
 * What an answer to an envelope without an operation says of its Security header: the last two stages. Undefined when no
 * SOAP came back.
 */
export function judgeSecurity(target: ReachTarget, reply: Reply, ms: number): Stage[] | undefined {
	const fault = faultIn(reply);
	if (!fault) return undefined;
	const { name } = target.credential;
	const said = `${fault.code}${fault.reason ? `, “${fault.reason}”` : ''}`;
	if (REFUSALS.test(`:${fault.code}<`)) return [found('auth.refused', { name, detail: `: ${said}` }, { ms })];
	if (fault.code === 'MustUnderstand')
		return [found('auth.refused', { name, detail: `: it does not know the Security header (${said})` }, { ms })];
	return [
		passed('authentication', ms, `the Security header of ${name} is taken`),
		passed('answer', ms, `a fault, as an envelope without an operation gets: ${said}`)
	];
}
