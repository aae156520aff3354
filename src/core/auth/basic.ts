import { HeronError } from '../errors.ts';
import { withHeader } from '../model/exchange.ts';
import { bytesToBase64, utf8 } from '../values/index.ts';
import { textIn, type CredentialKind } from './kind.ts';

export const basic: CredentialKind = {
	key: 'basic',
	label: 'Basic',
	standard: 'RFC 7617',
	doc: 'User and password in every request, as base64 of their UTF-8.',
	fields: [
		{ name: 'user', label: 'User', doc: 'Who signs in; no colon may stand in it.', form: 'text', required: true },
		{ name: 'password', label: 'Password', doc: 'By reference.', form: 'text', secret: true, required: true }
	],
	example: { kind: 'basic', user: '{$env.clerk}', password: '{$secret.clerkPassword}' },
	open(given, { name, learn }) {
		const user = textIn(given, 'user');
		// RFC 7617 section 2: the first colon ends the user
		if (user.includes(':'))
			throw new HeronError('auth.wrong', { name, detail: 'the user of Basic must not hold a colon' });
		const proof = bytesToBase64(utf8(`${user}:${textIn(given, 'password')}`));
		learn(`${name}.basic`, proof);
		return { apply: async (request) => withHeader(request, 'Authorization', `Basic ${proof}`) };
	}
};
