import { inHeader } from '../bodies/index.ts';
import { HeronError, textOf } from '../errors.ts';
import { withBody, type PreparedRequest } from '../model/exchange.ts';
import { parseDuration } from '../model/units.ts';
import { attributeOf, childOf, childrenOf, elementsOf, parseXml, type XmlElement } from '../soap/index.ts';
import { DS, SIGNABLE, WSS_BASE, WSSE, WSU } from '../model/ws-security.ts';
import {
	base64ToBytes,
	bytesToBase64,
	bytesToHex,
	digestOf,
	escapeXml,
	latin1,
	latin1Bytes,
	utf8
} from '../values/index.ts';
import { pemOf } from '../model/transport.ts';
import type { JsonObject } from '../model/json.ts';
import { listIn, textIn, type Authorizer, type AuthTools, type CredentialKind } from './kind.ts';

// Web Services Security: SOAP Message Security 1.1, UsernameToken Profile 1.1, X.509 Certificate Token Profile 1.1
const TOKEN = `${WSS_BASE}-username-token-profile-1.0`;
const X509 = `${WSS_BASE}-x509-token-profile-1.0#X509v3`;
const BASE64 = `${WSS_BASE}-soap-message-security-1.0#Base64Binary`;
const SOAP11 = 'http://schemas.xmlsoap.org/soap/envelope/';
const SOAP12 = 'http://www.w3.org/2003/05/soap-envelope';
const EXCLUSIVE = 'http://www.w3.org/2001/10/xml-exc-c14n#';

const ALGORITHMS = {
	'rsa-sha256': {
		hash: 'sha256',
		signature: 'http://www.w3.org/2001/04/xmldsig-more#rsa-sha256',
		digest: 'http://www.w3.org/2001/04/xmlenc#sha256'
	},
	'rsa-sha1': { hash: 'sha1', signature: `${DS}rsa-sha1`, digest: `${DS}sha1` },
	'ecdsa-sha256': {
		hash: 'sha256',
		signature: 'http://www.w3.org/2001/04/xmldsig-more#ecdsa-sha256',
		digest: 'http://www.w3.org/2001/04/xmlenc#sha256'
	}
} as const;
type Algorithm = keyof typeof ALGORITHMS;
/** Message addressing properties: WS-Addressing 1.0, and its member submission of August 2004. */
const ADDRESSING = ['http://www.w3.org/2005/08/addressing', 'http://schemas.xmlsoap.org/ws/2004/08/addressing'];

/** Base64(SHA-1(nonce + created + password)): UsernameToken Profile 1.1 section 3.1. */
export const usernameDigest = (nonce: Uint8Array, created: string, password: string): string =>
	bytesToBase64(digestOf('sha1', new Uint8Array([...nonce, ...utf8(created + password)])));

/** Gives elements an id by which a signature refers to them (WSS 1.1 section 4); one that has an id keeps it. */
function withIds(
	text: string,
	elements: XmlElement[],
	next: (local: string) => string
): { text: string; ids: string[] } {
	const ids: string[] = [];
	const edits: { at: number; insert: string }[] = [];
	for (const element of elements) {
		const known = attributeOf(element, 'Id', WSU);
		const own = known ?? next(element.local);
		ids.push(own);
		if (known !== undefined) continue;
		const declared = element.declares.wsu;
		const prefix = declared === undefined || declared === WSU ? 'wsu' : 'wsu-utility';
		const declares = declared === WSU ? '' : ` xmlns:${prefix}="${WSU}"`;
		const name = element.prefix ? `${element.prefix}:${element.local}` : element.local;
		edits.push({ at: element.start + 1 + name.length, insert: `${declares} ${prefix}:Id="${own}"` });
	}
	edits.sort((a, b) => b.at - a.at);
	return { text: edits.reduce((whole, { at, insert }) => whole.slice(0, at) + insert + whole.slice(at), text), ids };
}

/** The Security header that is there for the same receiver: there must not be two (WSS 1.1 section 5). */
function securityIn(root: XmlElement, actor: string): XmlElement | undefined {
	const header = childOf(root, root.namespace, 'Header');
	return childrenOf(header ?? root, WSSE, 'Security').find((one) => {
		const own = attributeOf(one, 'actor', root.namespace) ?? attributeOf(one, 'role', root.namespace) ?? '';
		return own === actor;
	});
}

/** A text with more inside of an element, before what it holds. */
function within(text: string, { start, opened, prefix, local }: XmlElement, more: string): string {
	const tag = text.slice(start, opened);
	if (!tag.endsWith('/>')) return text.slice(0, opened) + more + text.slice(opened);
	const name = prefix ? `${prefix}:${local}` : local;
	return `${text.slice(0, start)}${tag.slice(0, -2).trimEnd()}>${more}</${name}>${text.slice(opened)}`;
}

const time = (at: number): string => new Date(at).toISOString();
const wsuId = (id: string): string => `xmlns:wsu="${WSU}" wsu:Id="${id}"`;

export const wsSecurity: CredentialKind = {
	key: 'ws-security',
	label: 'WS-Security',
	standard: 'OASIS WSS 1.1',
	doc: 'A Security header in the envelope: user and password, a timestamp, and a signature by a certificate, each when it is given.',
	fields: [
		{ name: 'user', label: 'User', doc: 'Of the UsernameToken.', form: 'text' },
		{
			name: 'password',
			label: 'Password',
			doc: 'By reference.',
			form: 'text',
			secret: true,
			when: (given) => !!given.user
		},
		{
			name: 'passwordType',
			label: 'Password goes as',
			doc: 'Plain text, or a digest of it with a nonce and the time.',
			form: 'choice',
			choices: ['digest', 'text', 'none'],
			otherwise: 'digest',
			when: (given) => !!given.user
		},
		{
			name: 'timestamp',
			label: 'Timestamp, valid for',
			doc: 'A Timestamp with the time of sending and of expiry.',
			form: 'duration'
		},
		{
			name: 'certificate',
			label: 'Certificate',
			doc: 'PEM file of the project; with it the envelope is signed.',
			form: 'text'
		},
		{
			name: 'key',
			label: 'Private key',
			doc: 'A PEM file of the project, or a secret that holds PEM. RSA, or an EC key.',
			form: 'text',
			when: (given) => !!given.certificate
		},
		{
			name: 'passphrase',
			label: 'Passphrase',
			doc: 'Opens the key.',
			form: 'text',
			secret: true,
			when: (given) => !!given.certificate
		},
		{
			name: 'algorithm',
			label: 'Signature',
			doc: 'Over the exclusive canonical form.',
			form: 'choice',
			choices: Object.keys(ALGORITHMS),
			otherwise: 'rsa-sha256, or ecdsa-sha256 with an EC key',
			when: (given) => !!given.certificate
		},
		{
			name: 'sign',
			label: 'Signs',
			doc: `Which parts: ${SIGNABLE.join(', ')}; addressing are the headers of WS-Addressing.`,
			form: 'list',
			otherwise: 'body timestamp',
			when: (given) => !!given.certificate
		},
		{
			name: 'mustUnderstand',
			label: 'Must be understood',
			doc: 'Whoever does not know the header has to refuse the message.',
			form: 'flag',
			otherwise: 'true'
		},
		{
			name: 'beside',
			label: 'Also signs in as',
			doc: 'Another credential that is used as well, for the way there: Basic, OAuth 2.0, a client certificate.',
			form: 'text'
		},
		{ name: 'actor', label: 'Actor or role', doc: 'For whom on the way the header is; an address.', form: 'text' }
	],
	example: {
		kind: 'ws-security',
		user: '{$env.clerk}',
		password: '{$secret.clerkPassword}',
		passwordType: 'digest',
		timestamp: '5 min'
	},
	check(value, report) {
		if (!value.user && !value.timestamp && !value.certificate)
			report([], 'a user with a password, a timestamp, or a certificate with its key is wanted');
		if (value.certificate && !value.key) report(['certificate'], 'a certificate goes with its key');
		if (value.key && !value.certificate) report(['key'], 'a key goes with its certificate');
		for (const part of listIn(value, 'sign'))
			if (!part.includes('{$') && !SIGNABLE.includes(part)) report(['sign'], `one of ${SIGNABLE.join(', ')} is wanted`);
	},
	open: (given, tools) => new SecurityHeader(given, tools)
};

/** What is signed: its id, and its exclusive canonical form. */
interface SignedPart {
	id: string;
	canonical: string;
}

/** The Security header of envelopes: what stands in it, and where it goes. */
class SecurityHeader implements Authorizer {
	readonly #given: JsonObject;
	readonly #tools: AuthTools;

	constructor(given: JsonObject, tools: AuthTools) {
		this.#given = given;
		this.#tools = tools;
	}

	/** @throws HeronError auth.wrong for a body that is no envelope, or one to be signed that cannot be read */
	async apply(request: PreparedRequest): Promise<PreparedRequest> {
		// one character for each octet: what stands around the envelope, such as attachments, is not touched
		const before = latin1(request.body);
		const found = /<(?:([\w.-]+):)?Envelope\b(?:[^>"']|"[^"]*"|'[^']*')*>/.exec(before);
		if (!found) throw this.#wrong('WS-Security goes into an envelope, and the body of this step is none');
		const prefix = found[1] ? `${found[1]}:` : '';
		const closing = before.indexOf(`</${prefix}Envelope`, found.index);
		const end = closing < 0 ? before.length : before.indexOf('>', closing) + 1;
		const text = new TextDecoder().decode(latin1Bytes(before.slice(found.index, end)));
		const root = this.#read(text);
		const { envelope, entries } = await this.#entriesOf(text, root);
		const own = root && securityIn(parseXml(envelope), this.#text('actor'));
		const secured = own
			? within(envelope, own, entries.join(''))
			: inHeader(envelope, [this.#header(envelope, prefix, entries.join(''))]);
		const whole = before.slice(0, found.index) + latin1(utf8(secured)) + before.slice(end);
		return withBody(request, latin1Bytes(whole));
	}

	#text(field: string): string {
		return textIn(this.#given, field);
	}
	#wrong(detail: string): HeronError {
		return new HeronError('auth.wrong', { name: this.#tools.name, detail });
	}
	readonly #id = (what: string): string => `${what}-${bytesToHex(this.#tools.ports.randomBytes(8))}`;

	#read(text: string): XmlElement | undefined {
		try {
			return parseXml(text);
		} catch (cause) {
			// what is broken on purpose gets its header all the same; there is nothing in it to be signed
			if (this.#text('certificate') === '') return undefined;
			throw this.#wrong(`the envelope is to be signed and cannot be read: ${textOf(cause)}`);
		}
	}

	/** What stands in the header, and the envelope with the ids to which a signature refers. */
	async #entriesOf(text: string, root: XmlElement | undefined): Promise<{ envelope: string; entries: string[] }> {
		const now = this.#tools.ports.now();
		const [tokenId, timeId] = [this.#id('User'), this.#id('Time')];
		const stamp = this.#timestamp(now, timeId);
		const token = this.#text('user') ? this.#usernameToken(now, tokenId) : '';
		const entries = [stamp, token].filter((entry) => entry !== '');
		if (this.#text('certificate') === '' || !root) return { envelope: text, entries };
		const chosen = listIn(this.#given, 'sign');
		const parts = chosen.length > 0 ? chosen : ['body', 'timestamp'];
		const signed: SignedPart[] = [];
		if (parts.includes('timestamp') && stamp) signed.push({ id: timeId, canonical: stamp });
		if (parts.includes('token') && token) signed.push({ id: tokenId, canonical: token });
		const named = withIds(text, this.#covered(root, parts), this.#id);
		for (const one of named.ids)
			signed.push({ id: one, canonical: await this.#tools.ports.crypto.canonicalXml(named.text, one) });
		return { envelope: named.text, entries: [...entries, ...(await this.#signature(signed))] };
	}

	/** Elements of the envelope that are to be signed. */
	#covered(root: XmlElement, parts: readonly string[]): XmlElement[] {
		const covered: XmlElement[] = [];
		const header = childOf(root, root.namespace, 'Header');
		if (parts.includes('addressing') && header)
			covered.push(...elementsOf(header).filter(({ namespace }) => ADDRESSING.includes(namespace)));
		if (parts.includes('body')) {
			const body = childOf(root, root.namespace, 'Body');
			if (!body) throw this.#wrong('the envelope has no Body to be signed');
			covered.push(body);
		}
		return covered;
	}

	#usernameToken(now: number, at: string): string {
		const password = this.#text('password');
		const type = this.#text('passwordType') || 'digest';
		const parts = [`<wsse:Username>${escapeXml(this.#text('user'))}</wsse:Username>`];
		const nonce = this.#tools.ports.randomBytes(16);
		const created = time(now);
		if (type === 'text')
			parts.push(`<wsse:Password Type="${TOKEN}#PasswordText">${escapeXml(password)}</wsse:Password>`);
		if (type === 'digest') {
			const digest = usernameDigest(nonce, created, password);
			this.#tools.made(`${this.#tools.name}.digest`, digest);
			parts.push(
				`<wsse:Password Type="${TOKEN}#PasswordDigest">${digest}</wsse:Password>`,
				`<wsse:Nonce EncodingType="${BASE64}">${bytesToBase64(nonce)}</wsse:Nonce>`
			);
		}
		if (type !== 'none') parts.push(`<wsu:Created>${created}</wsu:Created>`);
		// written as its exclusive canonical form, so that it can be signed as it stands
		return `<wsse:UsernameToken xmlns:wsse="${WSSE}" ${wsuId(at)}>${parts.join('')}</wsse:UsernameToken>`;
	}

	#timestamp(now: number, at: string): string {
		const life = parseDuration(this.#text('timestamp'));
		if (!life) return '';
		return `<wsu:Timestamp ${wsuId(at)}><wsu:Created>${time(now)}</wsu:Created><wsu:Expires>${time(now + life)}</wsu:Expires></wsu:Timestamp>`;
	}

	/** The signature of parts (XML Signature section 3, WSS 1.1 section 8), after the token with its certificate. */
	async #signature(parts: readonly SignedPart[]): Promise<string[]> {
		const { name, ports, learn, made } = this.#tools;
		const read = (path: string) => ports.readFile?.(path);
		const key = pemOf(this.#text('key'), read);
		learn(`${name}.key`, key);
		const pem = /-----BEGIN CERTIFICATE-----([\s\S]+?)-----END CERTIFICATE-----/.exec(
			pemOf(this.#text('certificate'), read)
		);
		if (!pem) throw this.#wrong('the certificate is not PEM');
		const passphrase = this.#text('passphrase');
		const secret = { text: key, ...(passphrase ? { passphrase } : {}) };
		const kind = await ports.crypto.pairOf(pem[0], secret);
		const algorithm = (this.#text('algorithm') || (kind === 'ec' ? 'ecdsa-sha256' : 'rsa-sha256')) as Algorithm;
		const { hash, signature: method, digest } = ALGORITHMS[algorithm] ?? ALGORITHMS['rsa-sha256'];
		const references = parts.map(
			(part) =>
				`<ds:Reference URI="#${part.id}"><ds:Transforms><ds:Transform Algorithm="${EXCLUSIVE}"></ds:Transform></ds:Transforms><ds:DigestMethod Algorithm="${digest}"></ds:DigestMethod><ds:DigestValue>${bytesToBase64(digestOf(hash, utf8(part.canonical)))}</ds:DigestValue></ds:Reference>`
		);
		const info = `<ds:SignedInfo xmlns:ds="${DS}"><ds:CanonicalizationMethod Algorithm="${EXCLUSIVE}"></ds:CanonicalizationMethod><ds:SignatureMethod Algorithm="${method}"></ds:SignatureMethod>${references.join('')}</ds:SignedInfo>`;
		const signed =
			algorithm === 'ecdsa-sha256'
				? await ports.crypto.ecdsa('sha256', secret, utf8(info))
				: await ports.crypto.rsa(hash, secret, utf8(info));
		const value = bytesToBase64(signed);
		made(`${name}.signature`, value);
		const at = this.#id('X509');
		const der = bytesToBase64(base64ToBytes(pem[1]!));
		return [
			`<wsse:BinarySecurityToken xmlns:wsse="${WSSE}" EncodingType="${BASE64}" ValueType="${X509}" ${wsuId(at)}>${der}</wsse:BinarySecurityToken>`,
			`<ds:Signature xmlns:ds="${DS}">${info}<ds:SignatureValue>${value}</ds:SignatureValue><ds:KeyInfo><wsse:SecurityTokenReference xmlns:wsse="${WSSE}"><wsse:Reference URI="#${at}" ValueType="${X509}"/></wsse:SecurityTokenReference></ds:KeyInfo></ds:Signature>`
		];
	}

	/** A header of its own. */
	#header(envelope: string, prefix: string, entries: string): string {
		const actor = this.#text('actor');
		const soap12 = envelope.includes(SOAP12);
		const must = this.#given.mustUnderstand === false ? '' : ` ${prefix}mustUnderstand="${soap12 ? 'true' : '1'}"`;
		const role = actor ? ` ${prefix}${soap12 ? 'role' : 'actor'}="${escapeXml(actor)}"` : '';
		// attributes of the envelope's namespace need a prefix
		const declared = prefix || !(must || role) ? '' : ` xmlns:env="${soap12 ? SOAP12 : SOAP11}"`;
		const attributes = prefix ? must + role : (must + role).replace(/ (mustUnderstand|role|actor)=/g, ' env:$1=');
		return `<wsse:Security xmlns:wsse="${WSSE}"${declared}${attributes}>${entries}</wsse:Security>`;
	}
}
