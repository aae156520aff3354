import { usernameDigest } from '../auth/index.ts';
import type { Json, JsonObject } from '../model/json.ts';
import { pemOf } from '../model/transport.ts';
import { parseDuration } from '../model/units.ts';
import { attributeOf, elementsOf, openEnvelope, parseXml, standAlone, textIn, type XmlElement } from '../soap/index.ts';
import { DS, WSSE, WSU } from '../model/ws-security.ts';
import { base64ToBytes } from '../values/index.ts';
import type { Believed, Reading } from './asked.ts';
import type { Work } from './work.ts';

/** How far the clocks of two hosts may be apart. */
const SKEW_MS = 60_000;
/** How long a message without a time of its own is good for (UsernameToken Profile 1.1 section 4). */
const USUAL_MS = 300_000;
const NONCES_KEPT = 10_000;

/** Why a message is refused (SOAP Message Security 1.1 section 12). */
export interface SecurityFault {
	namespace: typeof WSSE | typeof WSU;
	/** Without prefix: `FailedAuthentication`. */
	code: string;
	reason: string;
}

class Refused extends Error {
	readonly fault: SecurityFault;
	constructor(code: string, reason: string, namespace: SecurityFault['namespace'] = WSSE) {
		super(reason);
		this.fault = { namespace, code, reason };
	}
}

const child = (at: XmlElement, local: string, namespace: string): XmlElement | undefined =>
	elementsOf(at).find((one) => one.local === local && one.namespace === namespace);
/** SOAP Message Security 1.1 section 4: an attribute of the message's own may serve as well. */
const idOf = (at: XmlElement): string => attributeOf(at, 'Id', WSU) ?? attributeOf(at, 'Id') ?? '';

/**
 * Holds the Security header of a message against what the stand-in wants.
 * @throws HeronError value.*, file.missing where what it wants cannot be made out
 */
export async function checkSecurity(work: Work, reading: Reading): Promise<Believed | SecurityFault> {
	const { spec, evaluator, ports } = work;
	const wanted = (await evaluator.deep(spec.wsSecurity as Json, work.scope(reading, {}))) as JsonObject;
	const text = reading.view.message;
	try {
		const { root, header } = openEnvelope(text);
		const security = header.filter((one) => one.local === 'Security' && one.namespace === WSSE);
		if (security.length === 0) throw new Refused('InvalidSecurity', 'the message has no Security header');
		if (security.length > 1) throw new Refused('InvalidSecurity', 'the message has several Security headers');
		const [own] = security as [XmlElement];
		const now = ports.now();
		const believed: Believed = {};
		Object.assign(believed, timestampOf(own, wanted, now));
		if (wanted.user !== undefined) believed.user = userOf(own, wanted, now, work);
		if (wanted.certificate !== undefined) believed.certificate = await signedBy(own, root, text, wanted, work);
		return believed;
	} catch (error) {
		if (error instanceof Refused) return error.fault;
		throw error;
	}
}

const timeOf = (at: XmlElement | undefined, what: string): number => {
	const text = at ? textIn(at).trim() : '';
	const time = Date.parse(text);
	// XML Schema part 2 section 3.2.7: without a zone it is nobody's
	if (!/^\d{4}-\d\d-\d\dT[\d:.]+(Z|[+-]\d\d:\d\d)$/.test(text) || Number.isNaN(time))
		throw new Refused('InvalidSecurity', `${what} is no time with its zone: ${text || 'nothing'}`);
	return time;
};

function timestampOf(security: XmlElement, wanted: JsonObject, now: number): Pick<Believed, 'created' | 'expires'> {
	const stamp = child(security, 'Timestamp', WSU);
	if (!stamp) {
		if (wanted.timestamp !== undefined) throw new Refused('InvalidSecurity', 'a Timestamp is wanted');
		return {};
	}
	const created = child(stamp, 'Created', WSU);
	const expires = child(stamp, 'Expires', WSU);
	const begins = timeOf(created, 'Created of the Timestamp');
	if (begins > now + SKEW_MS) throw new Refused('InvalidSecurity', 'the Timestamp was created in the future');
	const ends = expires ? timeOf(expires, 'Expires of the Timestamp') : undefined;
	if (ends !== undefined && ends <= begins)
		throw new Refused('InvalidSecurity', 'the Timestamp expires before it was created');
	const life = wanted.timestamp === undefined ? undefined : parseDuration(wanted.timestamp);
	if ((ends !== undefined && ends <= now) || (life !== undefined && begins + life + SKEW_MS <= now))
		throw new Refused('MessageExpired', 'the Timestamp has expired', WSU);
	return {
		created: new Date(begins).toISOString(),
		...(ends === undefined ? {} : { expires: new Date(ends).toISOString() })
	};
}

/** UsernameToken Profile 1.1 section 3.1. */
function userOf(security: XmlElement, wanted: JsonObject, now: number, { memory }: Work): string {
	const token = child(security, 'UsernameToken', WSSE);
	if (!token) throw new Refused('InvalidSecurity', 'a UsernameToken is wanted');
	const name = textIn(child(token, 'Username', WSSE) ?? token).trim();
	const refused = new Refused('FailedAuthentication', 'user or password are not those that are known');
	if (name !== String(wanted.user as string)) throw refused;
	if (wanted.password === undefined) return name;
	const secret = String(wanted.password as string);
	const password = child(token, 'Password', WSSE);
	if (!password) throw new Refused('InvalidSecurityToken', 'the UsernameToken has no Password');
	const digest = (attributeOf(password, 'Type') ?? '').endsWith('#PasswordDigest');
	const type = wanted.passwordType;
	if (type !== undefined && type !== (digest ? 'digest' : 'text'))
		throw new Refused('UnsupportedSecurityToken', `the password is wanted as ${String(type as string)}`);
	const given = textIn(password);
	if (!digest) {
		if (given !== secret) throw refused;
		return name;
	}
	const nonce = textIn(child(token, 'Nonce', WSSE) ?? { ...token, children: [] }).trim();
	const created = child(token, 'Created', WSU);
	if (!nonce || !created)
		throw new Refused('InvalidSecurityToken', 'a digest is wanted with its Nonce and its time (Created)');
	const at = timeOf(created, 'Created of the UsernameToken');
	const life = (wanted.timestamp === undefined ? undefined : parseDuration(wanted.timestamp)) ?? USUAL_MS;
	if (Math.abs(now - at) > life + SKEW_MS)
		throw new Refused('FailedAuthentication', 'the time of the UsernameToken is too far from now');
	let bytes: Uint8Array;
	try {
		bytes = base64ToBytes(nonce);
	} catch {
		throw new Refused('InvalidSecurityToken', 'the Nonce is not Base64');
	}
	if (given.trim() !== usernameDigest(bytes, textIn(created), secret)) throw refused;
	// a message that was caught on its way must not work again
	if (memory.nonces.has(nonce)) throw new Refused('FailedAuthentication', 'the Nonce was used before');
	memory.nonces.add(nonce);
	if (memory.nonces.size > NONCES_KEPT) memory.nonces.delete(memory.nonces.values().next().value!);
	return name;
}

/** SOAP Message Security 1.1 section 8, X.509 Certificate Token Profile 1.1 section 3. */
async function signedBy(
	security: XmlElement,
	root: XmlElement,
	text: string,
	wanted: JsonObject,
	{ ports, spec }: Work
): Promise<JsonObject> {
	const signature = child(security, 'Signature', DS);
	if (!signature) throw new Refused('InvalidSecurity', 'a Signature is wanted');
	const trusted =
		wanted.certificate === true ? '' : pemOf(String(wanted.certificate as string), (path) => ports.readFile?.(path));
	const found = await ports.verifySignature({
		envelope: text,
		signature: standAlone(signature, text),
		certificate: certificateIn(signature, security),
		trusted
	});
	if ('code' in found) throw new Refused(found.code, found.reason);
	// what was signed is told by its own canonical text, and not by where it is said to stand
	const covered = new Map(
		found.signed.map((one) => {
			const element = parseXml(one);
			return [idOf(element), element] as const;
		})
	);
	for (const [name, element] of [
		['body', child(root, 'Body', root.namespace)],
		['timestamp', child(security, 'Timestamp', WSU)],
		['token', child(security, 'UsernameToken', WSSE)]
	] as const) {
		if (!spec.signed.includes(name)) continue;
		const seen = element && idOf(element) ? covered.get(idOf(element)) : undefined;
		if (!element || seen?.local !== element.local || seen.namespace !== element.namespace)
			throw new Refused('FailedCheck', `the signature does not cover the ${name}`);
	}
	return found.certificate;
}

/** The certificate that a signature names, as Base64; empty where it stands elsewhere. */
function certificateIn(signature: XmlElement, security: XmlElement): string {
	const info = child(signature, 'KeyInfo', DS);
	const reference = info && child(info, 'SecurityTokenReference', WSSE);
	const to = reference && child(reference, 'Reference', WSSE);
	const uri = to && attributeOf(to, 'URI');
	const token = uri
		? elementsOf(security).find((one) => one.local === 'BinarySecurityToken' && `#${idOf(one)}` === uri)
		: undefined;
	if (uri && !token) throw new Refused('SecurityTokenUnavailable', `the message has no token ${uri}`);
	const data = (info && child(info, 'X509Data', DS)) ?? (reference && child(reference, 'X509Data', DS));
	const inPlace = data && child(data, 'X509Certificate', DS);
	const element = token ?? inPlace;
	return element ? textIn(element).replace(/\s+/g, '') : '';
}

/** Whether a Security header was refused. */
export const isFault = (given: Believed | SecurityFault): given is SecurityFault => 'code' in given;
