import { withHeader, withQuery } from '../model/exchange.ts';
import { headerValue } from '../model/reply.ts';
import { textIn, type CredentialKind } from './kind.ts';

export const apiKey: CredentialKind = {
	key: 'api-key',
	label: 'API key',
	standard: 'OpenAPI 3.1, security scheme apiKey',
	doc: 'One key under a name, in the query, a header or a cookie.',
	fields: [
		{
			name: 'in',
			label: 'Sent in',
			doc: 'Where it goes.',
			form: 'choice',
			choices: ['header', 'query', 'cookie'],
			otherwise: 'header'
		},
		{
			name: 'name',
			label: 'Name',
			doc: 'Of the header, parameter or cookie, to the letter.',
			form: 'text',
			required: true
		},
		{ name: 'key', label: 'Key', doc: 'By reference.', form: 'text', secret: true, required: true }
	],
	example: { kind: 'api-key', in: 'query', name: 'key', key: '{$secret.gateKey}' },
	open(given) {
		const [name, key, place] = [textIn(given, 'name'), textIn(given, 'key'), textIn(given, 'in')];
		return {
			async apply(request) {
				if (place === 'query') return withQuery(request, name, key);
				if (place !== 'cookie') return withHeader(request, name, key);
				const before = headerValue(request.headers, 'cookie');
				return withHeader(request, 'Cookie', `${before ? `${before}; ` : ''}${name}=${key}`);
			}
		};
	}
};
