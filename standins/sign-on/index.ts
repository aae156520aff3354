import Fastify, { type FastifyInstance } from 'fastify';
import { addConsent } from './consent.ts';
import { addDevices } from './device.ts';
import { DEVICE, JWT_BEARER, origin, SCOPES, type SignOn } from './grants.ts';
import { addOdd } from './odd.ts';
import { addTokenEndpoint } from './token.ts';
import { addTokens } from './tokens.ts';

/** An authorization server (RFC 6749, 7636, 7009, 7662, 8414, 8628) and a resource that it protects. */
export async function createSignOn(): Promise<FastifyInstance> {
	const service: SignOn = { codes: new Map(), tokens: new Map(), refreshes: new Map(), devices: new Map(), given: 0 };
	const app = Fastify({ forceCloseConnections: true, routerOptions: { ignoreTrailingSlash: true } });
	app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_, body, done) =>
		done(null, Object.fromEntries(new URLSearchParams(String(body))))
	);

	app.get('/.well-known/oauth-authorization-server', (request) => ({
		issuer: origin(request),
		authorization_endpoint: `${origin(request)}/authorize`,
		token_endpoint: `${origin(request)}/token`,
		device_authorization_endpoint: `${origin(request)}/device`,
		introspection_endpoint: `${origin(request)}/introspect`,
		revocation_endpoint: `${origin(request)}/revoke`,
		response_types_supported: ['code'],
		grant_types_supported: [
			'authorization_code',
			'client_credentials',
			'refresh_token',
			'password',
			DEVICE,
			JWT_BEARER
		],
		code_challenge_methods_supported: ['S256', 'plain'],
		token_endpoint_auth_methods_supported: ['client_secret_basic', 'client_secret_post', 'none'],
		scopes_supported: SCOPES
	}));

	addConsent(app, service);
	addTokenEndpoint(app, service);
	addDevices(app, service);
	addTokens(app, service);
	addOdd(app);
	app.get('/', () => ({ title: 'Sign-on of Reedmere Waterways' }));
	return app;
}
