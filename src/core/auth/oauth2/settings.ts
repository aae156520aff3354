import { HeronError } from '../../errors.ts';
import { writeJson, isObject, type JsonObject } from '../../model/json.ts';
import { parseDuration } from '../../model/units.ts';
import { bytesToHex, digestOf, utf8 } from '../../values/index.ts';
import { placeField } from '../bearer.ts';
import { JWS_ALGORITHMS, listIn, membersIn, textIn, type CredentialField } from '../kind.ts';

/** By their names in RFC 6749, 7523 and 8628. */
const GRANTS = [
	'authorization-code',
	'client-credentials',
	'password',
	'refresh-token',
	'device-code',
	'jwt-bearer'
] as const;
type Grant = (typeof GRANTS)[number];
const CLIENT_AUTH = ['basic', 'post', 'client-secret-jwt', 'private-key-jwt', 'mutual-tls', 'none'] as const;

/** The settings of an OAuth 2.0 credential, its expressions computed. */
export interface OAuth2Settings {
	grant: Grant;
	issuer: string;
	endpoints: { authorization: string; token: string; device: string; introspection: string; revocation: string };
	clientId: string;
	clientSecret: string;
	clientAuth: (typeof CLIENT_AUTH)[number];
	key: string;
	passphrase: string;
	keyId: string;
	keyAlgorithm: string;
	scope: string;
	audience: string;
	resource: string[];
	/** Further parameters of the authorization request and of token requests. */
	authorizeExtra: JsonObject;
	tokenExtra: JsonObject;
	user: string;
	password: string;
	refreshToken: string;
	/** Claims of the assertion of the JWT bearer grant. */
	assertion: JsonObject;
	redirect: string;
	pkce: 'S256' | 'plain' | 'none';
	in: string;
	/** Milliseconds before the end at which a token is renewed. */
	renewBefore: number;
	/** A digest of all that a token depends on. */
	fingerprint: string;
}

const isGrant =
	(...grants: Grant[]) =>
	(given: JsonObject) =>
		grants.includes(given.grant as Grant);
const usesKey = (given: JsonObject) => given.clientAuth === 'private-key-jwt' || given.grant === 'jwt-bearer';

export const fields: CredentialField[] = [
	{
		name: 'grant',
		label: 'Grant',
		doc: 'How the token is asked for.',
		form: 'choice',
		choices: GRANTS,
		required: true
	},
	{
		name: 'issuer',
		label: 'Issuer',
		doc: 'The endpoints are read from its metadata (RFC 8414); not needed when they are given.',
		form: 'address'
	},
	{
		name: 'authorizationEndpoint',
		label: 'Authorization endpoint',
		doc: 'Over that of the issuer.',
		form: 'address',
		when: isGrant('authorization-code')
	},
	{ name: 'tokenEndpoint', label: 'Token endpoint', doc: 'Over that of the issuer.', form: 'address' },
	{
		name: 'deviceEndpoint',
		label: 'Device endpoint',
		doc: 'Over that of the issuer.',
		form: 'address',
		when: isGrant('device-code')
	},
	{ name: 'introspectionEndpoint', label: 'Introspection endpoint', doc: 'RFC 7662.', form: 'address' },
	{ name: 'revocationEndpoint', label: 'Revocation endpoint', doc: 'RFC 7009.', form: 'address' },
	{ name: 'clientId', label: 'Client id', doc: '', form: 'text', required: true },
	{
		name: 'clientAuth',
		label: 'Client proves itself by',
		doc: 'basic: header; post: in the form; client-secret-jwt: RFC 7523, by HMAC with the secret; private-key-jwt: RFC 7523; mutual-tls: RFC 8705.',
		form: 'choice',
		choices: CLIENT_AUTH,
		otherwise: 'basic, or none without a secret'
	},
	{ name: 'clientSecret', label: 'Client secret', doc: 'By reference.', form: 'text', secret: true },
	{
		name: 'key',
		label: 'Private key',
		doc: 'For private-key-jwt and jwt-bearer: a PEM file of the project, or a secret that holds PEM.',
		form: 'text',
		when: usesKey
	},
	{
		name: 'passphrase',
		label: 'Passphrase',
		doc: 'Opens an encrypted key.',
		form: 'text',
		secret: true,
		when: usesKey
	},
	{ name: 'keyId', label: 'Key id', doc: 'kid of what the key signs.', form: 'text', when: usesKey },
	{
		name: 'keyAlgorithm',
		label: 'Key algorithm',
		doc: 'alg of what the key signs.',
		form: 'choice',
		choices: JWS_ALGORITHMS,
		when: usesKey,
		otherwise: 'RS256'
	},
	{ name: 'scope', label: 'Scope', doc: 'Words parted by blanks; may be left out.', form: 'text' },
	{ name: 'audience', label: 'Audience', doc: 'For servers that want it.', form: 'text' },
	{ name: 'resource', label: 'Resource', doc: 'RFC 8707.', form: 'list' },
	{ name: 'user', label: 'User', doc: '', form: 'text', when: isGrant('password') },
	{ name: 'password', label: 'Password', doc: 'By reference.', form: 'text', secret: true, when: isGrant('password') },
	{
		name: 'refreshToken',
		label: 'Refresh token',
		doc: 'For pipelines: a secret that holds one, so that nobody has to consent there.',
		form: 'text',
		secret: true
	},
	{
		name: 'assertion',
		label: 'Assertion claims',
		doc: 'iss, sub and aud unless the usual ones fit.',
		form: 'members',
		when: isGrant('jwt-bearer')
	},
	{
		name: 'redirect',
		label: 'Redirect address',
		doc: 'Registered with the server; the application’s own when left out.',
		form: 'address',
		when: isGrant('authorization-code')
	},
	{
		name: 'pkce',
		label: 'PKCE',
		doc: 'RFC 7636.',
		form: 'choice',
		choices: ['S256', 'plain', 'none'],
		otherwise: 'S256',
		when: isGrant('authorization-code')
	},
	{
		name: 'authorizeExtra',
		label: 'More for the consent',
		doc: 'Further parameters of the authorization request.',
		form: 'params',
		when: isGrant('authorization-code')
	},
	{ name: 'tokenExtra', label: 'More for the token', doc: 'Further parameters of token requests.', form: 'params' },
	placeField,
	{
		name: 'connection',
		label: 'Way of the sign-in',
		doc: 'A connection whose proxy and authorities it uses; that of the call when left out.',
		form: 'text'
	},
	{ name: 'renewBefore', label: 'Renewed', doc: 'So long before the end.', form: 'duration', otherwise: '30 s' }
];

/** Settings in full, every value filled in. @throws HeronError auth.wrong */
export function settingsOf(given: JsonObject, name: string): OAuth2Settings {
	const text = (field: string) => textIn(given, field).trim();
	const grant = (text('grant') || 'client-credentials') as Grant;
	const clientSecret = text('clientSecret');
	const settings: OAuth2Settings = {
		grant,
		issuer: text('issuer'),
		endpoints: {
			authorization: text('authorizationEndpoint'),
			token: text('tokenEndpoint'),
			device: text('deviceEndpoint'),
			introspection: text('introspectionEndpoint'),
			revocation: text('revocationEndpoint')
		},
		clientId: text('clientId'),
		clientSecret,
		clientAuth: (text('clientAuth') || (clientSecret ? 'basic' : 'none')) as OAuth2Settings['clientAuth'],
		key: textIn(given, 'key'),
		passphrase: textIn(given, 'passphrase'),
		keyId: text('keyId'),
		keyAlgorithm: text('keyAlgorithm') || 'RS256',
		scope: text('scope'),
		audience: text('audience'),
		resource: listIn(given, 'resource'),
		authorizeExtra: isObject(given.authorizeExtra) ? (given.authorizeExtra as JsonObject) : {},
		tokenExtra: isObject(given.tokenExtra) ? (given.tokenExtra as JsonObject) : {},
		user: textIn(given, 'user'),
		password: textIn(given, 'password'),
		refreshToken: text('refreshToken'),
		assertion: membersIn(given, 'assertion'),
		redirect: text('redirect'),
		pkce: (text('pkce') || 'S256') as OAuth2Settings['pkce'],
		in: text('in') || 'header',
		renewBefore: parseDuration(text('renewBefore')) ?? 30_000,
		fingerprint: ''
	};
	for (const address of [settings.issuer, ...Object.values(settings.endpoints)]) {
		if (address && !URL.canParse(address))
			throw new HeronError('auth.wrong', { name, detail: `${address} is not an address` });
	}
	settings.fingerprint = bytesToHex(digestOf('sha256', utf8(writeJson(settings)))).slice(0, 32);
	return settings;
}
