import { createHash, createHmac } from 'node:crypto';
import http from 'node:http';
import https from 'node:https';
import tls from 'node:tls';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { authorityPem } from '../../standins/gatehouse/certificates.ts';
import { GATE, WARDEN } from '../../standins/gatehouse/answers.ts';
import { startStandins } from '../../standins/index.ts';

let standins: Awaited<ReturnType<typeof startStandins>>;
const at = (name: string) => new URL(standins.list.find((one) => one.name === name)!.address);
beforeAll(async () => {
	standins = await startStandins(0);
});
afterAll(() => standins.close());

/** What the platform's own client says of a certificate. */
const verdict = (name: string, options: tls.ConnectionOptions = {}) =>
	new Promise<string>((resolve) => {
		const { hostname, port } = at(name);
		const socket = tls.connect({ host: hostname, port: Number(port), ca: authorityPem, ...options });
		socket.once('secureConnect', () => (socket.end(), resolve(socket.getProtocol() ?? '')));
		socket.once('error', (error: NodeJS.ErrnoException) => resolve(error.code ?? error.message));
	});

test.each([
	['gatehouse', 'TLSv1.3'],
	['gatehouse-expired', 'CERT_HAS_EXPIRED'],
	['gatehouse-other-name', 'ERR_TLS_CERT_ALTNAME_INVALID'],
	['gatehouse-self-signed', 'DEPTH_ZERO_SELF_SIGNED_CERT'],
	['gatehouse-incomplete', 'UNABLE_TO_VERIFY_LEAF_SIGNATURE'],
	['gatehouse-old', 'ERR_SSL_TLSV1_ALERT_PROTOCOL_VERSION']
])('the certificate of %s is what its title says: %s', async (name, wanted) => {
	expect(await verdict(name)).toBe(wanted);
});
test('the authority that the demo ships is the one that vouches', async () => {
	const { readFileSync } = await import('node:fs');
	const shipped = readFileSync(new URL('../../demo/reedmere/files/gatehouse/authority.pem', import.meta.url), 'utf8');
	expect(shipped.trim()).toBe(authorityPem.trim());
});

interface Answer {
	status: number;
	headers: http.IncomingHttpHeaders;
	said: Record<string, unknown>;
}
const call = (path: string, options: https.RequestOptions = {}, body = '') =>
	new Promise<Answer>((resolve, reject) => {
		const request = https.request(
			new URL(path, at('gatehouse')),
			{ ca: authorityPem, agent: false, ...options },
			(response) => {
				let text = '';
				response.on('data', (data) => (text += data));
				response.on('end', () =>
					resolve({
						status: response.statusCode ?? 0,
						headers: response.headers,
						said: text.startsWith('{') ? (JSON.parse(text) as Record<string, unknown>) : {}
					})
				);
			}
		);
		request.once('error', reject);
		request.end(body);
	});

describe('gates', () => {
	test.each<[string, string, Record<string, string>, number]>([
		['Basic', '/basic', { authorization: `Basic ${Buffer.from('warden:tidal-gate-4').toString('base64')}` }, 200],
		['a wrong password', '/basic', { authorization: `Basic ${Buffer.from('warden:x').toString('base64')}` }, 401],
		['a token', '/bearer', { authorization: `Bearer ${GATE.token}` }, 200],
		['a key in a header', '/key', { 'x-api-key': GATE.key }, 200],
		['a key in the query', `/key?key=${GATE.key}`, {}, 200],
		['no key', '/key', {}, 401],
		['a token that is no token', '/jwt', { authorization: 'Bearer x.y.z' }, 401],
		['no signature', '/message-signature', {}, 401],
		['no signed request', '/oauth1', {}, 401]
	])('%s', async (_, path, headers, status) => {
		expect((await call(path, { headers })).status).toBe(status);
	});
	test('the signed endpoint wants key, time and token, and says which is missing', async () => {
		const path = `/signed/passages?lock=mill&key=${GATE.key}`;
		const time = Math.floor(Date.now() / 1000);
		const sign = (when: number) =>
			createHmac('sha256', GATE.secret)
				.update(
					[when, 'GET', '/signed/passages', `key=${GATE.key}&lock=mill`, createHash('sha256').digest('hex')].join('\n')
				)
				.digest('hex');
		const ask = async (headers: Record<string, string>, at_ = path) => {
			const { status, said } = await call(at_, { headers });
			return `${status} ${String(said.detail ?? '')}`.trim();
		};
		const fine = { 'x-gate-time': String(time), 'x-gate-token': sign(time) };
		expect(await ask(fine)).toBe('200');
		expect(await ask(fine, '/signed/passages?lock=mill')).toMatch(/^401 the query parameter key/);
		expect(await ask({ 'x-gate-token': sign(time) })).toMatch(/X-Gate-Time is missing/);
		expect(await ask({ 'x-gate-time': String(time) })).toMatch(/X-Gate-Token is missing/);
		const old = time - 900;
		expect(await ask({ 'x-gate-time': String(old), 'x-gate-token': sign(old) })).toMatch(/five minutes off/);
		expect(await ask({ ...fine, 'x-gate-token': sign(time + 1) })).toMatch(/^403/);
	});
	test('a digest nonce serves no count twice (RFC 7616 section 3.4.5)', async () => {
		const asked = String((await call('/digest?algorithm=MD5')).headers['www-authenticate']);
		const nonce = /nonce="([^"]+)"/.exec(asked)![1]!;
		const md5 = (text: string) => createHash('md5').update(text).digest('hex');
		const prove = async (nc: string) => {
			const uri = '/digest?algorithm=MD5';
			const a1 = md5(`${WARDEN.user}:gatehouse:${WARDEN.password}`);
			const response = md5(`${a1}:${nonce}:${nc}:abc:auth:${md5(`GET:${uri}`)}`);
			const authorization = `Digest username="${WARDEN.user}", realm="gatehouse", nonce="${nonce}", uri="${uri}", qop=auth, nc=${nc}, cnonce="abc", response="${response}"`;
			return call(uri, { headers: { authorization } });
		};
		expect((await prove('00000001')).status).toBe(200);
		const again = await prove('00000001');
		expect(again.status).toBe(401);
		expect(String(again.headers['www-authenticate'])).toContain('stale=true');
	});
	test('a client certificate opens the mutual gate, and none does not', async () => {
		const { readFileSync } = await import('node:fs');
		const pfx = readFileSync(new URL('../../demo/reedmere/files/gatehouse/warden.p12', import.meta.url));
		const ask = (more: https.RequestOptions) =>
			new Promise<string>((resolve) => {
				const request = https.get(
					new URL('/health', at('gatehouse-mutual')),
					{ ca: authorityPem, agent: false, ...more },
					(response) => {
						let text = '';
						response.on('data', (data) => (text += data));
						response.on('end', () => resolve(text));
					}
				);
				request.once('error', () => resolve('refused'));
			});
		expect(await ask({ pfx, passphrase: 'sluice-gate-2' })).toContain('"client":"warden"');
		expect(await ask({})).toBe('refused');
	});
	test('the proxy forwards for who knows its password, and for nobody else', async () => {
		const proxy = at('gatehouse-proxy');
		const ask = (headers: Record<string, string>) =>
			new Promise<number>((resolve, reject) => {
				const path = `${at('mirror').href}notes`;
				http
					.get({ host: proxy.hostname, port: proxy.port, path, headers, agent: false }, (response) => {
						response.resume();
						resolve(response.statusCode ?? 0);
					})
					.once('error', reject);
			});
		expect(await ask({})).toBe(407);
		const word = Buffer.from(`${WARDEN.user}:${WARDEN.password}`).toString('base64');
		expect(await ask({ 'proxy-authorization': `Basic ${word}` })).toBe(200);
	});
});
