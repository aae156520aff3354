import { readFileSync } from 'node:fs';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { authorityPem } from '../../standins/gatehouse/certificates.ts';
import { reach } from '#server/engine/reach/index.ts';
import { hasHttpd, KEEPER, startHttpd, type Httpd } from '../support/httpd.ts';
import { callsOf, contextOf, runAll, steps } from '../support/project.ts';

// a server that nobody here wrote; setup installs it where it can
describe.skipIf(!hasHttpd)('against Apache httpd', () => {
	let httpd: Httpd;
	beforeAll(async () => {
		httpd = await startHttpd();
	});
	afterAll(() => httpd?.stop());
	const warden = readFileSync(new URL('../../demo/reedmere/files/gatehouse/warden.p12', import.meta.url));
	const files = { 'files/authority.pem': authorityPem, 'files/warden.p12': warden };
	const tls = { authorities: ['files/authority.pem'] };
	const secrets = { word: KEEPER.password, wrong: 'another-word', phrase: 'sluice-gate-2' };
	const send = async (connection: object, call: string, credential?: object) => {
		const [result] = await runAll({
			connections: { one: connection },
			...(credential ? { credentials: { me: credential } } : {}),
			collections: { c: steps([{ send: call }], credential ? { credential: 'me' } : {}) },
			files,
			secrets
		});
		return result!;
	};
	const status = (result: Awaited<ReturnType<typeof send>>) =>
		result.error?.code ?? result.exchanges.at(-1)!.reply!.status;

	test('Basic with letters beyond ASCII', async () => {
		const credential = { kind: 'basic', user: KEEPER.user, password: '{$secret.word}' };
		expect(status(await send({ base: httpd.plain }, 'GET /basic/', credential))).toBe(200);
		expect(
			status(await send({ base: httpd.plain }, 'GET /basic/', { ...credential, password: '{$secret.wrong}' }))
		).toBe(401);
	});
	test('Digest, its nonce used again', async () => {
		const results = await runAll({
			connections: { one: { base: httpd.plain } },
			credentials: { me: { kind: 'digest', user: 'keeper', password: '{$secret.word}' } },
			collections: {
				c: steps([{ send: 'GET /digest/' }, { send: 'GET /digest/index.json?a=b%20c' }], { credential: 'me' })
			},
			secrets
		});
		expect(results.map(callsOf)).toEqual([['asked who we are 401', '200'], ['200']]);
	});
	test('a client certificate by PKCS#12, and none', async () => {
		const credential = { kind: 'client-certificate', pkcs12: 'files/warden.p12', passphrase: '{$secret.phrase}' };
		expect(status(await send({ base: httpd.mutual, tls }, 'GET /', credential))).toBe(200);
		expect(status(await send({ base: httpd.mutual, tls }, 'GET /'))).toBe('tls.client');
	});
	test.each([
		['auto', 'HTTP/2'],
		['1.1', 'HTTP/1.1']
	])('HTTP %s is spoken as %s', async (http, version) => {
		const result = await send({ base: httpd.secure, tls, http }, 'GET /');
		expect(result.exchanges.at(-1)!.reply!.version).toBe(version);
	});
	test.each([
		[{ min: '1.2', max: '1.2' }, 'TLS 1.2'],
		[{ min: '1.3' }, 'TLS 1.3']
	])('TLS within %j is %s', async (range, version) => {
		const result = await send({ base: httpd.secure, tls: { ...tls, ...range } }, 'GET /');
		expect(result.error).toBeUndefined();
		expect(result.exchanges.at(-1)!.tls!.version).toBe(version);
	});
	test('an old TLS version is refused, found by the reach check, and spoken when it is allowed', async () => {
		expect(status(await send({ base: httpd.old, tls }, 'GET /'))).toBe('tls.version');
		const context = await contextOf({ connections: { one: { base: httpd.old, tls } }, files });
		const report = await reach({ target: 'one', environment: '', method: 'GET', suites: false }, context);
		context.engine.close();
		expect(report.stages.find((stage) => stage.state === 'failed')?.code).toBe('tls.version');
		expect(status(await send({ base: httpd.old, tls: { ...tls, min: '1.1', max: '1.1' } }, 'GET /'))).toBe(200);
	});
	test('through its proxy, to TLS and to plain HTTP', async () => {
		const proxy = { address: httpd.proxy, user: KEEPER.user, password: '{$secret.word}' };
		expect(status(await send({ base: httpd.secure, tls, proxy }, 'GET /'))).toBe(200);
		expect(status(await send({ base: httpd.plain, proxy }, 'GET /'))).toBe(200);
		expect(status(await send({ base: httpd.secure, tls, proxy: httpd.proxy }, 'GET /'))).toBe('send.proxyAuth');
	});
});
