import { HeronError } from '../errors.ts';
import { withBody, withHeader, type PreparedRequest } from '../model/exchange.ts';
import { mediaType } from '../model/reply.ts';
import {
	bytesToBase64,
	bytesToHex,
	decodeForm,
	decodeText,
	escapeAddress,
	keyedDigest,
	utf8
} from '../values/index.ts';
import { pemOf } from '../model/transport.ts';
import { textIn, type CredentialKind } from './kind.ts';

type Pair = [name: string, value: string];
const METHODS = [
	'HMAC-SHA1',
	'HMAC-SHA256',
	'HMAC-SHA512',
	'PLAINTEXT',
	'RSA-SHA1',
	'RSA-SHA256',
	'RSA-SHA512'
] as const;

const hashOf = (method: string) =>
	method.endsWith('SHA512') ? 'sha512' : method.endsWith('SHA256') ? 'sha256' : 'sha1';

/** What is signed (RFC 5849 section 3.4.1). `form` is the body when it is a form, else empty. */
export function oauth1BaseString(method: string, address: string, form: string, protocol: Pair[]): string {
	const url = new URL(address);
	const order = (a: string, b: string) => (a < b ? -1 : a > b ? 1 : 0);
	const pairs = [
		...decodeForm(url.search.slice(1)),
		...decodeForm(form),
		...protocol.filter(([name]) => name !== 'realm')
	]
		.map(([name, value]): Pair => [escapeAddress(name), escapeAddress(value)])
		.sort((a, b) => order(a[0], b[0]) || order(a[1], b[1]));
	return [method.toUpperCase(), url.origin + url.pathname, pairs.map((pair) => pair.join('=')).join('&')]
		.map(escapeAddress)
		.join('&');
}

export const oauth1: CredentialKind = {
	key: 'oauth1',
	label: 'OAuth 1.0a',
	standard: 'RFC 5849',
	doc: 'Signs method, address and parameters with the secrets of client and token, or with an RSA key.',
	fields: [
		{ name: 'consumerKey', label: 'Client key', doc: 'oauth_consumer_key.', form: 'text', required: true },
		{ name: 'consumerSecret', label: 'Client secret', doc: 'By reference.', form: 'text', secret: true },
		{ name: 'token', label: 'Token', doc: 'oauth_token; none before one was given.', form: 'text' },
		{ name: 'tokenSecret', label: 'Token secret', doc: 'By reference.', form: 'text', secret: true },
		{
			name: 'method',
			label: 'Signed by',
			doc: 'oauth_signature_method.',
			form: 'choice',
			choices: METHODS,
			otherwise: 'HMAC-SHA1'
		},
		{
			name: 'key',
			label: 'Private key',
			doc: 'For RSA: a PEM file of the project, or a secret that holds PEM.',
			form: 'text',
			when: (given) => String(given.method).startsWith('RSA')
		},
		{ name: 'realm', label: 'Realm', doc: 'Sent, not signed.', form: 'text' },
		{
			name: 'in',
			label: 'Sent in',
			doc: 'Where the parameters travel.',
			form: 'choice',
			choices: ['header', 'query', 'body'],
			otherwise: 'header'
		}
	],
	example: {
		kind: 'oauth1',
		consumerKey: 'weir-app',
		consumerSecret: '{$secret.weirSecret}',
		token: 'kkk9d7dh3k39sjv7',
		tokenSecret: '{$secret.weirTokenSecret}'
	},
	open(given, { name, ports, learn, made }) {
		const method = textIn(given, 'method') || 'HMAC-SHA1';
		const place = textIn(given, 'in') || 'header';
		const secrets = `${escapeAddress(textIn(given, 'consumerSecret'))}&${escapeAddress(textIn(given, 'tokenSecret'))}`;
		if (method === 'PLAINTEXT') learn(`${name}.signature`, secrets);
		const sign = async (base: string): Promise<string> => {
			if (method === 'PLAINTEXT') return secrets;
			if (method.startsWith('RSA')) {
				const key = { text: pemOf(textIn(given, 'key'), (path) => ports.readFile?.(path)) };
				return bytesToBase64(await ports.crypto.rsa(hashOf(method), key, utf8(base)));
			}
			return bytesToBase64(keyedDigest(hashOf(method), utf8(secrets), utf8(base)));
		};
		return {
			async apply(request) {
				const isForm = mediaType(request.headers).type === 'application/x-www-form-urlencoded';
				const form = isForm ? decodeText(request.body).text : '';
				const protocol: Pair[] = [
					['oauth_consumer_key', textIn(given, 'consumerKey')],
					...(given.token ? [['oauth_token', textIn(given, 'token')] as Pair] : []),
					['oauth_signature_method', method],
					['oauth_timestamp', String(Math.floor(ports.now() / 1000))],
					['oauth_nonce', bytesToHex(ports.randomBytes(16))],
					['oauth_version', '1.0']
				];
				const signature = await sign(oauth1BaseString(request.method, request.url, form, protocol));
				made(`${name}.signature`, signature);
				protocol.push(['oauth_signature', signature]);
				return carry(request, protocol, place, textIn(given, 'realm'), isForm, name);
			}
		};
	}
};

/** Puts the protocol parameters where RFC 5849 section 3.5 allows them. */
function carry(
	request: PreparedRequest,
	protocol: Pair[],
	place: string,
	realm: string,
	isForm: boolean,
	name: string
): PreparedRequest {
	const joined = protocol.map(([n, v]) => `${escapeAddress(n)}=${escapeAddress(v)}`).join('&');
	if (place === 'query') {
		return { ...request, url: `${request.url}${request.url.includes('?') ? '&' : '?'}${joined}` };
	}
	if (place === 'body') {
		if (!isForm) throw new HeronError('auth.wrong', { name, detail: 'parameters in the body need a form as body' });
		return withBody(request, utf8([decodeText(request.body).text, joined].filter(Boolean).join('&')));
	}
	const parts = protocol.map(([n, v]) => `${escapeAddress(n)}="${escapeAddress(v)}"`);
	return withHeader(
		request,
		'Authorization',
		`OAuth ${[...(realm ? [`realm="${realm.replace(/["\\]/g, '')}"`] : []), ...parts].join(', ')}`
	);
}
