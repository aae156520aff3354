import forge from 'node-forge';
import { generateKeyPairSync } from 'node:crypto';
import { readFileSync } from 'node:fs';
import http from 'node:http';
import type { AddressInfo } from 'node:net';
import { createClientAsync, WSSecurity, WSSecurityCert, type Client } from 'soap';
import { afterEach, describe, expect, test } from 'vitest';
import type { JsonObject } from '#core/model/json.ts';
import { parseXml } from '#core/soap/index.ts';
import type { StandInsNow } from '#server/engine/stand-in/index.ts';
import { schema as tollTypes } from '../../standins/tolls/definition.ts';
import { open, request } from '../support/credential.ts';
import { ask, running } from '../support/stand-in.ts';

const ledger = readFileSync(new URL('../../demo/reedmere/definitions/tolls/ledger.wsdl', import.meta.url), 'utf8');
const S11 = 'http://schemas.xmlsoap.org/soap/envelope/';
const S12 = 'http://www.w3.org/2003/05/soap-envelope';
const WSA = 'http://www.w3.org/2005/08/addressing';

let now: StandInsNow | undefined;
afterEach(async () => {
	await now?.close();
	now = undefined;
});

/** Two certificates: of a clerk, and of the authority that signed it; and one of nobody. */
function certificates() {
	const pair = () => {
		const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
		return {
			key: privateKey.export({ type: 'pkcs8', format: 'pem' }) as string,
			public: publicKey.export({ type: 'spki', format: 'pem' }) as string
		};
	};
	const make = (
		subject: string,
		own: ReturnType<typeof pair>,
		issuer: string,
		by: ReturnType<typeof pair>,
		days = 1
	) => {
		const made = forge.pki.createCertificate();
		made.publicKey = forge.pki.publicKeyFromPem(own.public);
		made.serialNumber = '01';
		made.validity.notBefore = new Date(Date.now() - 172_800_000);
		made.validity.notAfter = new Date(Date.now() + days * 86_400_000);
		made.setSubject([{ name: 'commonName', value: subject }]);
		made.setIssuer([{ name: 'commonName', value: issuer }]);
		made.sign(forge.pki.privateKeyFromPem(by.key), forge.md.sha256.create());
		return { key: own.key, pem: forge.pki.certificateToPem(made) };
	};
	const [authority, clerk, nobody, late] = [pair(), pair(), pair(), pair()];
	return {
		authority: make('authority', authority, 'authority', authority),
		clerk: make('clerk', clerk, 'authority', authority),
		nobody: make('nobody', nobody, 'nobody', nobody),
		late: make('late', late, 'authority', authority, -1)
	};
}
const certs = certificates();
const files = {
	'definitions/tolls/ledger.wsdl': ledger,
	'definitions/tolls/tolls.xsd': tollTypes,
	'files/authority.pem': certs.authority.pem,
	'files/clerk.pem': certs.clerk.pem
};

async function tolls(wsSecurity: JsonObject | undefined, answers: object[] = []) {
	now = await running({
		standIns: {
			tolls: {
				definition: 'tolls/ledger.wsdl',
				otherwise: 'definition',
				...(wsSecurity ? { wsSecurity } : {}),
				answers
			}
		},
		files,
		secrets: { clerk: 'lock-gate-9' }
	});
	const [{ address, log }] = now.list as [StandInsNow['list'][0]];
	return { base: address, log };
}
const body = `<t:QuoteToll xmlns:t="urn:reedmere:tolls:types"><t:lock>Mill Lock</t:lock><t:craft><t:name>Pike</t:name><t:kind>barge</t:kind><t:length>9</t:length></t:craft><t:season>summer</t:season></t:QuoteToll>`;
const envelope = (version = S11, header = '') =>
	`<e:Envelope xmlns:e="${version}">${header && `<e:Header>${header}</e:Header>`}<e:Body>${body}</e:Body></e:Envelope>`;
const post = (base: string, text: string) =>
	ask(base, 'POST /', text, { 'content-type': text.includes(S12) ? 'application/soap+xml' : 'text/xml' });

/** An envelope with a Security header of ours. */
async function secured(value: JsonObject, text = envelope(), options: object = {}): Promise<string> {
	const own = { files: { 'files/own.pem': certs.clerk.pem, 'files/own.key': certs.clerk.key }, now: Date.now() };
	const { authorizer } = open({ kind: 'ws-security', ...value }, { ...own, ...options });
	const sent = await authorizer.apply(request('POST http://127.0.0.1:9/', [['Content-Length', '1']], text));
	return new TextDecoder().decode(sent.body);
}
/** The code of a fault without its prefix, or `taken`. */
const codeOf = (text: string): string =>
	/<faultcode[^>]*>\w+:(\w+)</.exec(text)?.[1] ??
	/<env:Subcode><env:Value[^>]*>\w+:(\w+)</.exec(text)?.[1] ??
	(/QuoteTollResponse/.test(text) ? 'taken' : text);

describe('WS-Security, as a client of another library writes it', () => {
	const user = { user: 'avery', password: '{$secret.clerk}', timestamp: '5 min' };
	const call = async (base: string, arm: (client: Client) => void): Promise<string> => {
		const client = await createClientAsync(`${base}/?wsdl`, { endpoint: base });
		arm(client);
		try {
			await client.QuoteTollAsync!({
				lock: 'Mill Lock',
				craft: { name: 'Pike', kind: 'barge', length: 9 },
				season: 'summer'
			});
			return 'taken';
		} catch (error) {
			return codeOf((error as { body?: string }).body ?? String(error));
		}
	};
	test.each([
		['a digest of the right password', 'PasswordDigest', 'lock-gate-9', {}, 'taken'],
		['the right password in plain text', 'PasswordText', 'lock-gate-9', {}, 'taken'],
		['a digest of a wrong password', 'PasswordDigest', 'lock-gate-8', {}, 'FailedAuthentication'],
		['a wrong password in plain text', 'PasswordText', 'lock-gate-8', {}, 'FailedAuthentication'],
		['no timestamp', 'PasswordText', 'lock-gate-9', { hasTimeStamp: false }, 'InvalidSecurity']
	])('%s', async (_, passwordType, password, options, expected) => {
		const { base, log } = await tolls(user);
		const came = await call(base, (client) =>
			client.setSecurity(new WSSecurity('avery', password, { passwordType, hasTimeStamp: true, ...options }))
		);
		expect(came).toBe(expected);
		expect(log.find({}).at(-1)!.notes.join()).toContain(expected === 'taken' ? '' : `WS-Security: ${expected}`);
		// what is wanted is a secret, and stays one
		expect(JSON.stringify(log.find({}))).not.toContain('lock-gate-9');
	});
	test.each([
		['by the certificate that is known', 'files/clerk.pem', 'clerk', 'taken'],
		['by one that the known one has signed', 'files/authority.pem', 'clerk', 'taken'],
		['by any, where any will do', true, 'nobody', 'taken'],
		['by a stranger', 'files/authority.pem', 'nobody', 'FailedAuthentication'],
		['by one that has run out', 'files/authority.pem', 'late', 'FailedAuthentication']
	] as const)('a signature %s', async (_, certificate, by, expected) => {
		const { base } = await tolls({ certificate, timestamp: '10 min', sign: 'body timestamp' });
		const { key, pem } = certs[by];
		expect(
			await call(base, (client) =>
				client.setSecurity(
					new WSSecurityCert(key, pem, '', { signatureAlgorithm: 'http://www.w3.org/2001/04/xmldsig-more#rsa-sha256' })
				)
			)
		).toBe(expected);
	});
});

describe('WS-Security, as it comes to be refused', () => {
	const user = { user: 'avery', password: 'lock-gate-9' };
	const wanted = { user: 'avery', password: '{$secret.clerk}' };
	const signed = { certificate: 'files/own.pem', key: 'files/own.key', timestamp: '5 min' };
	const change = (from: string | RegExp, to: string) => (text: string) => {
		expect(text).toMatch(from);
		return text.replace(from, to);
	};
	const same = (text: string) => text;
	const late = { now: Date.now() - 900_000 };
	const early = { now: Date.now() + 900_000 };
	const at: [string, JsonObject, JsonObject, object, (text: string) => string, string][] = [
		[
			'no header at all',
			wanted,
			{ timestamp: '5 min' },
			{},
			change(/<e:Header>[\s\S]*<\/e:Header>/, ''),
			'InvalidSecurity'
		],
		['a timestamp and no user', wanted, { timestamp: '5 min' }, {}, same, 'InvalidSecurity'],
		['another user', wanted, { ...user, user: 'blake' }, {}, same, 'FailedAuthentication'],
		[
			'plain text where a digest is wanted',
			{ ...wanted, passwordType: 'digest' },
			{ ...user, passwordType: 'text' },
			{},
			same,
			'UnsupportedSecurityToken'
		],
		['no password', wanted, { user: 'avery', passwordType: 'none' }, {}, same, 'InvalidSecurityToken'],
		[
			'a digest without its nonce',
			wanted,
			user,
			{},
			change(/<wsse:Nonce[\s\S]*?<\/wsse:Nonce>/, ''),
			'InvalidSecurityToken'
		],
		['a digest that was made long ago', wanted, user, late, same, 'FailedAuthentication'],
		[
			'a timestamp that has expired, though none is wanted',
			wanted,
			{ ...user, timestamp: '5 min' },
			late,
			same,
			'MessageExpired'
		],
		['a timestamp of the future', { timestamp: '5 min' }, { timestamp: '5 min' }, early, same, 'InvalidSecurity'],
		[
			'a timestamp that ends before it begins',
			{ timestamp: '5 min' },
			{ timestamp: '5 min' },
			{},
			change(/(<wsu:Expires>)\d{4}/, '$12001'),
			'InvalidSecurity'
		],
		[
			'a timestamp that is no time',
			{ timestamp: '5 min' },
			{ timestamp: '5 min' },
			{},
			change(/(<wsu:Created>)[^<]*/, '$1today'),
			'InvalidSecurity'
		],
		[
			'a timestamp that may live longer than is wanted',
			{ timestamp: '1 min' },
			{ timestamp: '2 h' },
			late,
			same,
			'MessageExpired'
		],
		['no signature', { certificate: true }, user, {}, same, 'InvalidSecurity'],
		['a body that was changed', { certificate: true }, signed, {}, change('Mill Lock', 'Hill Lock'), 'FailedCheck'],
		[
			'a signature that leaves the body out',
			{ certificate: true },
			{ ...signed, sign: ['timestamp'] },
			{},
			same,
			'FailedCheck'
		],
		[
			'a signature that leaves the timestamp out',
			{ certificate: true, timestamp: '5 min' },
			{ ...signed, sign: ['body'] },
			{},
			same,
			'FailedCheck'
		],
		...['Id', 'wsu:Id', 'ID'].map((name): (typeof at)[0] => [
			`a signed body that was moved away, and one of the same ${name} in its place`,
			{ certificate: true, sign: 'body' },
			signed,
			{},
			(text) => {
				const own = /<e:Body[\s\S]*<\/e:Body>/.exec(text)![0];
				const id = /Body-\w+/.exec(own)![0];
				const put = `<e:Body xmlns:wsu="http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-utility-1.0.xsd" ${name}="${id}">${body}</e:Body>`;
				return text.replace(own, put).replace('</e:Header>', `<x xmlns="urn:x">${own}</x></e:Header>`);
			},
			'FailedCheck'
		]),
		[
			'a signed body that was moved away, and another in its place',
			{ certificate: true, sign: 'body' },
			signed,
			{},
			(text) => {
				const own = /<e:Body[\s\S]*<\/e:Body>/.exec(text)![0];
				return text
					.replace(own, `<e:Body>${body}</e:Body>`)
					.replace('</e:Header>', `<x xmlns="urn:x">${own}</x></e:Header>`);
			},
			'FailedCheck'
		],
		[
			'a token that is no certificate',
			{ certificate: true },
			signed,
			{},
			change(/(<wsse:BinarySecurityToken[^>]*>)[^<]*/, '$1bm9uZQ=='),
			'InvalidSecurityToken'
		],
		[
			'a reference to a token that is not there',
			{ certificate: true },
			signed,
			{},
			change(/URI="#X509-\w+"/, 'URI="#gone"'),
			'SecurityTokenUnavailable'
		],
		[
			'an algorithm that nobody knows',
			{ certificate: true },
			signed,
			{},
			change(/SignatureMethod Algorithm="[^"]*"/, 'SignatureMethod Algorithm="urn:none"'),
			'UnsupportedAlgorithm'
		],
		[
			'a signature by a shared secret',
			{ certificate: true },
			signed,
			{},
			change(
				/SignatureMethod Algorithm="[^"]*"/,
				'SignatureMethod Algorithm="http://www.w3.org/2000/09/xmldsig#hmac-sha1"'
			),
			'UnsupportedAlgorithm'
		]
	];
	test.each(at)('%s', async (_, wsSecurity, value, options, edit, expected) => {
		const { base } = await tolls(wsSecurity);
		for (const version of [S11, S12]) {
			const came = await post(base, edit(await secured(value, envelope(version), options)));
			expect(codeOf(came.text)).toBe(expected);
			expect(came.status).toBe(version === S12 ? 400 : 500);
			expect(parseXml(came.text).local).toBe('Envelope');
		}
	});
	test('a nonce works once, until the stand-in is reset', async () => {
		const { base } = await tolls(wanted);
		const text = await secured(user);
		const codes = [await post(base, text), await post(base, text)].map((came) => codeOf(came.text));
		await ask(base, 'POST /.stand-in/reset');
		expect([...codes, codeOf((await post(base, text)).text)]).toEqual(['taken', 'FailedAuthentication', 'taken']);
	});
	test('who it was is known to checks and answers', async () => {
		const { base } = await tolls({ ...wanted, certificate: true }, [
			{
				id: 'blake',
				ask: 'QuoteToll',
				must: [{ that: "$request.security.user = 'blake'" }],
				answer: { body: { soap: { fault: { reason: 'not you' } } } }
			},
			{
				id: 'own',
				ask: 'QuoteToll',
				answer: {
					body: { soap: { fault: { reason: '{$request.security.user} by {$request.security.certificate.subject}' } } }
				}
			}
		]);
		expect((await post(base, await secured({ ...user, ...signed }))).text).toContain('>avery by CN=clerk<');
	});
	test('the definition is told without it', async () => {
		const { base } = await tolls(wanted);
		expect((await ask(base, 'GET /?wsdl')).text).toContain('QuoteToll');
	});
});

describe('WS-Addressing', () => {
	const fields = (reply: string, more = '') =>
		`<a:To xmlns:a="${WSA}">urn:here</a:To><a:Action xmlns:a="${WSA}">urn:reedmere:tolls/QuoteToll</a:Action><a:MessageID xmlns:a="${WSA}">urn:uuid:1</a:MessageID>${reply && `<a:ReplyTo xmlns:a="${WSA}"><a:Address>${reply}</a:Address><a:ReferenceParameters><own:Ticket xmlns:own="urn:own">T-7</own:Ticket><wsa:Own xmlns:wsa="urn:other">T-8</wsa:Own></a:ReferenceParameters></a:ReplyTo>`}${more}`;

	/** A listener of our own, and what came to it. */
	async function listening() {
		const came: { path: string; body: string; headers: http.IncomingHttpHeaders }[] = [];
		const server = http.createServer((incoming, response) => {
			let text = '';
			incoming.on('data', (chunk) => (text += String(chunk)));
			incoming.on('end', () => {
				came.push({ path: incoming.url ?? '', body: text, headers: incoming.headers });
				response.writeHead(202).end();
			});
		});
		await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
		return { came, server, at: `http://127.0.0.1:${(server.address() as AddressInfo).port}` };
	}

	test.each([S11, S12])('an answer says to what it relates (%s)', async (version) => {
		const { base, log } = await tolls(undefined);
		const { text, status } = await post(base, envelope(version, fields(`${WSA}/anonymous`)));
		expect(status).toBe(200);
		expect(text).toContain('RelatesTo xmlns:wsa="http://www.w3.org/2005/08/addressing">urn:uuid:1<');
		// by the default pattern of WS-Addressing 1.0 Metadata section 4.4.4
		expect(text).toMatch(/<wsa:Action [^>]*>urn:reedmere:tolls:Ledger:QuoteTollResponse</);
		expect(text).not.toContain('T-7');
		await expect.poll(() => log.find({})[0]?.drift).toEqual([]);
	});
	test('what is asked without it is answered without it', async () => {
		const { base } = await tolls(undefined);
		expect((await post(base, envelope())).text).not.toContain('addressing');
	});
	test('an answer goes where ReplyTo has it, with what was given along', async () => {
		const { base, log } = await tolls(undefined);
		const { came, server, at } = await listening();
		try {
			const reply = await post(base, envelope(S12, fields(`${at}/replies`)));
			expect([reply.status, reply.text]).toEqual([202, '']);
			await expect.poll(() => came.length).toBe(1);
			const [one] = came as [(typeof came)[0]];
			expect(one.path).toBe('/replies');
			expect(one.headers['content-type']).toContain('application/soap+xml');
			expect(one.body).toContain('QuoteTollResponse');
			expect(one.body).toContain(`To xmlns:wsa="${WSA}">${at}/replies<`);
			expect(one.body).toContain('RelatesTo');
			expect(one.body).toMatch(/<own:Ticket[^>]* _rp:IsReferenceParameter="true"[^>]*>T-7</);
			expect(parseXml(one.body).local).toBe('Envelope');
			await expect
				.poll(() => log.find({}).map(({ calledBack, status }) => [calledBack, status]))
				.toEqual([
					[undefined, 202],
					[1, 202]
				]);
			expect(log.find({})[0]!.notes.join()).toContain(`its answer goes to ${at}/replies`);
		} finally {
			server.close();
		}
	});
	test('a fault goes to FaultTo, and one that is for nobody goes nowhere', async () => {
		const fail = [{ id: 'no', ask: 'QuoteToll', answer: { body: { soap: { fault: { reason: 'shut' } } } } }];
		const { base, log } = await tolls(undefined, fail);
		const { came, server, at } = await listening();
		try {
			const faultTo = `<a:FaultTo xmlns:a="${WSA}"><a:Address>${at}/faults</a:Address></a:FaultTo>`;
			expect((await post(base, envelope(S11, fields(`${at}/replies`, faultTo)))).status).toBe(202);
			await expect.poll(() => came.map(({ path }) => path)).toEqual(['/faults']);
			expect(came[0]!.body).toContain('shut');
			expect((await post(base, envelope(S11, fields(`${WSA}/none`)))).status).toBe(202);
			expect(log.find({}).at(-1)!.notes.join()).toContain('no answer is wanted');
		} finally {
			server.close();
		}
	});
	test('an address that is none is told, and takes nobody down', async () => {
		const { base, log } = await tolls(undefined);
		expect((await post(base, envelope(S11, fields('mailto:harbour')))).status).toBe(202);
		await expect
			.poll(
				() =>
					log
						.find({})
						.find(({ calledBack }) => calledBack)
						?.notes.join() ?? ''
			)
			.toMatch(/mailto:harbour/);
		expect((await post(base, envelope())).status).toBe(200);
	});
});
