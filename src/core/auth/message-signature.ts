import { HeronError } from '../errors.ts';
import { withHeader } from '../model/exchange.ts';
import { headerValue } from '../model/reply.ts';
import { parseDuration } from '../model/units.ts';
import { bytesToBase64, bytesToHex, digestOf } from '../values/index.ts';
import { keyFields, keyOf } from './jwt.ts';
import { listIn, MESSAGE_ALGORITHMS, textIn, type CredentialKind, type MessageAlgorithm } from './kind.ts';

/** The header field that a component means (RFC 9421 section 2.1); empty for what is derived or of another message. */
function fieldOf(component: string): string {
	const [, name = '', parameters = ''] = /^"?([^";]+)"?(.*)$/.exec(component.trim()) ?? [];
	return name.startsWith('@') || /;\s*(req|tr)\b/.test(parameters) ? '' : name.toLowerCase();
}

export const messageSignature: CredentialKind = {
	key: 'message-signature',
	label: 'HTTP message signature',
	standard: 'RFC 9421, RFC 9530',
	doc: 'Signs chosen parts of the request; the digest of the body is added as Content-Digest.',
	fields: [
		{
			name: 'algorithm',
			label: 'Algorithm',
			doc: 'From the registry of RFC 9421.',
			form: 'choice',
			choices: MESSAGE_ALGORITHMS,
			required: true
		},
		...keyFields.map((field) =>
			field.name === 'key' ? { ...field, doc: field.doc.replace('For HS', 'For hmac') } : field
		),
		{ name: 'keyId', label: 'Key id', doc: 'By which the other side finds the key.', form: 'text', required: true },
		{
			name: 'components',
			label: 'Covers',
			doc: 'Parts in order: @method, @target-uri, @authority, @path, @query, header names.',
			form: 'list',
			otherwise: '@method @target-uri content-digest'
		},
		{
			name: 'digest',
			label: 'Content-Digest',
			doc: 'Of the body, as RFC 9530 writes it.',
			form: 'choice',
			choices: ['sha-256', 'sha-512', 'none'],
			otherwise: 'sha-256'
		},
		{ name: 'label', label: 'Label', doc: 'Name of the signature in its fields.', form: 'text', otherwise: 'sig1' },
		{ name: 'expires', label: 'Valid for', doc: 'Sets the parameter expires.', form: 'duration' },
		{ name: 'nonce', label: 'Nonce', doc: 'A random one in each signature.', form: 'flag' },
		{
			name: 'nameAlgorithm',
			label: 'Name the algorithm',
			doc: 'Sets the parameter alg.',
			form: 'flag',
			otherwise: 'true'
		},
		{ name: 'tag', label: 'Tag', doc: 'Of the application.', form: 'text' }
	],
	example: {
		kind: 'message-signature',
		algorithm: 'hmac-sha256',
		key: '{$secret.gateSeal}',
		keyId: 'gate',
		components: ['@method', '@path', 'content-digest']
	},
	open(given, tools) {
		const algorithm = textIn(given, 'algorithm') as MessageAlgorithm;
		const key = keyOf(given, tools, algorithm === 'hmac-sha256');
		return {
			async apply(request) {
				const kind = textIn(given, 'digest') || 'sha-256';
				let next = request;
				if (kind !== 'none') {
					const sum = digestOf(kind === 'sha-512' ? 'sha512' : 'sha256', request.body);
					next = withHeader(next, 'Content-Digest', `${kind}=:${bytesToBase64(sum)}:`);
				}
				const chosen = listIn(given, 'components');
				const components =
					chosen.length > 0 ? chosen : ['@method', '@target-uri', ...(kind === 'none' ? [] : ['content-digest'])];
				const absent = components.map(fieldOf).find((field) => field && headerValue(next.headers, field) === undefined);
				if (absent)
					throw new HeronError('auth.wrong', {
						name: tools.name,
						detail: `it covers the header ${absent}, and this request has none: add the header, or take it out of components`
					});
				const created = Math.floor(tools.ports.now() / 1000);
				const life = parseDuration(textIn(given, 'expires'));
				const fields = await tools.ports.crypto.signMessage(next, {
					algorithm,
					key,
					keyId: textIn(given, 'keyId'),
					components,
					label: textIn(given, 'label') || 'sig1',
					created,
					...(life ? { expires: created + Math.round(life / 1000) } : {}),
					...(given.nonce === true ? { nonce: bytesToHex(tools.ports.randomBytes(16)) } : {}),
					...(given.tag ? { tag: textIn(given, 'tag') } : {}),
					nameAlgorithm: given.nameAlgorithm !== false
				});
				for (const [name, value] of fields) {
					// RFC 9421 section 4.2: label=:base64:
					if (name.toLowerCase() === 'signature')
						tools.made(`${tools.name}.signature`, /:([^:]+):/.exec(value)?.[1] ?? value);
					next = withHeader(next, name, value);
				}
				return next;
			}
		};
	}
};
