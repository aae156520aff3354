import type { FastifyInstance, FastifyRequest } from 'fastify';
import { CLIENTS, origin, random, SCOPES, type Query, type SignOn } from './grants.ts';
import { consentPage, plainPage } from './pages.ts';

const CODE_LIFE_MS = 60_000;

/** The page on which a user consents, and the code that goes back (RFC 6749 section 4.1). */
export function addConsent(app: FastifyInstance, service: SignOn): void {
	app.get('/authorize', (request: FastifyRequest<{ Querystring: Query }>, reply) => {
		const { client_id: id = '', redirect_uri: redirect = '', response_type: type, scope = '' } = request.query;
		void reply.type('text/html; charset=utf-8');
		const known = Object.hasOwn(CLIENTS, id) ? CLIENTS[id] : undefined;
		if (!known?.grants.includes('authorization_code') || !URL.canParse(redirect))
			return reply
				.code(400)
				.send(plainPage('No consent can be given', 'The client or its redirect address is not known.'));
		if (type !== 'code') return reply.redirect(`${redirect}?error=unsupported_response_type`);
		return consentPage(id, scope || SCOPES.join(' '), request.query);
	});
	app.post('/authorize', (request: FastifyRequest<{ Body: Query }>, reply) => {
		const form = request.body;
		const back = new URL(form.redirect_uri ?? '');
		if (form.state) back.searchParams.set('state', form.state);
		if (form.decision !== 'allow') {
			back.searchParams.set('error', 'access_denied');
			back.searchParams.set('error_description', 'Consent was refused on the page.');
			return reply.redirect(back.href, 303);
		}
		const code = random();
		service.codes.set(code, {
			client: form.client_id ?? '',
			user: form.user ?? 'avery',
			scope: form.scope || SCOPES.join(' '),
			redirect: form.redirect_uri ?? '',
			challenge: form.code_challenge ?? '',
			method: form.code_challenge_method ?? 'plain',
			endsAt: Date.now() + CODE_LIFE_MS
		});
		back.searchParams.set('code', code);
		back.searchParams.set('iss', origin(request));
		return reply.redirect(back.href, 303);
	});
}
