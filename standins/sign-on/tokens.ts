import type { FastifyInstance, FastifyRequest } from 'fastify';
import { clientOf, refuse, type Query, type SignOn } from './grants.ts';

/** What a token is worth, its end, and a resource that it opens (RFC 7662, 7009, 6750). */
export function addTokens(app: FastifyInstance, service: SignOn): void {
	app.post('/introspect', (request: FastifyRequest<{ Body: Query }>, reply) => {
		if (!clientOf(request, request.body)) return refuse(reply, 401, 'invalid_client', 'the client is not known');
		const token = service.tokens.get(request.body.token ?? '');
		if (!token || token.endsAt < Date.now()) return { active: false };
		return {
			active: true,
			client_id: token.client,
			...(token.user ? { username: token.user } : {}),
			scope: token.scope,
			exp: Math.floor(token.endsAt / 1000),
			iat: Math.floor(token.issuedAt / 1000)
		};
	});
	app.post('/revoke', (request: FastifyRequest<{ Body: Query }>, reply) => {
		if (!clientOf(request, request.body)) return refuse(reply, 401, 'invalid_client', 'the client is not known');
		service.tokens.delete(request.body.token ?? '');
		service.refreshes.delete(request.body.token ?? '');
		return reply.code(200).send();
	});

	app.get('/account', (request, reply) => {
		const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
		const token = bearer ? service.tokens.get(bearer) : undefined;
		if (token && token.endsAt > Date.now())
			return { user: token.user || null, client: token.client, scope: token.scope };
		void reply.header('www-authenticate', `Bearer realm="sign-on"${bearer ? ', error="invalid_token"' : ''}`);
		return refuse(reply, 401, 'invalid_token', bearer ? 'the token is not known or has ended' : 'a token is wanted');
	});
	/** A gate that no token opens. */
	app.get('/never', (_, reply) => {
		void reply.header('www-authenticate', 'Bearer realm="sign-on", error="invalid_token"');
		return reply.code(401).send({ error: 'invalid_token' });
	});
	app.get('/count', () => ({ given: service.given }));
}
