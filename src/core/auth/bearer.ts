import { HeronError } from '../errors.ts';
import { withBody, withHeader, withQuery, type PreparedRequest } from '../model/exchange.ts';
import { mediaType } from '../model/reply.ts';
import { decodeText, escapeForm, utf8 } from '../values/index.ts';
import { textIn, type CredentialField, type CredentialKind } from './kind.ts';

/** Where a bearer token may travel (RFC 6750 section 2). */
const PLACES = ['header', 'query', 'body'] as const;

export const placeField: CredentialField = {
	name: 'in',
	label: 'Sent in',
	doc: 'header: Authorization: Bearer; query or body: access_token.',
	form: 'choice',
	choices: PLACES,
	otherwise: 'header'
};

/** The request with a bearer token where RFC 6750 section 2 puts it. */
export function withBearer(request: PreparedRequest, token: string, place: string, name: string): PreparedRequest {
	// RFC 6750 section 2.1: b64token; what is not one would break the header field
	if (!/^[A-Za-z0-9\-._~+/]+=*$/.test(token))
		throw new HeronError('auth.wrong', {
			name,
			detail: token ? 'the token holds characters that a token cannot have' : 'the token is empty'
		});
	if (place === 'query') return withQuery(request, 'access_token', token);
	if (place !== 'body') return withHeader(request, 'Authorization', `Bearer ${token}`);
	const { type } = mediaType(request.headers);
	if (request.body.length > 0 && type !== 'application/x-www-form-urlencoded')
		throw new HeronError('auth.wrong', { name, detail: 'a token in the body needs a form as body' });
	const before = decodeText(request.body).text;
	const next = withBody(request, utf8(`${before}${before ? '&' : ''}access_token=${escapeForm(token)}`));
	return type ? next : withHeader(next, 'Content-Type', 'application/x-www-form-urlencoded', 'added');
}

export const bearer: CredentialKind = {
	key: 'bearer',
	label: 'Bearer',
	standard: 'RFC 6750',
	doc: 'A token that is at hand already, or that an earlier step kept.',
	fields: [
		{
			name: 'token',
			label: 'Token',
			doc: 'A secret, or a value that a step kept: {$steps.signIn.token}.',
			form: 'text',
			secret: true,
			required: true
		},
		placeField
	],
	example: { kind: 'bearer', token: '{$secret.apiToken}' },
	open: (given, { name }) => ({
		apply: async (request) => withBearer(request, textIn(given, 'token').trim(), textIn(given, 'in'), name)
	})
};
