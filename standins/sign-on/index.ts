import Fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify';
import { jwtVerify } from 'jose';
import { createHash, randomBytes, randomInt } from 'node:crypto';
import { consentPage, devicePage, plainPage } from './pages.ts';

interface Client {
	secret?: string;
	grants: string[];
	/** Seconds. */
	life: number;
}

const JWT_BEARER = 'urn:ietf:params:oauth:grant-type:jwt-bearer';
/** What assertions are signed with (RFC 7523). */
export const ROBOT_KEY = 'the-lock-robot-never-sleeps-by-the-weir';
const DEVICE = 'urn:ietf:params:oauth:grant-type:device_code';

/** Who may ask for tokens; public, as everything about a stand-in is. */
const CLIENTS: Record<string, Client> = {
	workbench: { grants: ['authorization_code', 'refresh_token', DEVICE], life: 300 },
	'gauge-reader': { secret: 'reed-bed-3', grants: ['client_credentials', 'refresh_token', 'password'], life: 300 },
	'lock-robot': { grants: [JWT_BEARER], life: 300 },
	// its tokens end before a run does
	'tide-clock': { secret: 'neap-and-spring', grants: ['client_credentials'], life: 3 }
};
const USERS: Record<string, string> = { avery: 'lock-gate-9', blake: 'lock-gate-9' };
const SCOPES = ['moorings', 'gauges', 'tolls'];
const CODE_LIFE_MS = 60_000;
const DEVICE_LIFE_MS = 600_000;

interface Grant {
	client: string;
	user: string;
	scope: string;
}
type Query = Record<string, string | undefined>;

const random = (bytes = 18) => randomBytes(bytes).toString('base64url');

/** An authorization server (RFC 6749, 7636, 7009, 7662, 8414, 8628) and a resource that it protects. */
export async function createSignOn(): Promise<FastifyInstance> {
	const codes = new Map<string, Grant & { redirect: string; challenge: string; method: string; endsAt: number }>();
	const tokens = new Map<string, Grant & { endsAt: number; issuedAt: number }>();
	const refreshes = new Map<string, Grant>();
	const devices = new Map<
		string,
		Grant & { userCode: string; state: 'pending' | 'granted' | 'refused'; endsAt: number; askedAt: number }
	>();
	/** How many tokens were given: parallel renewals can be counted. */
	let given = 0;

	const app = Fastify({ forceCloseConnections: true, routerOptions: { ignoreTrailingSlash: true } });
	app.addContentTypeParser('application/x-www-form-urlencoded', { parseAs: 'string' }, (_, body, done) =>
		done(null, Object.fromEntries(new URLSearchParams(String(body))))
	);
	const origin = (request: FastifyRequest) => `http://${request.headers.host}`;
	const refuse = (reply: FastifyReply, status: number, error: string, description: string) => {
		if (status === 401) void reply.header('www-authenticate', 'Basic realm="sign-on"');
		return reply.code(status).header('cache-control', 'no-store').send({ error, error_description: description });
	};

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

	const clientOf = (request: FastifyRequest, form: Query): { id: string; client: Client } | undefined => {
		const header = /^Basic (.+)$/.exec(request.headers.authorization ?? '')?.[1];
		const [user = '', password = ''] = header ? Buffer.from(header, 'base64').toString().split(':') : [];
		const id = header ? decodeURIComponent(user) : (form.client_id ?? '');
		const secret = header ? decodeURIComponent(password) : form.client_secret;
		const client = Object.hasOwn(CLIENTS, id) ? CLIENTS[id] : undefined;
		return client && client.secret === secret ? { id, client } : undefined;
	};

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
		codes.set(code, {
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

	const issue = (grant: Grant, reply: FastifyReply, refreshable: boolean) => {
		const token = random(24);
		const { life } = CLIENTS[grant.client]!;
		tokens.set(token, { ...grant, issuedAt: Date.now(), endsAt: Date.now() + life * 1000 });
		given += 1;
		const refresh = refreshable ? random(24) : undefined;
		if (refresh) refreshes.set(refresh, grant);
		return reply.header('cache-control', 'no-store').send({
			access_token: token,
			token_type: 'Bearer',
			expires_in: life,
			scope: grant.scope,
			...(refresh ? { refresh_token: refresh } : {}),
			// beyond the standard, as many servers send more
			harbour: 'Reedmere Basin'
		});
	};

	app.post('/token', async (request: FastifyRequest<{ Body: Query }>, reply) => {
		const form = request.body ?? {};
		const found = clientOf(request, form);
		if (!found) return refuse(reply, 401, 'invalid_client', 'the client is not known, or its secret is wrong');
		const { id, client } = found;
		const grant = form.grant_type ?? '';
		if (!client.grants.includes(grant))
			return refuse(reply, 400, 'unauthorized_client', `${id} may not use the grant ${grant || '(none)'}`);
		const scope = form.scope || SCOPES.join(' ');
		const unknown = scope.split(' ').find((one) => !SCOPES.includes(one));
		if (unknown) return refuse(reply, 400, 'invalid_scope', `there is no scope ${unknown}`);
		if (grant === 'client_credentials') return issue({ client: id, user: '', scope }, reply, false);
		if (grant === 'password') {
			if (!form.username || !Object.hasOwn(USERS, form.username) || USERS[form.username] !== form.password)
				return refuse(reply, 400, 'invalid_grant', 'user or password is wrong');
			return issue({ client: id, user: form.username, scope }, reply, true);
		}
		if (grant === 'refresh_token') {
			const kept = refreshes.get(form.refresh_token ?? '');
			if (!kept || kept.client !== id) return refuse(reply, 400, 'invalid_grant', 'the refresh token is not known');
			// they are rotated: each one serves once
			refreshes.delete(form.refresh_token!);
			return issue(kept, reply, true);
		}
		if (grant === DEVICE) {
			const device = devices.get(form.device_code ?? '');
			if (!device || device.client !== id) return refuse(reply, 400, 'invalid_grant', 'the device code is not known');
			const early = Date.now() - device.askedAt < 900;
			device.askedAt = Date.now();
			if (device.endsAt < Date.now()) return refuse(reply, 400, 'expired_token', 'the device code has ended');
			if (device.state === 'refused') return refuse(reply, 400, 'access_denied', 'consent was refused');
			if (device.state === 'pending')
				return refuse(reply, 400, early ? 'slow_down' : 'authorization_pending', 'nobody has confirmed the code yet');
			devices.delete(form.device_code!);
			return issue(device, reply, true);
		}
		if (grant === JWT_BEARER) {
			try {
				const { payload } = await jwtVerify(form.assertion ?? '', new TextEncoder().encode(ROBOT_KEY), {
					audience: `${origin(request)}/token`,
					issuer: id
				});
				return issue({ client: id, user: payload.sub ?? '', scope }, reply, false);
			} catch (error) {
				return refuse(reply, 400, 'invalid_grant', `the assertion is of no use: ${(error as Error).message}`);
			}
		}
		const code = codes.get(form.code ?? '');
		codes.delete(form.code ?? '');
		if (!code || code.client !== id || code.redirect !== form.redirect_uri || code.endsAt < Date.now())
			return refuse(reply, 400, 'invalid_grant', 'the code is not known, was used, or has ended');
		const verifier = form.code_verifier ?? '';
		const proof = code.method === 'S256' ? createHash('sha256').update(verifier).digest('base64url') : verifier;
		if (proof !== code.challenge) return refuse(reply, 400, 'invalid_grant', 'the code verifier does not fit');
		return issue(code, reply, true);
	});

	app.post('/device', (request: FastifyRequest<{ Body: Query }>, reply) => {
		const form = request.body ?? {};
		const found = clientOf(request, form);
		if (!found?.client.grants.includes(DEVICE)) return refuse(reply, 401, 'invalid_client', 'the client is not known');
		const code = random();
		const userCode = `${randomInt(1000, 9999)}-${randomInt(1000, 9999)}`;
		devices.set(code, {
			client: found.id,
			user: 'avery',
			scope: form.scope || SCOPES.join(' '),
			userCode,
			state: 'pending',
			endsAt: Date.now() + DEVICE_LIFE_MS,
			askedAt: 0
		});
		const page = `${origin(request)}/device/confirm`;
		return {
			device_code: code,
			user_code: userCode,
			verification_uri: page,
			verification_uri_complete: `${page}?user_code=${userCode}`,
			expires_in: DEVICE_LIFE_MS / 1000,
			interval: 1
		};
	});
	app.get('/device/confirm', (request: FastifyRequest<{ Querystring: Query }>, reply) =>
		reply.type('text/html; charset=utf-8').send(devicePage(request.query.user_code ?? ''))
	);
	app.post('/device/confirm', (request: FastifyRequest<{ Body: Query }>, reply) => {
		const device = [...devices.values()].find((one) => one.userCode === request.body.user_code);
		void reply.type('text/html; charset=utf-8');
		if (!device) return reply.code(400).send(plainPage('This code is not known', 'It may have ended.'));
		device.state = request.body.decision === 'allow' ? 'granted' : 'refused';
		return plainPage(device.state === 'granted' ? 'The device is signed in' : 'The device is turned away', '');
	});

	app.post('/introspect', (request: FastifyRequest<{ Body: Query }>, reply) => {
		if (!clientOf(request, request.body)) return refuse(reply, 401, 'invalid_client', 'the client is not known');
		const token = tokens.get(request.body.token ?? '');
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
		tokens.delete(request.body.token ?? '');
		refreshes.delete(request.body.token ?? '');
		return reply.code(200).send();
	});

	app.get('/account', (request, reply) => {
		const bearer = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
		const token = bearer ? tokens.get(bearer) : undefined;
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
	app.get('/count', () => ({ given }));

	// token replies that are not what they should be
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
	app.get('/', () => ({ title: 'Sign-on of Reedmere Waterways' }));
	return app;
}
