import type { ReachReport } from '#core/reach/index.ts';
import { reach } from '#server/engine/reach/index.ts';
import { execFile } from 'node:child_process';
import { generateKeyPairSync } from 'node:crypto';
import http from 'node:http';
import http2 from 'node:http2';
import net from 'node:net';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { authorityPem, makeIdentity } from '../../standins/gatehouse/certificates.ts';
import { startStandins } from '../../standins/index.ts';
import { contextOf, type Given } from '../support/project.ts';
import { KEEPER, startProxy, startSocks } from '../support/proxies.ts';

// Causes that look like other causes: each has to be told apart from its neighbour.
let standins: Awaited<ReturnType<typeof startStandins>>;
const closing: { close: () => unknown }[] = [];
const at = (name: string) => standins.list.find((one) => one.name === name)!.address;
const trusted = { authorities: ['files/authority.pem'] };
const kept = <T extends { close: () => unknown }>(one: T): T => (closing.push(one), one);
async function listen(server: net.Server): Promise<number> {
	kept(server);
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	return (server.address() as net.AddressInfo).port;
}
const answering = async (act: http.RequestListener) => `http://127.0.0.1:${await listen(http.createServer(act))}`;
const pem = (kind: 'rsa' | 'ec' | 'ed25519') =>
	(kind === 'rsa'
		? generateKeyPairSync('rsa', { modulusLength: 2048 })
		: kind === 'ec'
			? generateKeyPairSync('ec', { namedCurve: 'P-256' })
			: generateKeyPairSync('ed25519')
	).privateKey.export({ type: 'pkcs8', format: 'pem' }) as string;

async function check(
	connection: object,
	more: Given & { path?: string; credential?: string } = {}
): Promise<ReachReport> {
	const { path, credential, ...given } = more;
	const files = { 'files/authority.pem': authorityPem, ...given.files };
	const context = await contextOf({ ...given, connections: { one: connection }, files });
	const { environment } = context;
	const asked = { ...(path ? { path } : {}), ...(credential ? { credential } : {}) };
	try {
		const report = await reach({ target: 'one', environment, method: 'GET', suites: false, ...asked }, context);
		// whatever was found: a stage takes no negative time, and not that of the whole process
		for (const { key, ms } of report.stages) {
			expect(ms, key).toBeGreaterThanOrEqual(0);
			expect(ms, key).toBeLessThanOrEqual(report.ms);
		}
		return report;
	} finally {
		context.engine.close();
	}
}
const reported = (report: ReachReport) => {
	const stage =
		report.stages.find((one) => one.code && one.state === 'failed') ?? report.stages.find((one) => one.code);
	return stage?.code ?? report.outcome;
};
const stageOf = (report: ReachReport) => report.stages.find((one) => one.code === reported(report))!;

beforeAll(async () => {
	standins = await startStandins(0);
});
afterAll(async () => {
	for (const one of closing) one.close();
	await standins.close();
});

describe('certificates', () => {
	test('a key of another kind than the certificate’s is told before anything is shown', async () => {
		const { cert } = await makeIdentity({ name: 'stranger' });
		const client = { certificate: 'files/me.pem', key: 'files/me.key' };
		const report = await check(
			{ base: at('gatehouse-mutual'), tls: { ...trusted, client } },
			{ files: { 'files/me.pem': cert, 'files/me.key': pem('rsa') } }
		);
		expect(reported(report)).toBe('tls.identity');
		expect(stageOf(report).meaning).toContain(
			'the key does not belong to the certificate: that is for ec, the key is rsa'
		);
	});
	test('a key of the same kind that belongs to another certificate', async () => {
		const { cert } = await makeIdentity({ name: 'stranger' });
		const client = { certificate: 'files/me.pem', key: 'files/me.key' };
		const report = await check(
			{ base: at('gatehouse-mutual'), tls: { ...trusted, client } },
			{ files: { 'files/me.pem': cert, 'files/me.key': pem('ec') } }
		);
		expect(stageOf(report).meaning).toContain('the key does not belong to the certificate');
	});
	test('an authority of one’s own that nobody trusts is not half a chain', async () => {
		expect(reported(await check({ base: at('gatehouse') }))).toBe('tls.unknownAuthority');
	});
	test('what a server takes is told also where it wants a client certificate', async () => {
		const report = await check({ base: at('gatehouse-mutual'), tls: trusted });
		expect(stageOf(report).facts).toEqual([]);
		const { cert, key } = await makeIdentity({ name: 'lock' });
		const client = { certificate: 'files/me.pem', key: 'files/me.key' };
		const known = await check(
			{ base: at('gatehouse-mutual'), tls: { ...trusted, client } },
			{ files: { 'files/me.pem': cert, 'files/me.key': key } }
		);
		const tls = known.stages.find((one) => one.key === 'tls')!;
		expect(tls.facts.find(([name]) => name === 'accepts')?.[1]).toBe('TLS 1.2, TLS 1.3');
	});
});

describe('versions of HTTP', () => {
	test.each([
		['over TLS', true, 'auto'],
		['in plain text', false, '2']
	])('a server of HTTP/2 alone, %s, is called by it after the change', async (_, secure, version) => {
		const answer = (_request: unknown, response: http2.Http2ServerResponse) => void response.end('{}');
		const server = secure
			? http2.createSecureServer({ ...(await makeIdentity({ name: 'lock' })), allowHTTP1: false }, answer)
			: http2.createServer(answer);
		const base = `${secure ? 'https' : 'http'}://127.0.0.1:${await listen(server as unknown as net.Server)}`;
		const report = await check({ base, tls: trusted });
		expect(reported(report)).toBe('http.only2');
		expect(stageOf(report).fixes[0]!.edits).toEqual([{ file: 'connections/one.yaml', path: ['http'], value: version }]);
		expect((await check({ base, http: version, tls: trusted })).outcome).toBe('passed');
	});
});

describe('proxies', () => {
	const api = () =>
		answering((_, response) => void response.writeHead(200, { 'content-type': 'application/json' }).end('{}'));
	const others: Given = {
		credentials: { clerk: { kind: 'basic', user: 'clerk', password: '{$secret.clerk}' } },
		secrets: { clerk: 'oak-and-elm-9', word: KEEPER.password }
	};
	const signed = (port: number, password = '{$secret.word}', scheme = 'http') => ({
		...{ address: `${scheme}://127.0.0.1:${port}`, user: KEEPER.user, password }
	});
	test.each([
		['407', {}],
		['401', { refusal: 401 }]
	])(
		'a wrong password over http, answered by %s, is the proxy’s matter: no credential is offered to it',
		async (_, kind) => {
			const proxy = kept(await startProxy({ scheme: 'basic', ...kind }));
			const report = await check({ base: await api(), proxy: signed(proxy.port, 'wrong') }, others);
			expect(reported(report)).toBe('proxy.denied');
			expect(stageOf(report).fixes).toEqual([]);
			expect(report.stages.map(({ key }) => key)).toHaveLength(7);
		}
	);
	test('a wrong password where the API cannot be asked directly is told by a user that nobody has', async () => {
		const proxy = kept(await startProxy({ scheme: 'basic', refusal: 401 }));
		const report = await check({ base: 'http://127.0.0.1:9', proxy: signed(proxy.port, 'wrong') }, others);
		expect(reported(report)).toBe('proxy.denied');
	});
	test.each([[401], [407]])('a wrong password for a tunnel, answered by %s', async (refusal) => {
		const proxy = kept(await startProxy({ scheme: 'basic', refusal }));
		const report = await check({ base: at('gatehouse'), tls: trusted, proxy: signed(proxy.port, 'wrong') }, others);
		expect(reported(report)).toBe('proxy.denied');
	});
	test('the API’s own 401 through a proxy stays the API’s', async () => {
		const proxy = kept(await startProxy({ scheme: 'basic' }));
		const base = await answering(
			(_, response) => void response.writeHead(401, { 'www-authenticate': 'Basic realm="tolls"' }).end()
		);
		const report = await check({ base, proxy: signed(proxy.port) }, others);
		expect(reported(report)).toBe('auth.unauthorized');
		expect(stageOf(report).fixes.map(({ label }) => label)).toEqual(['Sign in as clerk']);
	});
	test('a proxy’s 403 over http, and the API’s', async () => {
		const strict = kept(await startProxy({ always: 403 }));
		const report = await check({ base: await api(), proxy: `http://127.0.0.1:${strict.port}` });
		expect(reported(report)).toBe('proxy.refused');
		expect(stageOf(report).fixes[0]!.label).toBe('Reach 127.0.0.1 without the proxy');
		const open = kept(await startProxy());
		const base = await answering((_, response) => void response.writeHead(403).end());
		expect(reported(await check({ base, proxy: `http://127.0.0.1:${open.port}` }))).toBe('auth.forbidden');
	});
	test.each([['http'], ['https']])('a proxy that does not reach what is behind it, by %s', async (scheme) => {
		const proxy = kept(await startProxy());
		const report = await check({ base: `${scheme}://127.0.0.1:9`, proxy: `http://127.0.0.1:${proxy.port}` });
		expect(reported(report)).toBe('proxy.target');
		expect(stageOf(report).finding).toBe('The proxy does not reach 127.0.0.1:9');
	});
	test('the API’s own 503 through a proxy stays the API’s', async () => {
		const proxy = kept(await startProxy());
		const base = await answering((_, response) => void response.writeHead(503).end());
		expect(reported(await check({ base, proxy: `http://127.0.0.1:${proxy.port}` }))).toBe('answer.trouble');
	});
	test.each([['http'], ['https']])(
		'a proxy that speaks TLS is asked by TLS after the change, for %s',
		async (scheme) => {
			const proxy = kept(await startProxy({ identity: await makeIdentity({ name: 'gate' }) }));
			const base = scheme === 'http' ? await api() : at('gatehouse');
			const plain = await check({ base, tls: trusted, proxy: `http://127.0.0.1:${proxy.port}` });
			expect(reported(plain)).toBe('proxy.isTls');
			const { value } = stageOf(plain).fixes[0]!.edits[0]!;
			expect(value).toBe(`https://127.0.0.1:${proxy.port}`);
			expect((await check({ base, tls: trusted, proxy: value as string })).outcome).toBe('passed');
		}
	);
	test('a proxy whose certificate is not trusted', async () => {
		const proxy = kept(await startProxy({ identity: await makeIdentity({ name: 'gate' }) }));
		const report = await check({ base: await api(), proxy: `https://127.0.0.1:${proxy.port}` });
		expect(reported(report)).toBe('proxy.failed');
		expect(stageOf(report).meaning).toContain('Its certificate is not trusted');
	});
	test.each([['http'], ['https']])('Digest at a proxy, for %s', async (scheme) => {
		const proxy = kept(await startProxy({ scheme: 'digest' }));
		const base = scheme === 'http' ? await api() : at('gatehouse');
		const through = (password: string) => check({ base, tls: trusted, proxy: signed(proxy.port, password) }, others);
		expect((await through('{$secret.word}')).outcome).toBe('passed');
		expect(reported(await through('wrong'))).toBe('proxy.denied');
		// and once more, with what is known of it by then
		expect((await through('{$secret.word}')).outcome).toBe('passed');
	});
	test.each([['http'], ['https']])('SOCKS 5 with user and password, for %s', async (scheme) => {
		const proxy = kept(await startSocks({ password: true }));
		const base = scheme === 'http' ? await api() : at('gatehouse');
		const through = (password: string) =>
			check({ base, tls: trusted, proxy: signed(proxy.port, password, 'socks5') }, others);
		const report = await through('{$secret.word}');
		expect(report.outcome).toBe('passed');
		expect(report.stages.find((one) => one.key === 'proxy')!.finding).toContain('lets us through');
		expect(reported(await through('wrong'))).toBe('proxy.denied');
		expect(reported(await check({ base, tls: trusted, proxy: `socks5://127.0.0.1:${proxy.port}` }))).toBe('proxy.auth');
	});
	test('SOCKS 5 resolves names at its end', async () => {
		const proxy = kept(await startSocks());
		const base = (await api()).replace('127.0.0.1', 'lock.inside.example');
		const report = await check({ base, proxy: `socks5://127.0.0.1:${proxy.port}` });
		expect(report.outcome).toBe('passed');
		expect(proxy.asked[0]).toMatch(/^lock\.inside\.example:/);
	});
	test.each([
		[2, 'proxy.refused'],
		[4, 'proxy.target'],
		[5, 'proxy.target']
	])('SOCKS 5 that answers %s is %s', async (reply, code) => {
		const proxy = kept(await startSocks({ reply }));
		const report = await check({ base: await api(), proxy: `socks5://127.0.0.1:${proxy.port}` });
		expect(reported(report)).toBe(code);
	});
	test('a proxy that does not answer is told at the proxy’s stage, and nothing before it takes a negative time', async () => {
		const report = await check({ base: await api(), proxy: 'http://127.0.0.1:9' });
		expect(reported(report)).toBe('proxy.unreachable');
		expect(report.stages.slice(0, 3).map(({ state }) => state)).toEqual(['none', 'none', 'failed']);
	});
});

describe('addresses', () => {
	test('a colon without a port is told, and not taken for port 80', async () => {
		const report = await check(
			{ base: 'http://127.0.0.1:{$env.port}/v1' },
			{ environments: { local: { variables: { port: '' } } }, environment: 'local' }
		);
		expect(reported(report)).toBe('settings.wrong');
		expect(stageOf(report).meaning).toContain('http://127.0.0.1:/v1/ has a colon behind its host and no port');
	});
	const moving = () =>
		answering((request, response) => {
			if (request.url!.startsWith('/old'))
				return void response.writeHead(301, { location: request.url!.replace('/old', '/new') }).end();
			response.writeHead(200, { 'content-type': 'application/json' }).end('{}');
		});
	test.each([
		['the base alone', '{$env.api}/old', undefined, undefined, undefined],
		['a path behind the base, the base in the connection', 'BASE/old', 'gauges', 'connections/one.yaml', 'BASE/new'],
		['a path behind the base, the base in a variable', '{$env.old}', 'gauges', 'environments/local.yaml', 'BASE/new'],
		['a variable that is only the beginning', '{$env.api}/old', 'gauges', undefined, undefined]
	])('a redirect of %s', async (_, written, path, file, value) => {
		const base = await moving();
		const report = await check(
			{ base: written.replace('BASE', base) },
			{
				environments: { local: { variables: { api: base, old: `${base}/old` } } },
				environment: 'local',
				...(path ? { path } : {})
			}
		);
		expect(reported(report)).toBe('http.redirect');
		const edits = stageOf(report).fixes.flatMap((fix) => fix.edits);
		expect(edits.map((edit) => [edit.file, edit.value])).toEqual(file ? [[file, value!.replace('BASE', base)]] : []);
	});
	test('a redirect to another host changes the variable’s beginning, and leaves what follows', async () => {
		const there = await answering((_, response) => void response.writeHead(200).end('{}'));
		const here = await answering(
			(request, response) => void response.writeHead(308, { location: there + request.url! }).end()
		);
		const report = await check(
			{ base: '{$env.api}/v1' },
			{ environments: { local: { variables: { api: here } } }, environment: 'local', path: 'gauges?limit=1' }
		);
		expect(stageOf(report).fixes[0]!.edits).toEqual([
			{ file: 'environments/local.yaml', path: ['variables', 'api'], value: there }
		]);
	});
});

describe('credentials that cannot sign', () => {
	const sealed = (more: object) => ({
		...{ kind: 'message-signature', algorithm: 'ed25519', keyId: 'k', key: '{$secret.pem}', ...more }
	});
	test.each<[string, object, string, string]>([
		[
			'a signature over a header that is not there',
			sealed({ components: ['@method', 'x-lock', 'content-digest'] }),
			pem('ed25519'),
			'covers the header x-lock, and this request has none'
		],
		[
			'ES256 with an RSA key',
			{ kind: 'jwt', algorithm: 'ES256', key: '{$secret.pem}' },
			pem('rsa'),
			'ES256 signs with an EC key on P-256, and this is an RSA key of 2048 bits'
		],
		[
			'RS256 with an EC key',
			{ kind: 'jwt', algorithm: 'RS256', key: '{$secret.pem}' },
			pem('ec'),
			'RS256 signs with an RSA key, and this is an EC key on P-256'
		],
		[
			'a message signature with a key of another kind',
			sealed({ algorithm: 'ecdsa-p256-sha256' }),
			pem('ed25519'),
			'ecdsa-p256-sha256 signs with an EC key on P-256, and this is a key of kind ed25519'
		],
		[
			'OAuth 1 by RSA with an EC key',
			{ kind: 'oauth1', consumerKey: 'c', method: 'RSA-SHA256', key: '{$secret.pem}' },
			pem('ec'),
			'RSA signs with an RSA key, and this is an EC key on P-256'
		]
	])('%s', async (_, credential, key, words) => {
		const report = await check(
			{ base: at('mirror'), credential: 'me' },
			{ credentials: { me: credential }, secrets: { pem: key } }
		);
		expect(reported(report)).toBe('auth.failed');
		expect(stageOf(report).meaning).toContain(words);
	});
});

describe('WS-Security', () => {
	const NS = {
		'1.1': 'http://schemas.xmlsoap.org/soap/envelope/',
		'1.2': 'http://www.w3.org/2003/05/soap-envelope'
	};
	const fault = (code: string, text: string) =>
		`<s:Envelope xmlns:s="${NS['1.1']}"><s:Body><s:Fault><faultcode xmlns:w="urn:w">${code}</faultcode><faultstring>${text}</faultstring></s:Fault></s:Body></s:Envelope>`;
	const service = (version: '1.1' | '1.2', ofMessage: (body: string) => string) =>
		answering((request, response) => {
			let body = '';
			request
				.on('data', (data) => (body += String(data)))
				.on('end', () => {
					const fits = body.includes(NS[version]) && request.method === 'POST';
					response.writeHead(fits ? 500 : 415, { 'content-type': 'text/xml' }).end(fits ? ofMessage(body) : '');
				});
		});
	const me = {
		credentials: { me: { kind: 'ws-security', user: 'clerk', password: '{$secret.word}', passwordType: 'text' } },
		secrets: { word: 'oak-and-elm-9' }
	};
	test.each([['1.1'], ['1.2']] as const)('a header that is taken, by SOAP %s', async (version) => {
		const base = await service(version, (body) =>
			body.includes('oak-and-elm-9') ? fault('s:Client', 'no operation') : fault('w:InvalidSecurity', 'no header')
		);
		const report = await check({ base, credential: 'me' }, me);
		expect(report.outcome).toBe('passed');
		expect(report.stages.at(-2)!.finding).toBe('the Security header of me is taken');
		expect(report.stages.at(-1)!.finding).toContain('Client, “no operation”');
	});
	test.each([
		['w:FailedAuthentication', 'unknown user'],
		['s:MustUnderstand', 'what is this?']
	])('a header that is refused with %s', async (code, text) => {
		const base = await service('1.1', (body) =>
			body.includes('Security') ? fault(code, text) : fault('s:Client', '')
		);
		const report = await check({ base, credential: 'me' }, me);
		expect(reported(report)).toBe('auth.refused');
		expect(report.outcome).toBe('refused');
		expect(stageOf(report).meaning).toContain(text);
	});
});

describe('the proxies of these tests, as curl finds them', () => {
	const curl = (...args: string[]) =>
		new Promise<string>((resolve, reject) =>
			execFile('curl', ['-s', '-S', '-m', '5', '-o', '-', '-w', '%{http_code}', ...args], (error, out, err) =>
				error ? reject(new Error(err)) : resolve(out)
			)
		);
	test('Digest, SOCKS 5 and TLS', async () => {
		const base = await answering((_, response) => void response.end('reached '));
		const who = `${KEEPER.user}:${KEEPER.password}`;
		const digest = kept(await startProxy({ scheme: 'digest' }));
		expect(await curl('--proxy-digest', '-U', who, '-x', `http://127.0.0.1:${digest.port}`, base)).toBe('reached 200');
		expect(await curl('--proxy-digest', '-U', 'keeper:wrong', '-x', `http://127.0.0.1:${digest.port}`, base)).toMatch(
			/407$/
		);
		const socks = kept(await startSocks({ password: true }));
		const inside = base.replace('127.0.0.1', 'lock.inside.example');
		expect(await curl('--socks5-hostname', `127.0.0.1:${socks.port}`, '-U', who, inside)).toBe('reached 200');
		const secure = kept(await startProxy({ identity: await makeIdentity({ name: 'gate' }) }));
		expect(await curl('--proxy-insecure', '-x', `https://127.0.0.1:${secure.port}`, base)).toBe('reached 200');
	});
});
