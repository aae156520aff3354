import { createHash } from 'node:crypto';
import { SignJWT } from 'jose';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { ROBOT_KEY } from '../../standins/sign-on/grants.ts';
import { createSignOn } from '../../standins/sign-on/index.ts';

let server: Awaited<ReturnType<typeof createSignOn>>;
let base: string;
beforeAll(async () => {
	server = await createSignOn();
	base = await server.listen({ host: '127.0.0.1', port: 0 });
});
afterAll(() => server.close());

type Said = Record<string, string | number | boolean>;
const basic = (user: string, word: string) => ({
	authorization: `Basic ${Buffer.from(`${user}:${word}`).toString('base64')}`
});
const reader = basic('gauge-reader', 'reed-bed-3');
async function form(path: string, fields: Record<string, string>, headers: Record<string, string> = {}) {
	const reply = await fetch(base + path, {
		method: 'POST',
		body: new URLSearchParams(fields),
		headers,
		redirect: 'manual'
	});
	const text = await reply.text();
	return { status: reply.status, reply, said: (text.startsWith('{') ? JSON.parse(text) : {}) as Said };
}
const account = async (token: unknown) =>
	(await fetch(`${base}/account`, { headers: { authorization: `Bearer ${String(token)}` } })).status;

describe('metadata', () => {
	test('names endpoints of its own issuer (RFC 8414 section 3.3)', async () => {
		const said = (await (await fetch(`${base}/.well-known/oauth-authorization-server`)).json()) as Said;
		expect(said.issuer).toBe(base);
		for (const [name, value] of Object.entries(said))
			if (name.endsWith('_endpoint')) expect(String(value).startsWith(base)).toBe(true);
	});
});

describe('tokens', () => {
	test('for a client by itself live and are no refresh', async () => {
		const { said, reply } = await form('/token', { grant_type: 'client_credentials', scope: 'gauges' }, reader);
		expect(said).toMatchObject({ token_type: 'Bearer', expires_in: 300, scope: 'gauges' });
		expect(said.refresh_token).toBeUndefined();
		expect(reply.headers.get('cache-control')).toBe('no-store');
		expect(await account(said.access_token)).toBe(200);
	});
	test('are refreshed once by each refresh token', async () => {
		const first = await form('/token', { grant_type: 'password', username: 'avery', password: 'lock-gate-9' }, reader);
		const refresh = { grant_type: 'refresh_token', refresh_token: String(first.said.refresh_token) };
		const second = await form('/token', refresh, reader);
		expect(await account(second.said.access_token)).toBe(200);
		expect((await form('/token', refresh, reader)).said).toMatchObject({ error: 'invalid_grant' });
	});
	test('are looked at and revoked', async () => {
		const { said } = await form('/token', { grant_type: 'client_credentials' }, reader);
		const token = String(said.access_token);
		expect((await form('/introspect', { token }, reader)).said).toMatchObject({
			active: true,
			client_id: 'gauge-reader'
		});
		expect((await form('/revoke', { token }, reader)).status).toBe(200);
		expect((await form('/introspect', { token }, reader)).said).toEqual({ active: false });
		expect(await account(token)).toBe(401);
	});
	test.each<[string, Record<string, string>, Record<string, string>, number, string]>([
		['a wrong secret', { grant_type: 'client_credentials' }, basic('gauge-reader', 'x'), 401, 'invalid_client'],
		['a client nobody knows', { grant_type: 'client_credentials', client_id: 'x' }, {}, 401, 'invalid_client'],
		['a grant that is not the client’s', { grant_type: 'authorization_code' }, reader, 400, 'unauthorized_client'],
		['a scope that is none', { grant_type: 'client_credentials', scope: 'weather' }, reader, 400, 'invalid_scope'],
		['a wrong password', { grant_type: 'password', username: 'avery', password: 'x' }, reader, 400, 'invalid_grant'],
		[
			'a code that is none',
			{ grant_type: 'authorization_code', code: 'x', client_id: 'workbench' },
			{},
			400,
			'invalid_grant'
		]
	])('are refused for %s', async (_, fields, headers, status, error) => {
		const answer = await form('/token', fields, headers);
		expect(answer.status).toBe(status);
		expect(answer.said.error).toBe(error);
	});
	test('are given for an assertion of the client’s key, and for no other (RFC 7523)', async () => {
		const sign = (key: string) =>
			new SignJWT({ sub: 'sluice-4' })
				.setProtectedHeader({ alg: 'HS256' })
				.setIssuer('lock-robot')
				.setAudience(`${base}/token`)
				.setExpirationTime('1 min')
				.sign(new TextEncoder().encode(key));
		const ask = async (key: string) =>
			form('/token', {
				grant_type: 'urn:ietf:params:oauth:grant-type:jwt-bearer',
				client_id: 'lock-robot',
				assertion: await sign(key)
			});
		expect((await ask(ROBOT_KEY)).status).toBe(200);
		expect((await ask('another key that is long enough too')).said.error).toBe('invalid_grant');
	});
});

describe('consent', () => {
	const redirect_uri = 'http://127.0.0.1:1/oauth/callback';
	const verifier = 'a-verifier-of-at-least-forty-three-letters-for-the-proof';
	const challenge = createHash('sha256').update(verifier).digest('base64url');
	const asked = {
		client_id: 'workbench',
		redirect_uri,
		response_type: 'code',
		state: 'abc',
		code_challenge: challenge,
		code_challenge_method: 'S256'
	};
	const decide = async (decision: string) => {
		const { reply } = await form('/authorize', { ...asked, user: 'avery', decision });
		return new URL(reply.headers.get('location')!);
	};
	const exchange = (code: string, code_verifier: string) =>
		form('/token', { grant_type: 'authorization_code', client_id: 'workbench', code, redirect_uri, code_verifier });
	test('is asked for on a page that names the client and hides nothing of markup', async () => {
		const page = await (
			await fetch(`${base}/authorize?${String(new URLSearchParams({ ...asked, scope: '<b>gauges' }))}`)
		).text();
		expect(page).toContain('May workbench act for you?');
		expect(page).not.toContain('<b>gauges');
	});
	test('gives a code with state and issuer, which is exchanged once (RFC 6749, 7636, 9207)', async () => {
		const back = await decide('allow');
		expect(back.searchParams.get('state')).toBe('abc');
		expect(back.searchParams.get('iss')).toBe(base);
		const code = back.searchParams.get('code')!;
		const first = await exchange(code, verifier);
		expect(await account(first.said.access_token)).toBe(200);
		expect((await exchange(code, verifier)).said.error).toBe('invalid_grant');
	});
	test('with a wrong verifier gives nothing', async () => {
		const code = (await decide('allow')).searchParams.get('code')!;
		expect((await exchange(code, 'not-the-verifier')).said.error).toBe('invalid_grant');
	});
	test('that is refused comes back as an error', async () => {
		expect((await decide('refuse')).searchParams.get('error')).toBe('access_denied');
	});
	test('for a client or an address nobody knows stays on the page', async () => {
		expect((await fetch(`${base}/authorize?client_id=x&redirect_uri=${redirect_uri}&response_type=code`)).status).toBe(
			400
		);
	});
});

describe('a device', () => {
	const grant_type = 'urn:ietf:params:oauth:grant-type:device_code';
	const start = async () => (await form('/device', { client_id: 'workbench' })).said;
	const ask = (device_code: unknown) =>
		form('/token', { grant_type, client_id: 'workbench', device_code: String(device_code) });
	test('waits, is told to slow down, and gets its token once (RFC 8628 section 3.5)', async () => {
		const device = await start();
		expect((await ask(device.device_code)).said.error).toBe('authorization_pending');
		expect((await ask(device.device_code)).said.error).toBe('slow_down');
		await form('/device/confirm', { user_code: String(device.user_code), decision: 'allow' });
		expect((await ask(device.device_code)).status).toBe(200);
		expect((await ask(device.device_code)).said.error).toBe('invalid_grant');
	});
	test('that is turned away hears so', async () => {
		const device = await start();
		await form('/device/confirm', { user_code: String(device.user_code), decision: 'refuse' });
		expect((await ask(device.device_code)).said.error).toBe('access_denied');
		expect((await form('/device/confirm', { user_code: '0000-0000', decision: 'allow' })).status).toBe(400);
	});
});
