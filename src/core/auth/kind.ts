import { writeJson } from '../model/json.ts';
import { parseMembers } from '../model/params.ts';
import type { Exchange, PreparedRequest } from '../model/exchange.ts';
import type { Json, JsonObject } from '../model/json.ts';
import type { Reply } from '../model/reply.ts';
import type { Evaluator, FunctionPorts, Scope } from '../values/index.ts';
import type { Token, TokenKeeper } from './token.ts';

/** Signature algorithms by their JOSE names (RFC 7518, RFC 8037), and those that older protocols need. */
export const JWS_ALGORITHMS = [
	...['HS256', 'HS384', 'HS512', 'RS256', 'RS384', 'RS512', 'PS256', 'PS384', 'PS512'],
	...['ES256', 'ES384', 'ES512', 'EdDSA']
] as const;
/** RFC 9421 section 6.2.2. */
export const MESSAGE_ALGORITHMS = [
	...['hmac-sha256', 'rsa-pss-sha512', 'rsa-v1_5-sha256', 'ecdsa-p256-sha256', 'ecdsa-p384-sha384', 'ed25519']
] as const;
/** The name of an algorithm for HTTP message signatures. */
export type MessageAlgorithm = (typeof MESSAGE_ALGORITHMS)[number];

/** A private key in PEM with the passphrase that opens it, or a shared secret as text. */
export interface Key {
	text: string;
	passphrase?: string;
}

interface MessageSignature {
	algorithm: MessageAlgorithm;
	key: Key;
	keyId: string;
	/** Covered components, such as `@method` and `content-digest`. */
	components: string[];
	label: string;
	/** Seconds since 1970. */
	created?: number;
	expires?: number;
	nonce?: string;
	tag?: string;
	/** Whether the algorithm is named in the parameters. */
	nameAlgorithm: boolean;
}

/** Work with keys: the engine does it with the platform's cryptography. @throws HeronError auth.key */
export interface CryptoPort {
	/** A signed token in compact form (RFC 7515). */
	jws(header: JsonObject, payload: JsonObject, key: Key): Promise<string>;
	/** RSASSA-PKCS1-v1_5 (RFC 8017 section 8.2). */
	rsa(hash: 'sha1' | 'sha256' | 'sha512', key: Key, data: Uint8Array): Promise<Uint8Array>;
	/** ECDSA, as the two numbers one after the other (XML Signature 1.1 section 6.4.3). */
	ecdsa(hash: 'sha256', key: Key, data: Uint8Array): Promise<Uint8Array>;
	/** The kind of a key that belongs to a certificate in PEM. @throws HeronError auth.key when it does not */
	pairOf(certificate: string, key: Key): Promise<'rsa' | 'ec'>;
	/** The exclusive canonical form of the element with a `wsu:Id` in a document (Exclusive XML Canonicalization 1.0). */
	canonicalXml(document: string, id: string): Promise<string>;
	/** The header fields that sign a request (RFC 9421). */
	signMessage(request: PreparedRequest, signature: MessageSignature): Promise<[string, string][]>;
}

/** Where a value of a credential's form is written, and how. */
export interface CredentialField {
	name: string;
	label: string;
	doc: string;
	/** How it is written; `members` are those of a JSON object, lists and objects among them; `data` for fields that have an editor of their own. */
	form: 'text' | 'address' | 'choice' | 'list' | 'params' | 'members' | 'flag' | 'duration' | 'data';
	choices?: readonly string[];
	/** Never written down: by reference only, and hidden wherever it shows up. */
	secret?: true;
	required?: true;
	/** Fields that only make sense beside others. */
	when?(given: JsonObject): boolean;
	/** What holds when it is left out. */
	otherwise?: string;
	/** Its expressions are computed by the kind itself, when it signs. */
	lazy?: true;
	/** Reports what is wrong with a `data` field. */
	check?(value: unknown, report: (at: (string | number)[], message: string) => void): void;
	schema?: Json;
}

/** What a kind of credential may use while it proves who somebody is. */
export interface AuthTools {
	/** The credential's name, for messages. */
	name: string;
	environment: string;
	evaluator: Evaluator;
	scope: Scope;
	ports: AuthPorts;
	/** What lives as long as a scenario: challenges, counters. */
	state: Map<string, unknown>;
	/** Tells that a value must be hidden from now on. */
	learn(name: string, value: string): void;
	/** Tells that a value was made with a secret, for one call: a signature. */
	made(name: string, value: string): void;
	/** Sends a request of the sign-in itself, over the transport of the call. */
	leg(title: string, request: PreparedRequest): Promise<Exchange>;
	/** A request without body and headers beyond the usual, for legs. */
	blank(method: string, url: string): PreparedRequest;
}

/** What credentials need from outside: clock and chance, cryptography, kept tokens. */
export interface AuthPorts extends FunctionPorts {
	crypto: CryptoPort;
	tokens: TokenKeeper;
}

/** One credential at work for one step. */
export interface Authorizer {
	/** The request with what proves who we are. Called again for each redirect on the same host. */
	apply(request: PreparedRequest): Promise<PreparedRequest>;
	/** After a refusal: another request to try, or undefined. `attempt` counts from 1. */
	retry?(request: PreparedRequest, reply: Reply, attempt: number): Promise<PreparedRequest | undefined>;
	/** Told of every reply. */
	seen?(request: PreparedRequest, reply: Reply): void;
	/** The token reply, for `$token`. */
	token?(): Promise<Token>;
}

/** A kind of credential: one object in one file. */
export interface CredentialKind {
	/** As files write it. */
	key: string;
	label: string;
	/** The standard it follows. */
	standard: string;
	doc: string;
	fields: CredentialField[];
	example: JsonObject;
	/** What fields by themselves cannot say. */
	check?(value: JsonObject, report: (at: (string | number)[], message: string) => void): void;
	/** Makes it ready: `given` has every value filled in but for lazy fields. @throws HeronError auth.* */
	open(given: JsonObject, tools: AuthTools): Authorizer;
}

/** The text of a field; empty when it is not given. */
export const textIn = (given: JsonObject, name: string): string => {
	const value = given[name];
	return value === undefined || value === null ? '' : typeof value === 'object' ? writeJson(value) : String(value);
};
/** A list of texts that is written as a list, or as a text with blanks or commas between. */
export const listIn = (given: JsonObject, name: string): string[] => {
	const value = given[name];
	return Array.isArray(value)
		? value.map(String)
		: value === undefined || value === null || value === ''
			? []
			: String(value).split(/[\s,]+/);
};

/**
 * The members of a JSON object that a `members` field gives, as a map or as a list of pairs; those that are switched off
 * (`{ value, off: true }`) are left out.
 */
export function membersIn(given: JsonObject, name: string): JsonObject {
	const members: JsonObject = {};
	for (const { name: key, value, off } of parseMembers(given[name])) if (key !== '' && !off) members[key] = value;
	return members;
}
