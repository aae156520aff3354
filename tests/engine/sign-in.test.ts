import { createTokenKeeper } from '#core/auth/index.ts';
import { headerValue } from '#core/model/reply.ts';
import { createEngine } from '#server/engine/index.ts';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { authorityPem, makeIdentity } from '../../standins/gatehouse/certificates.ts';
import { GATE, WARDEN } from '../../standins/gatehouse/answers.ts';
import { startStandins } from '../../standins/index.ts';
import { ROBOT_KEY } from '../../standins/sign-on/grants.ts';
import { readFileSync } from 'node:fs';
import { shutKeys } from '../support/shut-keys.ts';
import { callsOf, runAll, steps, type Given } from '../support/project.ts';

let standins: Awaited<ReturnType<typeof startStandins>>;
const at = (name: string) => standins.list.find((one) => one.name === name)!.address;
beforeAll(async () => {
	standins = await startStandins(0);
});
afterAll(() => standins.close());

const secrets = {
	word: WARDEN.password,
	reader: 'reed-bed-3',
	tide: 'neap-and-spring',
	gate: GATE.secret,
	key: GATE.key
};
const gatehouse = () => ({
	base: at('gatehouse'),
	tls: { authorities: ['files/authority.pem'] }
});
const warden = readFileSync(new URL('../../demo/reedmere/files/gatehouse/warden.p12', import.meta.url));
const files = { 'files/authority.pem': authorityPem };
const reader = (more: object = {}) => ({
	kind: 'oauth2',
	grant: 'client-credentials',
	issuer: at('sign-on'),
	clientId: 'gauge-reader',
	clientSecret: '{$secret.reader}',
	...more
});
const account = (credential: object, more: Partial<Given> = {}, calls: object[] = [{ send: 'GET /account' }]) =>
	runAll({
		connections: { one: { base: at('sign-on'), credential: 'me' } },
		credentials: { me: credential },
		collections: { c: steps(calls) },
		secrets,
		...more
	});

describe('credentials against the gatehouse', () => {
	const digest = { kind: 'digest', user: WARDEN.user, password: '{$secret.word}' };
	test.each([
		[
			'digest, with a body under auth-int',
			{ ...digest, qop: 'auth-int' },
			'POST /digest',
			200,
			['asked who we are 401', '200']
		],
		['digest, MD5', digest, 'GET /digest?algorithm=MD5', 200, ['asked who we are 401', '200']],
		['digest, MD5-sess', digest, 'GET /digest?algorithm=MD5-sess', 200, ['asked who we are 401', '200']],
		['digest, SHA-256-sess', digest, 'GET /digest?algorithm=SHA-256-sess', 200, ['asked who we are 401', '200']],
		[
			'digest, a wrong password: asked once, not for ever',
			{ ...digest, password: '{$secret.gate}' },
			'GET /digest',
			401,
			['asked who we are 401', '401']
		],
		[
			'api-key in the query',
			{ kind: 'api-key', in: 'query', name: 'key', key: '{$secret.key}' },
			'GET /key',
			200,
			['200']
		],
		['api-key in a header', { kind: 'api-key', name: 'X-API-Key', key: '{$secret.key}' }, 'GET /key', 200, ['200']],
		[
			'message-signature with a body',
			{ kind: 'message-signature', algorithm: 'hmac-sha256', key: '{$secret.gate}', keyId: 'gate' },
			'POST /message-signature?a=1',
			200,
			['200']
		]
	])('%s', async (_, credential, send, status, calls) => {
		const body = send.startsWith('POST') ? { body: { json: { lock: 'mill' } } } : {};
		const [result] = await runAll({
			connections: { one: gatehouse() },
			credentials: { me: credential },
			collections: { c: steps([{ send, ...body }], { credential: 'me' }) },
			files,
			secrets
		});
		expect(result!.error).toBeUndefined();
		expect(callsOf(result!)).toEqual(calls);
		expect(result!.exchanges.at(-1)!.reply!.status).toBe(status);
	});
	test('digest goes on with its nonce, and takes a new one when it has become stale', async () => {
		const results = await runAll({
			connections: { one: gatehouse() },
			credentials: { me: digest },
			collections: {
				c: steps(
					Array.from({ length: 5 }, () => ({ send: 'GET /digest' })),
					{ credential: 'me' }
				)
			},
			files,
			secrets
		});
		expect(results.map((result) => callsOf(result).join())).toEqual([
			'asked who we are 401,200',
			'200',
			'200',
			'asked who we are 401,200',
			'200'
		]);
	});
});

describe('credentials on a redirect', () => {
	const call = (more: object) =>
		runAll({
			connections: { one: { ...gatehouse(), ...more } },
			credentials: { me: { kind: 'basic', user: WARDEN.user, password: '{$secret.word}' } },
			collections: { c: steps([{ send: 'GET /elsewhere' }], { credential: 'me' }) },
			files,
			secrets
		});
	const seen = (result: Awaited<ReturnType<typeof runAll>>[number]) =>
		(JSON.parse(Buffer.from(result.exchanges.at(-1)!.reply!.body).toString()) as { headers: Record<string, string> })
			.headers;
	test('are dropped on another host, and that is said', async () => {
		const [result] = await call({});
		expect(seen(result!).authorization).toBeUndefined();
		expect(result!.exchanges[0]!.notes?.join()).toMatch(/another host: the credential/);
	});
	test('go along where the connection says so', async () => {
		const [result] = await call({ redirects: { follow: 5, keepCredentials: true } });
		expect(seen(result!).authorization).toMatch(/^Basic /);
	});
	test('a connection’s credential is not for an absolute address', async () => {
		const [result] = await runAll({
			connections: { one: { ...gatehouse(), credential: 'me' } },
			credentials: { me: { kind: 'basic', user: WARDEN.user, password: '{$secret.word}' } },
			collections: { c: steps([{ send: `GET ${at('mirror')}/notes` }]) },
			files,
			secrets
		});
		expect(headerValue(result!.exchanges[0]!.requestHeaders, 'authorization')).toBeUndefined();
	});
});

describe('OAuth 2.0 against the sign-on', () => {
	test('a token is fetched first, and used by the steps that follow', async () => {
		const results = await account(reader(), {}, [{ send: 'GET /account' }, { send: 'GET /account' }]);
		expect(results.map(callsOf)).toEqual([['metadata 200', 'token request 200', '200'], ['200']]);
	});
	test.each<[string, () => object]>([
		['client-credentials by post', () => reader({ clientAuth: 'post' })],
		['password', () => reader({ grant: 'password', user: 'avery', password: '{$secret.clerk}' })],
		[
			'JWT bearer',
			() => ({
				...{ kind: 'oauth2', grant: 'jwt-bearer', issuer: at('sign-on'), clientId: 'lock-robot' },
				...{
					key: '{$secret.robot}',
					keyAlgorithm: 'HS256',
					assertion: { sub: 'sluice-4', aud: `${at('sign-on')}/token` }
				}
			})
		],
		['endpoints by hand', () => ({ ...reader(), issuer: '', tokenEndpoint: `${at('sign-on')}/token` })]
	])('%s', async (_, credential) => {
		const [result] = await account(credential(), { secrets: { ...secrets, clerk: 'lock-gate-9', robot: ROBOT_KEY } });
		expect(result!.error).toBeUndefined();
		expect(result!.exchanges.at(-1)!.reply!.status).toBe(200);
	});
	test('the client proves itself by its certificate, over a connection of its own', async () => {
		const [result] = await runAll({
			connections: {
				one: gatehouse(),
				way: {
					base: at('gatehouse-mutual'),
					tls: {
						authorities: ['files/authority.pem'],
						client: { pkcs12: 'files/warden.p12', passphrase: '{$secret.phrase}' }
					}
				}
			},
			credentials: {
				me: {
					...{ kind: 'oauth2', grant: 'client-credentials', tokenEndpoint: `${at('gatehouse-mutual')}/token` },
					...{ clientId: 'warden', clientAuth: 'mutual-tls', connection: 'way' }
				}
			},
			collections: { c: steps([{ send: 'GET /bearer' }], { credential: 'me' }) },
			files: { ...files, 'files/warden.p12': warden },
			secrets: { phrase: 'sluice-gate-2' }
		});
		expect(result!.error).toBeUndefined();
		expect(callsOf(result!)).toEqual(['token request 200', '200']);
	});
	test('many steps in parallel fetch and renew one token', async () => {
		const count = async () => ((await (await fetch(`${at('sign-on')}/count`)).json()) as { given: number }).given;
		const before = await count();
		const tokens = createTokenKeeper();
		const scenario = (id: string) => ({ id, steps: [{ id: 'a', send: 'GET /account' }] });
		const given: Given = {
			connections: { one: { base: at('sign-on'), credential: 'me' } },
			credentials: { me: reader({ clientId: 'tide-clock', clientSecret: '{$secret.tide}', renewBefore: '1 s' }) },
			collections: { c: { connection: 'one', scenarios: Array.from({ length: 12 }, (_, i) => scenario(`s${i}`)) } },
			secrets,
			tokens
		};
		const first = await runAll(given, 12);
		expect(first.every((result) => result.exchanges.at(-1)!.reply!.status === 200)).toBe(true);
		expect(await count()).toBe(before + 1);
		// the tokens of this client live three seconds, and are renewed a second before
		await new Promise((resolve) => setTimeout(resolve, 2200));
		const second = await runAll(given, 12);
		expect(second.every((result) => result.exchanges.at(-1)!.reply!.status === 200)).toBe(true);
		expect(await count()).toBe(before + 2);
	});
	test('a token that is refused is renewed once; a 401 that never ends ends', async () => {
		const tokens = createTokenKeeper();
		const engine = createEngine();
		const [first] = await account(reader(), { tokens, engine });
		const old = JSON.stringify(tokens.read('me', ''));
		expect(first!.exchanges.at(-1)!.reply!.status).toBe(200);
		const [never] = await account(reader(), { tokens, engine }, [{ send: 'GET /never' }]);
		expect(callsOf(never!)).toEqual(['asked who we are 401', 'metadata 200', 'token request 200', '401']);
		expect(JSON.stringify(tokens.read('me', ''))).not.toBe(old);
		engine.close();
	});
	test('a revoked token is replaced in the same step', async () => {
		const tokens = createTokenKeeper();
		await account(reader(), { tokens });
		const token = String(tokens.read('me', '')!.reply.access_token);
		const form = new URLSearchParams({ token, client_id: 'gauge-reader', client_secret: 'reed-bed-3' });
		await fetch(`${at('sign-on')}/revoke`, { method: 'POST', body: form });
		const [result] = await account(reader(), { tokens });
		expect(callsOf(result!).slice(-1)).toEqual(['200']);
		expect(callsOf(result!)[0]).toBe('asked who we are 401');
	});
	test.each(['query', 'body'])('a token in the %s that is refused is replaced, and not sent twice', async (place) => {
		const tokens = createTokenKeeper();
		const given = { connections: { one: { base: at('mirror') } }, tokens };
		const form = { body: { form: { a: '1' } } };
		const call = (path: string) =>
			account(
				reader({ in: place }),
				given,
				[{ send: `POST ${path}`, ...(place === 'body' ? form : {}) }].map((step) => ({ ...step, credential: 'me' }))
			);
		const [fine] = await call('/notes');
		const seen = JSON.parse(Buffer.from(fine!.exchanges.at(-1)!.reply!.body).toString()) as {
			target: string;
			body: string;
		};
		expect(`${seen.target} ${seen.body}`.match(/access_token=/g)).toHaveLength(1);
		const [refused] = await call('/status/401');
		const again = JSON.parse(Buffer.from(refused!.exchanges.at(-1)!.reply!.body).toString()) as typeof seen;
		expect(callsOf(refused!).filter((one) => one.includes('401'))).toHaveLength(2);
		expect(`${again.target} ${again.body}`.match(/access_token=/g)).toHaveLength(1);
	});
	test('a further field of the token’s reply is a value of the step', async () => {
		const [result] = await account(reader(), {}, [{ send: 'GET /account?harbour={$token.harbour}' }]);
		expect(result!.exchanges.at(-1)!.url).toContain('harbour=Reedmere%20Basin');
	});
	test('in a pipeline an interactive grant uses a refresh token, or says what to do', async () => {
		const avery = { kind: 'oauth2', grant: 'authorization-code', issuer: at('sign-on'), clientId: 'workbench' };
		const [without] = await account(avery);
		expect(without!.outcome).toBe('error');
		expect(without!.error!.message).toMatch(/refreshToken/);
		// a refresh token as somebody would get it once by hand
		const form = new URLSearchParams({ grant_type: 'password', username: 'avery', password: 'lock-gate-9' });
		const headers = { authorization: `Basic ${Buffer.from('gauge-reader:reed-bed-3').toString('base64')}` };
		const reply = (await (await fetch(`${at('sign-on')}/token`, { method: 'POST', body: form, headers })).json()) as {
			refresh_token: string;
		};
		const [withOne] = await account(reader({ grant: 'authorization-code', refreshToken: '{$secret.refresh}' }), {
			secrets: { ...secrets, refresh: reply.refresh_token }
		});
		expect(withOne!.exchanges.at(-1)!.reply!.status).toBe(200);
	});
});

describe('odd token replies', () => {
	const odd = (kind: string) =>
		account({ ...reader(), issuer: '', tokenEndpoint: `${at('sign-on')}/odd/${kind}/token` });
	test.each([
		['html', /HTML|page/i],
		['empty', /without a body/],
		['no-token', /access_token/],
		['broken', /server_error|500/]
	])('%s is refused, and says what came', async (kind, words) => {
		const [result] = await odd(kind);
		expect(result!.outcome).toBe('error');
		expect(result!.error!.message).toMatch(words);
		expect(result!.error!.message).toContain('me');
		// the leg is there to be read
		expect(result!.exchanges.some((exchange) => exchange.leg === 'token request')).toBe(true);
	});
	test('a lifetime as text and a token type in small letters are forgiven, and noted', async () => {
		const [result] = await odd('text-life');
		// the token is not one that the server knows: it was used all the same
		expect(callsOf(result!).at(-1)).toBe('401');
		expect(JSON.stringify(result!.exchanges.map((exchange) => exchange.notes ?? []))).toMatch(/expires_in/);
	});
	test('a token that has ended when it comes is not asked for without end', async () => {
		const [result] = await odd('ended');
		expect(result!.exchanges.length).toBeLessThan(5);
		expect(callsOf(result!).at(-1)).toBe('401');
	});
	test('metadata of another issuer is refused', async () => {
		const [result] = await account(reader({ issuer: `${at('sign-on')}/odd/issuer` }));
		expect(result!.error!.message).toMatch(/other\.reedmere\.example/);
	});
	test('a wrong client secret says so in the server’s words', async () => {
		const [result] = await account(reader({ clientSecret: '{$secret.word}' }));
		expect(result!.error!.message).toMatch(/invalid_client/);
	});
	test('a secret that is not set names itself, and nothing is sent', async () => {
		const [result] = await account(reader({ clientSecret: '{$secret.nobody}' }), {});
		expect(result!.error!.message).toMatch(/\$secret\.nobody/);
		expect(result!.exchanges).toEqual([]);
	});
});

describe('a refresh token that the server gives anew each time (RFC 9700 section 4.14.2)', () => {
	test('is used from then on, within a run and where tokens are kept, and the change is noted', async () => {
		let turn = 0;
		const used: string[] = [];
		const server = http.createServer((request, response) => {
			let body = '';
			request
				.on('data', (data) => (body += String(data)))
				.on('end', () => {
					const json = (status: number, value: object) =>
						response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(value));
					if (request.url !== '/token') {
						const fresh = request.headers.authorization === `Bearer access-number-${turn}`;
						// each token serves once
						return void json(fresh ? 200 : 401, {}).once('finish', () => fresh && turn++);
					}
					const refresh = new URLSearchParams(body).get('refresh_token')!;
					used.push(refresh);
					if (refresh !== (used.length === 1 ? 'refresh-of-the-vault' : `refresh-number-${used.length - 1}`))
						return void json(400, { error: 'invalid_grant' });
					json(200, {
						access_token: `access-number-${turn}`,
						token_type: 'Bearer',
						refresh_token: `refresh-number-${used.length}`
					});
				});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
		const tokens = createTokenKeeper();
		const given = {
			connections: { one: { base } },
			credentials: {
				me: {
					...{ kind: 'oauth2', grant: 'refresh-token', tokenEndpoint: `${base}/token`, clientId: 'c' },
					refreshToken: '{$secret.refresh}'
				}
			},
			collections: { c: steps([{ send: 'GET /a' }, { send: 'GET /a' }], { credential: 'me' }) },
			secrets: { refresh: 'refresh-of-the-vault' },
			tokens
		};
		const first = await runAll(given);
		expect(first.map(callsOf)).toEqual([
			['token request 200', '200'],
			['asked who we are 401', 'token request 200', '200']
		]);
		expect(first[0]!.exchanges[0]!.notes?.join()).toContain(
			'another refresh token in place of the one in refreshToken'
		);
		const again = await runAll(given);
		expect(again.map((result) => callsOf(result).at(-1))).toEqual(['200', '200']);
		expect(used).toEqual(['refresh-of-the-vault', ...[1, 2, 3].map((n) => `refresh-number-${n}`)]);
		server.close();
	});
});

describe('certificates that are of no use', () => {
	const call = (client: object, more: Record<string, string | Uint8Array>) =>
		runAll({
			connections: { one: { base: at('gatehouse-mutual'), tls: { authorities: ['files/authority.pem'], client } } },
			collections: { c: steps([{ send: 'GET /health' }]) },
			files: { ...files, ...more },
			secrets
		});
	const pair = { certificate: 'files/a.pem', key: 'files/a.key' };
	test.each<[string, object, () => Promise<Record<string, string | Uint8Array>>, RegExp]>([
		['a broken PEM', pair, async () => ({ 'files/a.pem': 'no PEM at all', 'files/a.key': 'nor this' }), /PEM/],
		[
			'a key that does not fit',
			pair,
			async () => {
				const [one, two] = [await makeIdentity({ name: 'a' }), await makeIdentity({ name: 'b' })];
				return { 'files/a.pem': one.cert, 'files/a.key': two.key };
			},
			/does not (fit|belong)/
		],
		[
			'a wrong passphrase',
			{ pkcs12: 'files/warden.p12', passphrase: '{$secret.word}' },
			async () => ({ 'files/warden.p12': warden }),
			/passphrase/
		],
		[
			'a wrong passphrase that is not noticed as such',
			{ ...pair, passphrase: shutKeys.sec1.misleading },
			async () => ({ 'files/a.pem': (await makeIdentity({ name: 'a' })).cert, 'files/a.key': shutKeys.sec1.pem }),
			/passphrase does not open the key/
		],
		['a PKCS#12 that is none', { pkcs12: 'files/x.p12' }, async () => ({ 'files/x.p12': 'plain text' }), /PKCS#12/]
	])('%s is named', async (_, client, more, words) => {
		const [result] = await call(client, await more());
		expect(result!.outcome).toBe('error');
		expect(result!.error!.message).toMatch(words);
	});
});

describe('no secret leaves', () => {
	test('in any form, whatever credential is used', async () => {
		const canary = 'Känary/+ "of" the lock';
		const server = http.createServer((request, response) => {
			// an unfriendly server says everything back
			response.setHeader('content-type', 'text/plain');
			response.end(`${request.url} ${JSON.stringify(request.headers)}`);
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		const base = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
		const kinds: Record<string, object> = {
			basic: { kind: 'basic', user: 'u', password: '{$secret.c}' },
			bearer: { kind: 'bearer', token: '{$hash("sha256", $secret.c)}' },
			query: { kind: 'api-key', in: 'query', name: 'k', key: '{$secret.c}' },
			cookie: { kind: 'api-key', in: 'cookie', name: 'k', key: '{$urlEncode($secret.c)}' },
			jwt: { kind: 'jwt', algorithm: 'HS256', key: '{$secret.c}{$secret.c}', claims: { note: '{$secret.c}' } },
			oauth1: { kind: 'oauth1', consumerKey: 'k', consumerSecret: '{$secret.c}', method: 'PLAINTEXT' },
			recipe: {
				kind: 'signature-recipe',
				lines: { a: '{$base64($secret.c)}', b: '{$lines.a}' },
				put: { header: { 'X-A': '{$lines.b}' }, query: { p: '{$secret.c}' } }
			}
		};
		const results = await runAll({
			connections: { one: { base: `${base}/{$urlEncode($secret.c)}` } },
			credentials: kinds,
			collections: {
				c: steps(
					Object.keys(kinds).map((name) => ({ send: 'GET /x', credential: name, keep: { all: 'regex:(?s)(.*)' } }))
				)
			},
			secrets: { c: canary }
		});
		await new Promise((resolve) => server.close(resolve));
		const forms = [
			canary,
			encodeURIComponent(canary),
			Buffer.from(canary).toString('base64').replace(/=+$/, ''),
			Buffer.from(`u:${canary}`).toString('base64'),
			JSON.stringify(canary).slice(1, -1),
			Buffer.from(canary).toString('latin1')
		];
		const text = JSON.stringify(results, (_, value: unknown) =>
			value instanceof Uint8Array ? Buffer.from(value).toString('utf8') : value
		);
		expect(results).toHaveLength(Object.keys(kinds).length);
		expect(results.map((result) => result.error?.message ?? '')).toEqual(results.map(() => ''));
		for (const form of forms) expect(text.includes(form), form).toBe(false);
	});
});
