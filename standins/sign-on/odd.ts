import type { FastifyInstance, FastifyReply } from 'fastify';
import { origin, random } from './grants.ts';

/** Token replies and metadata that are not what they should be. */
export function addOdd(app: FastifyInstance): void {
	const odd: Record<string, (reply: FastifyReply) => unknown> = {
		html: (reply) => reply.type('text/html').send('<!doctype html><title>Sign on</title><p>Please sign on.</p>'),
		empty: (reply) => reply.code(200).send(),
		'no-token': () => ({ token_type: 'Bearer', expires_in: 300 }),
		'text-life': () => ({ access_token: random(), token_type: 'bearer', expires_in: '300' }),
		ended: () => ({ access_token: random(), token_type: 'Bearer', expires_in: 0 }),
		broken: (reply) => reply.code(500).send({ error: 'server_error' })
	};
	for (const [kind, answer] of Object.entries(odd)) app.post(`/odd/${kind}/token`, (_, reply) => answer(reply));
	app.get('/odd/issuer/.well-known/oauth-authorization-server', (request) => ({
		issuer: 'https://other.reedmere.example',
		token_endpoint: `${origin(request)}/token`
	}));
	app.get('/.well-known/oauth-authorization-server/odd/issuer', (request) => ({
		issuer: 'https://other.reedmere.example',
		token_endpoint: `${origin(request)}/token`
	}));
}
