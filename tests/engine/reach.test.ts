import {
	diagnosisCodes,
	found,
	judgeHttpError,
	judgeOpening,
	reachLines,
	type ReachReport
} from '#core/reach/index.ts';
import { HeronError } from '#core/errors.ts';
import { reach } from '#server/engine/reach/index.ts';
import http from 'node:http';
import http2 from 'node:http2';
import net from 'node:net';
import tls from 'node:tls';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { authorityPem, makeIdentity } from '../../standins/gatehouse/certificates.ts';
import { GATE, WARDEN } from '../../standins/gatehouse/answers.ts';
import { startStandins } from '../../standins/index.ts';
import { contextOf, type Given } from '../support/project.ts';
import { readFileSync } from 'node:fs';

let standins: Awaited<ReturnType<typeof startStandins>>;
const servers: net.Server[] = [];
const at = (name: string) => standins.list.find((one) => one.name === name)!.address;
const files = { 'files/authority.pem': authorityPem };
const trusted = { authorities: ['files/authority.pem'] };
const warden = readFileSync(new URL('../../demo/reedmere/files/gatehouse/warden.p12', import.meta.url));

async function listen(server: net.Server): Promise<number> {
	servers.push(server);
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	return (server.address() as net.AddressInfo).port;
}
/** A server that does something with every socket. */
const raw = (act: (socket: net.Socket) => void) =>
	listen(
		net.createServer((socket) => {
			socket.on('error', () => {});
			act(socket);
		})
	);
async function secure(options: tls.TlsOptions & { days?: [number, number] } = {}): Promise<string> {
	const { days = [-1, 60], ...rest } = options;
	const identity = await makeIdentity({ name: 'lock', from: days[0], to: days[1] });
	const server = tls.createServer({ ...identity, ...rest }, (socket) => {
		socket.on('error', () => {});
		socket.on('data', () =>
			socket.end(
				'HTTP/1.1 200 OK\r\nContent-Type: application/json\r\nContent-Length: 2\r\nConnection: close\r\n\r\n{}'
			)
		);
	});
	server.on('tlsClientError', () => {});
	return `https://127.0.0.1:${await listen(server)}`;
}
const answers = async (status: number, headers: http.OutgoingHttpHeaders, body = '') =>
	`http://127.0.0.1:${await listen(
		http.createServer((_, response) => void response.writeHead(status, { connection: 'close', ...headers }).end(body))
	)}`;

async function check(connection: object, more: Given & { path?: string; method?: string } = {}): Promise<ReachReport> {
	const { path, method = 'GET', ...given } = more;
	const context = await contextOf({ ...given, connections: { one: connection }, files: { ...files, ...given.files } });
	try {
		return await reach(
			{ target: 'one', environment: context.environment, method, suites: false, ...(path ? { path } : {}) },
			context
		);
	} finally {
		context.engine.close();
	}
}
const reported = (report: ReachReport) => report.stages.find((stage) => stage.code)?.code;

beforeAll(async () => {
	standins = await startStandins(0);
});
afterAll(async () => {
	for (const server of servers) server.close();
	await standins.close();
});

const target = {
	url: 'https://lock.reedmere.example/',
	host: 'lock.reedmere.example',
	port: 443,
	secure: true,
	path: '',
	proxy: '',
	variables: {},
	credential: { name: '', kind: '', label: '' },
	others: []
};
const opening = (
	code: ConstructorParameters<typeof HeronError>[0],
	values: Record<string, string>,
	stage = 'connection'
) =>
	judgeOpening(target, new HeronError(code, values), {
		ms: 1,
		stage: stage as 'connection',
		now: Date.now(),
		limits: { range: '1.2 to 1.3' }
	}).code;

// one case for every diagnosis; docs/reach.md shows them to people
const cases: [code: string, what: string, run: () => Promise<string | undefined> | string | undefined][] = [
	[
		'settings.wrong',
		'a base address with a name that is not there',
		async () => reported(await check({ base: '{$env.nope}' }))
	],
	[
		'name.notFound',
		'a name that nobody has',
		async () => reported(await check({ base: 'http://nobody.reedmere.example', timeouts: { connect: '3 s' } }))
	],
	[
		'name.timeout',
		'a name server that is silent',
		() => opening('send.timeout', { phase: 'finding the name', limit: '5 s', host: 'h', port: '1' }, 'name')
	],
	['tcp.refused', 'a port where nothing listens', async () => reported(await check({ base: 'http://127.0.0.1:9' }))],
	// loopback loses no packets and has a way to itself: what the system says is handed in
	['tcp.noRoute', 'a network that is not reached', () => opening('send.unreachable', { host: 'h', port: '1' })],
	[
		'tcp.timeout',
		'packets that get lost',
		() => opening('send.timeout', { phase: 'connecting', limit: '5 s', host: 'h', port: '1' })
	],
	['tcp.reset', 'a connection that is closed at once', () => opening('send.reset', { host: 'h', port: '1' })],
	[
		'proxy.unreachable',
		'a proxy that is not there',
		async () => reported(await check({ base: at('gatehouse'), proxy: 'http://127.0.0.1:9', tls: trusted }))
	],
	[
		'proxy.auth',
		'a proxy without its password',
		async () => reported(await check({ base: at('gatehouse'), proxy: at('gatehouse-proxy'), tls: trusted }))
	],
	[
		'proxy.refused',
		'a proxy that forbids the host',
		async () => {
			const port = await raw((socket) => void socket.end('HTTP/1.1 403 Forbidden\r\n\r\n'));
			return reported(await check({ base: at('gatehouse'), proxy: `http://127.0.0.1:${port}`, tls: trusted }));
		}
	],
	[
		'proxy.denied',
		'a proxy with a wrong password',
		async () => {
			const proxy = { address: at('gatehouse-proxy'), user: WARDEN.user, password: '{$secret.word}' };
			return reported(await check({ base: at('gatehouse'), proxy, tls: trusted }, { secrets: { word: 'wrong-word' } }));
		}
	],
	[
		'proxy.target',
		'a proxy that does not find what is behind it',
		async () => {
			const port = await raw((socket) => void socket.end('HTTP/1.1 503 Service Unavailable\r\n\r\n'));
			return reported(await check({ base: 'https://127.0.0.1:9', proxy: `http://127.0.0.1:${port}` }));
		}
	],
	[
		'proxy.isTls',
		'http:// to a proxy that speaks TLS',
		async () => reported(await check({ base: at('gatehouse'), proxy: (await secure()).replace('https:', 'http:') }))
	],
	[
		'proxy.notTls',
		'https:// to a proxy of plain text',
		async () =>
			reported(
				await check({ base: at('gatehouse'), proxy: at('gatehouse-proxy').replace('http:', 'https:'), tls: trusted })
			)
	],
	[
		'proxy.failed',
		'a proxy that says something else',
		async () => {
			const port = await raw((socket) => socket.once('data', () => socket.end('SSH-2.0-lock-keeper\r\n\r\n')));
			return reported(await check({ base: at('gatehouse'), proxy: `http://127.0.0.1:${port}` }));
		}
	],
	[
		'tls.notTls',
		'https:// to a port of plain HTTP',
		async () => reported(await check({ base: at('mirror').replace('http:', 'https:') }))
	],
	[
		'tls.version',
		'a server of old TLS versions only',
		async () => reported(await check({ base: at('gatehouse-old'), tls: trusted }))
	],
	[
		'tls.cipher',
		'a server whose suites nobody offers',
		async () =>
			reported(
				await check({
					base: await secure({ ciphers: 'ECDHE-ECDSA-NULL-SHA:@SECLEVEL=0', maxVersion: 'TLSv1.2' }),
					tls: trusted
				})
			)
	],
	[
		'tls.expired',
		'a certificate that has ended',
		async () => reported(await check({ base: at('gatehouse-expired'), tls: trusted }))
	],
	[
		'tls.notYet',
		'a certificate that has not begun',
		async () => reported(await check({ base: await secure({ days: [10, 60] }), tls: trusted }))
	],
	[
		'tls.wrongName',
		'a certificate of another host',
		async () => reported(await check({ base: at('gatehouse-other-name'), tls: trusted }))
	],
	[
		'tls.unknownAuthority',
		'an authority that comes along and that nobody trusts',
		async () => {
			const { cert, key } = await makeIdentity({ name: 'lock' });
			return reported(await check({ base: await secure({ cert: `${cert}\n${authorityPem}`, key }) }));
		}
	],
	[
		'tls.selfSigned',
		'a certificate signed by itself',
		async () => reported(await check({ base: at('gatehouse-self-signed') }))
	],
	[
		'tls.missingIntermediate',
		'half a chain',
		async () => reported(await check({ base: at('gatehouse-incomplete'), tls: trusted }))
	],
	[
		'tls.clientMissing',
		'a server that wants a client certificate',
		async () => reported(await check({ base: at('gatehouse-mutual'), tls: trusted }))
	],
	[
		'tls.clientRefused',
		'a client certificate of another authority',
		async () => {
			const { cert, key } = await makeIdentity({ name: 'stranger' }, false);
			return reported(
				await check(
					{
						base: at('gatehouse-mutual'),
						tls: { ...trusted, client: { certificate: 'files/me.pem', key: 'files/me.key' } }
					},
					{ files: { 'files/me.pem': cert, 'files/me.key': key } }
				)
			);
		}
	],
	[
		'tls.identity',
		'a wrong passphrase',
		async () =>
			reported(
				await check(
					{
						base: at('gatehouse-mutual'),
						tls: { ...trusted, client: { pkcs12: 'files/warden.p12', passphrase: '{$secret.phrase}' } }
					},
					{ files: { 'files/warden.p12': warden }, secrets: { phrase: 'not-this-one' } }
				)
			)
	],
	[
		'tls.timeout',
		'a handshake that nobody answers',
		async () => {
			const port = await raw(() => {});
			return reported(await check({ base: `https://127.0.0.1:${port}`, timeouts: { connect: '300 ms' } }));
		}
	],
	[
		'tls.reset',
		'a handshake that is cut off',
		async () => {
			const port = await raw((socket) => socket.once('data', () => socket.destroy()));
			return reported(await check({ base: `https://127.0.0.1:${port}` }));
		}
	],
	[
		'tls.failed',
		'a handshake that ends with an alert',
		async () => {
			const alert = Buffer.from([0x15, 3, 3, 0, 2, 2, 80]);
			const port = await raw((socket) => socket.once('data', () => socket.end(alert)));
			return reported(await check({ base: `https://127.0.0.1:${port}` }));
		}
	],
	[
		'tls.notVerified',
		'a certificate that is not looked at',
		async () => reported(await check({ base: at('gatehouse-self-signed'), tls: { verify: false } }))
	],
	[
		'tls.spareEnded',
		'an old certificate that is sent along and that nobody needs',
		async () => {
			const { cert, key } = await makeIdentity({ name: 'lock' });
			const old = await makeIdentity({ name: 'lock', from: -90, to: -3 });
			return reported(await check({ base: await secure({ cert: `${cert}\n${old.cert}`, key }), tls: trusted }));
		}
	],
	[
		'tls.endsSoon',
		'a certificate with few days left',
		async () => reported(await check({ base: await secure({ days: [-60, 5] }), tls: trusted }))
	],
	[
		'http.isTls',
		'http:// to a port of TLS',
		async () => reported(await check({ base: at('gatehouse').replace('https:', 'http:') }))
	],
	[
		'http.notHttp',
		'a server of another protocol',
		async () => {
			const port = await raw((socket) => socket.once('data', () => socket.end('SSH-2.0-lock-keeper\r\n')));
			return reported(await check({ base: `http://127.0.0.1:${port}` }));
		}
	],
	[
		'http.timeout',
		'a request that is never answered',
		async () => {
			const port = await raw(() => {});
			return reported(await check({ base: `http://127.0.0.1:${port}`, timeouts: { reply: '300 ms' } }));
		}
	],
	[
		'http.reset',
		'a request that is cut off',
		async () => {
			const port = await raw((socket) => socket.once('data', () => socket.destroy()));
			return reported(await check({ base: `http://127.0.0.1:${port}` }));
		}
	],
	[
		'http.version',
		'HTTP/2 where it is not spoken',
		async () => reported(await check({ base: await secure(), http: '2', tls: trusted }))
	],
	[
		'http.only2',
		'HTTP/1.1 to a server of HTTP/2',
		async () => {
			const server = http2.createServer();
			const port = await listen(server as unknown as net.Server);
			return reported(await check({ base: `http://127.0.0.1:${port}` }));
		}
	],
	[
		'http.failed',
		'anything else that goes wrong',
		() => judgeHttpError(target, new HeronError('send.failed', { detail: 'odd' }), 1, false).code
	],
	[
		'http.redirect',
		'a base address that has moved',
		async () => reported(await check({ base: `${at('gatehouse')}/old-road`, tls: trusted }))
	],
	[
		'http.redirectLoop',
		'redirects in a circle',
		async () => reported(await check({ base: `${at('gatehouse')}/roundabout`, tls: trusted }))
	],
	[
		'auth.unauthorized',
		'no credential where one is asked for',
		async () => reported(await check({ base: `${at('gatehouse')}/basic`, tls: trusted }))
	],
	[
		'auth.scheme',
		'a token where user and password are asked for',
		async () =>
			reported(
				await check(
					{ base: `${at('gatehouse')}/basic`, tls: trusted, credential: 'token' },
					{ credentials: { token: { kind: 'bearer', token: '{$secret.token}' } }, secrets: { token: GATE.token } }
				)
			)
	],
	[
		'auth.refused',
		'a wrong password',
		async () =>
			reported(
				await check(
					{ base: `${at('gatehouse')}/basic`, tls: trusted, credential: 'warden' },
					{
						credentials: { warden: { kind: 'basic', user: WARDEN.user, password: '{$secret.word}' } },
						secrets: { word: 'wrong-word' }
					}
				)
			)
	],
	[
		'auth.forbidden',
		'a gate that opens for nobody',
		async () => reported(await check({ base: `${at('gatehouse')}/forbidden`, tls: trusted }))
	],
	[
		'auth.failed',
		'a token that cannot be fetched',
		async () =>
			reported(
				await check(
					{ base: at('mirror'), credential: 'reader' },
					{
						credentials: {
							reader: {
								kind: 'oauth2',
								grant: 'client-credentials',
								tokenEndpoint: `${at('sign-on')}/token`,
								clientId: 'gauge-reader',
								clientSecret: '{$secret.word}'
							}
						},
						secrets: { word: 'wrong-word' }
					}
				)
			)
	],
	[
		'auth.missingHeader',
		'a header that the server misses',
		async () => reported(await check({ base: `${at('gatehouse')}/tow-path`, tls: trusted }))
	],
	[
		'auth.headerSlip',
		'a header name with a slip in it',
		async () =>
			reported(await check({ base: `${at('gatehouse')}/tow-path`, tls: trusted, headers: { 'X-Lokc-Name': 'mill' } }))
	],
	[
		'auth.skew',
		'a clock that is an hour off',
		async () => reported(await check({ base: `${at('gatehouse')}/late`, tls: trusted }))
	],
	[
		'answer.notFound',
		'nothing at the base address',
		async () => reported(await check({ base: `${at('gatehouse')}/nothing`, tls: trusted }))
	],
	[
		'answer.method',
		'an address that takes no GET',
		async () => reported(await check({ base: `${at('gatehouse')}/orders`, tls: trusted }))
	],
	[
		'answer.tooMany',
		'too many calls',
		async () => reported(await check({ base: `${at('gatehouse')}/busy`, tls: trusted }))
	],
	[
		'answer.html',
		'a page instead of an API',
		async () => reported(await check({ base: `${at('gatehouse')}/page`, tls: trusted }))
	],
	[
		'answer.refused',
		'a request that the server does not like',
		async () =>
			reported(await check({ base: await answers(422, { 'content-type': 'application/json' }, '{"detail":"no"}') }))
	],
	[
		'answer.trouble',
		'a server in trouble',
		async () => reported(await check({ base: `${at('gatehouse')}/broken`, tls: trusted }))
	]
];

describe('every diagnosis is made', () => {
	test.each(cases)('%s: %s', async (code, _, run) => {
		expect(await run()).toBe(code);
	});
	test('none is left out', () => {
		expect(diagnosisCodes.filter((code) => !cases.some(([one]) => one === code))).toEqual([]);
	});
	test('each has words without holes', () => {
		for (const code of diagnosisCodes) {
			const stage = found(code, {});
			expect(stage.finding, code).not.toMatch(/[{}]/);
			expect(stage.meaning, code).not.toMatch(/[{}]/);
		}
	});
});

describe('a check as a whole', () => {
	test('goes through seven stages, and says what is not needed', async () => {
		const report = await check({ base: at('gatehouse'), tls: trusted, http: 'auto' });
		expect(report.outcome).toBe('passed');
		expect(report.stages.map(({ key, state }) => `${key} ${state}`)).toEqual([
			'name none',
			'connection passed',
			'proxy none',
			'tls passed',
			'http passed',
			'authentication passed',
			'answer passed'
		]);
		const lines = reachLines(report).join('\n');
		expect(lines).toContain('TLS 1.3');
		expect(lines).toContain('accepts      TLS 1.2, TLS 1.3');
		expect(lines).toContain('HTTP/2 answers 200');
	});
	test('what was not reached is said to be so', async () => {
		const report = await check({ base: at('gatehouse-self-signed') });
		expect(report.outcome).toBe('failed');
		expect(report.stages.slice(-3).map((stage) => stage.state)).toEqual(['later', 'later', 'later']);
	});
	test('lists cipher suites when asked', async () => {
		const context = await contextOf({
			connections: { one: { base: at('gatehouse-old'), tls: { ...trusted, min: '1.0', max: '1.1' } } },
			files
		});
		const report = await reach({ target: 'one', environment: '', method: 'GET', suites: true }, context);
		context.engine.close();
		const facts = report.stages.find((stage) => stage.key === 'tls')!.facts;
		expect(facts.find(([name]) => name === 'TLS 1.1')?.[1]).toMatch(/ECDHE-ECDSA/);
	});
	test.each([
		['digest', { kind: 'digest', user: WARDEN.user, password: '{$secret.word}' }, { word: WARDEN.password }],
		['basic', { kind: 'basic', user: WARDEN.user, password: '{$secret.word}' }, { word: WARDEN.password }]
	])('a credential of kind %s is accepted, and its secret shows up nowhere', async (path, credential, secrets) => {
		const report = await check(
			{ base: `${at('gatehouse')}/${path}`, tls: trusted, credential: 'me' },
			{ credentials: { me: credential }, secrets }
		);
		expect(report.stages.find((stage) => stage.key === 'authentication')).toMatchObject({ state: 'passed' });
		const all = JSON.stringify(report, (_, value: unknown) =>
			value instanceof Uint8Array ? Buffer.from(value).toString('latin1') : value
		);
		expect(all).not.toContain(WARDEN.password);
		expect(all).not.toContain(Buffer.from(`${WARDEN.user}:${WARDEN.password}`).toString('base64'));
	});
	test('a client certificate by credential opens the handshake', async () => {
		const report = await check(
			{ base: at('gatehouse-mutual'), tls: trusted, credential: 'warden' },
			{
				credentials: {
					warden: { kind: 'client-certificate', pkcs12: 'files/warden.p12', passphrase: '{$secret.phrase}' }
				},
				files: { 'files/warden.p12': warden },
				secrets: { phrase: 'sluice-gate-2' }
			}
		);
		expect(report.outcome).toBe('passed');
	});
	test('by way of a proxy with user and password', async () => {
		const report = await check(
			{
				base: at('gatehouse'),
				tls: trusted,
				proxy: { address: at('gatehouse-proxy'), user: WARDEN.user, password: '{$secret.word}' }
			},
			{ secrets: { word: WARDEN.password } }
		);
		expect(report.outcome).toBe('passed');
		expect(report.stages.find((stage) => stage.key === 'proxy')).toMatchObject({ state: 'passed' });
	});
	test.each([
		['tls.version', { base: 'gatehouse-old', tls: trusted }, ['tls', 'min']],
		['tls.selfSigned', { base: 'gatehouse-self-signed' }, ['tls', 'authorities']],
		['tls.wrongName', { base: 'gatehouse-other-name', tls: trusted }, ['tls', 'name']],
		['tls.missingIntermediate', { base: 'gatehouse-incomplete', tls: trusted }, ['tls', 'authorities']]
	])('%s offers a change of the connection that fixes it', async (code, { base, ...rest }, path) => {
		const connection = { base: at(base), ...rest };
		const report = await check(connection);
		const stage = report.stages.find((one) => one.code === code)!;
		const [fix] = stage.fixes;
		expect(fix!.edits.some((edit) => edit.path.join('.').startsWith(path.join('.')))).toBe(true);
		const { setIn } = await import('#core/model/path.ts');
		let changed = connection as never;
		for (const edit of fix!.edits) changed = setIn(changed, edit.path, edit.value) as never;
		const given = Object.fromEntries((fix!.files ?? []).map((file) => [file.path, file.text]));
		const again = await check(changed, { files: given });
		expect(again.stages.find((one) => one.key === 'tls')!.state).not.toBe('failed');
	});
	test('a base address without its scheme is given one, where it is written', async () => {
		const bare = at('moorings').replace('http://', '');
		const here = await check({ base: bare }, { wrong: true });
		expect(here.stages[0]!.fixes.map((fix) => [fix.label, fix.edits[0]!.value])).toEqual([
			['Begin it with https://', `https://${bare}`],
			['Begin it with http://', `http://${bare}`]
		]);
		const there = await check(
			{ base: '{$env.host}/v1' },
			{ environments: { local: { variables: { host: '127.0.0.1:9' } } }, environment: 'local' }
		);
		expect(there.stages[0]!.fixes[0]!.edits[0]).toMatchObject({
			file: 'environments/local.yaml',
			value: 'https://127.0.0.1:9'
		});
	});
	test('where somebody has to sign in, credentials that answer what is asked for are offered', async () => {
		const report = await check(
			{ base: `${at('gatehouse')}/basic`, tls: trusted },
			{
				credentials: {
					token: { kind: 'bearer', token: '{$secret.word}' },
					warden: { kind: 'basic', user: WARDEN.user, password: '{$secret.word}' }
				},
				secrets: { word: WARDEN.password }
			}
		);
		const { fixes } = report.stages.find((stage) => stage.code === 'auth.unauthorized')!;
		expect(fixes.map((fix) => fix.label)).toEqual(['Sign in as warden']);
		expect(fixes[0]!.edits).toEqual([{ file: 'connections/one.yaml', path: ['credential'], value: 'warden' }]);
	});
	test('what differs in the environment is fixed there', async () => {
		const report = await check(
			{ base: 'https://127.0.0.1:9', environments: { staging: { base: at('gatehouse-self-signed') } } },
			{ environments: { staging: { variables: {} } }, environment: 'staging' }
		);
		const [fix] = report.stages.find((one) => one.code === 'tls.selfSigned')!.fixes;
		expect(fix!.edits[0]!.path.slice(0, 2)).toEqual(['environments', 'staging']);
	});
	test('the address with a secret in it is masked everywhere', async () => {
		const report = await check({ base: `${at('mirror')}/{$secret.key}` }, { secrets: { key: 'canary-in-the-path' } });
		expect(JSON.stringify(report)).not.toContain('canary-in-the-path');
		expect(report.url).toContain('‹key›');
	});
});
