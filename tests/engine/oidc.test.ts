import { createFlow, createTokenKeeper } from '#core/auth/index.ts';
import { createEngine } from '#server/engine/index.ts';
import { generateKeyPairSync, randomBytes } from 'node:crypto';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import Provider from 'oidc-provider';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { toolsOf } from '../support/credential.ts';
import { callsOf, runAll, steps } from '../support/project.ts';

// an authorization server that nobody here wrote
let server: http.Server;
let api: http.Server;
let issuer: string;
let base: string;
const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
const REDIRECT = 'http://127.0.0.1/oauth/callback';
const secret = randomBytes(16).toString('hex');

beforeAll(async () => {
	server = http.createServer();
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
	const jwk = { ...publicKey.export({ format: 'jwk' }), use: 'sig', kid: 'k1' };
	const client = (client_id: string, more: object) => ({
		client_id,
		grant_types: ['client_credentials'],
		response_types: [],
		redirect_uris: [],
		scope: 'gauges',
		...more
	});
	const provider = new Provider(issuer, {
		clients: [
			client('by-basic', { client_secret: secret, token_endpoint_auth_method: 'client_secret_basic' }),
			client('by-post', { client_secret: secret, token_endpoint_auth_method: 'client_secret_post' }),
			{
				client_id: 'by-hand',
				token_endpoint_auth_method: 'none',
				grant_types: ['authorization_code', 'refresh_token'],
				response_types: ['code'],
				application_type: 'native',
				redirect_uris: [REDIRECT],
				scope: 'openid offline_access gauges'
			},
			client('by-hmac', { client_secret: secret, token_endpoint_auth_method: 'client_secret_jwt' }),
			client('by-key', { token_endpoint_auth_method: 'private_key_jwt', jwks: { keys: [jwk] } })
		] as never,
		scopes: ['openid', 'offline_access', 'gauges'],
		cookies: { keys: ['a-key-of-the-test'] },
		features: {
			clientCredentials: { enabled: true },
			introspection: { enabled: true },
			revocation: { enabled: true },
			devInteractions: { enabled: true }
		}
	});
	server.on('request', provider.callback());
	// a resource that asks the provider about each token
	api = http.createServer((request, response) => {
		const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
		void fetch(`${issuer}/token/introspection`, {
			method: 'POST',
			headers: { authorization: `Basic ${Buffer.from(`by-basic:${secret}`).toString('base64')}` },
			body: new URLSearchParams({ token })
		})
			.then((reply) => reply.json())
			.then((said) => {
				const { active, client_id } = said as { active: boolean; client_id?: string };
				response.writeHead(active ? 200 : 401, { 'content-type': 'application/json' });
				response.end(JSON.stringify({ client: client_id ?? null }));
			});
	});
	await new Promise<void>((resolve) => api.listen(0, '127.0.0.1', resolve));
	base = `http://127.0.0.1:${(api.address() as AddressInfo).port}`;
});
afterAll(() => {
	server?.close();
	api?.close();
});

describe('against oidc-provider', () => {
	test.each<[string, object]>([
		['client secret by basic', { clientId: 'by-basic', clientSecret: '{$secret.client}' }],
		['client secret by post', { clientId: 'by-post', clientSecret: '{$secret.client}', clientAuth: 'post' }],
		['client_secret_jwt', { clientId: 'by-hmac', clientSecret: '{$secret.client}', clientAuth: 'client-secret-jwt' }],
		['private_key_jwt', { clientId: 'by-key', clientAuth: 'private-key-jwt', key: '{$secret.pem}', keyId: 'k1' }]
	])('%s, discovered by its metadata', async (_, credential) => {
		const tokens = createTokenKeeper();
		const [result] = await runAll({
			connections: { one: { base } },
			credentials: {
				me: { kind: 'oauth2', grant: 'client-credentials', issuer, scope: 'gauges', ...credential }
			},
			collections: { c: steps([{ send: 'GET /gauges', checks: [{ status: 200 }] }], { credential: 'me' }) },
			secrets: { client: secret, pem: privateKey.export({ type: 'pkcs8', format: 'pem' }) as string },
			tokens
		});
		expect(result!.error).toBeUndefined();
		expect(callsOf(result!).at(-1)).toBe('200');
		expect(result!.outcome).toBe('passed');
		expect(tokens.read('me', '')!.endsAt).toBeGreaterThan(Date.now());
	});
	test('a wrong secret is refused in its words', async () => {
		const [result] = await runAll({
			connections: { one: { base } },
			credentials: {
				me: {
					kind: 'oauth2',
					grant: 'client-credentials',
					issuer,
					clientId: 'by-basic',
					clientSecret: '{$secret.client}'
				}
			},
			collections: { c: steps([{ send: 'GET /gauges' }], { credential: 'me' }) },
			secrets: { client: 'not-the-secret' }
		});
		expect(result!.error!.message).toMatch(/invalid_client/);
	});
	test('a way of proof that the server does not know is named, with those that it takes', async () => {
		const [result] = await runAll({
			connections: { one: { base } },
			credentials: {
				me: { kind: 'oauth2', grant: 'client-credentials', issuer, clientId: 'by-basic', clientAuth: 'mutual-tls' }
			},
			collections: { c: steps([{ send: 'GET /gauges' }], { credential: 'me' }) }
		});
		expect(result!.error!.message).toMatch(/takes .*client_secret_basic.*, and tls_client_auth was used/);
	});
	test('an issuer that has no metadata is told with the addresses that were asked', async () => {
		const [result] = await runAll({
			connections: { one: { base } },
			credentials: { me: { kind: 'oauth2', grant: 'client-credentials', issuer: `${base}/tenant`, clientId: 'x' } },
			collections: { c: steps([{ send: 'GET /gauges' }], { credential: 'me' }) }
		});
		expect(result!.error!.message).toContain(`${base}/.well-known/oauth-authorization-server/tenant`);
		expect(result!.error!.message).toContain(`${base}/tenant/.well-known/openid-configuration`);
	});
	test('a consent by hand, with PKCE, the exchange, and a refresh', async () => {
		const engine = createEngine();
		const ports = engine.ports({ seed: 1 });
		const session = ports.openSession();
		const { tools } = toolsOf({
			now: Date.now(),
			async leg(title, request) {
				const { exchanges } = await ports.send(request, session, undefined);
				return { ...exchanges.at(-1)!, leg: title };
			}
		});
		const given = { grant: 'authorization-code', issuer, clientId: 'by-hand', scope: 'openid offline_access gauges' };
		const flow = createFlow({ ...given, authorizeExtra: { prompt: 'consent' } }, tools, REDIRECT);
		const leg = (key: string) => flow.view().legs.find((one) => one.key === key)!;
		await flow.act('metadata');
		await flow.act('consent');
		const back = await consent(leg('consent').link!);
		await flow.callback(back.slice(back.indexOf('?') + 1));
		await flow.act('token');
		expect(leg('token').error).toBeUndefined();
		const first = flow.view().token!.reply;
		expect(first).toMatchObject({ token_type: 'Bearer', scope: given.scope });
		await flow.act('refresh');
		expect(leg('refresh').error).toBeUndefined();
		expect(flow.view().token!.reply.access_token).not.toBe(first.access_token);
		// the code serves once
		await flow.act('token');
		expect(leg('token').error).toMatch(/used/);
		engine.close();
	});
});

/** What a person does in the browser: signs in, agrees, and is sent back. Gives the address they are sent to. */
async function consent(link: string): Promise<string> {
	const jar = new Map<string, string>();
	const ask = async (url: string, form?: Record<string, string>) => {
		const reply = await fetch(url, {
			redirect: 'manual',
			headers: { cookie: [...jar].map(([name, value]) => `${name}=${value}`).join('; ') },
			...(form ? { method: 'POST', body: new URLSearchParams(form) } : {})
		});
		for (const line of reply.headers.getSetCookie()) {
			const [, name = '', value = ''] = /^([^=]+)=([^;]*)/.exec(line) ?? [];
			jar.set(name, value);
		}
		return { reply, to: new URL(reply.headers.get('location') ?? '', url).href };
	};
	let url = link;
	for (let hop = 0; hop < 12; hop++) {
		const { reply, to } = await ask(url);
		if (reply.status >= 300 && reply.status < 400) {
			if (to.startsWith(REDIRECT)) return to;
			url = to;
			continue;
		}
		const page = await reply.text();
		const prompt = /name="prompt" value="(\w+)"/.exec(page)?.[1] ?? '';
		const done = await ask(url, { prompt, ...(prompt === 'login' ? { login: 'avery', password: 'x' } : {}) });
		url = done.to;
	}
	throw new Error('the consent never ends');
}
