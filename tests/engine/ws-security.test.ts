import { createPublicKey, generateKeyPairSync, verify } from 'node:crypto';
import forge from 'node-forge';
import { SignedXml } from 'xml-crypto';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { usernameDigest } from '#core/auth/index.ts';
import type { JsonObject } from '#core/model/json.ts';
import { parseXml } from '#core/soap/index.ts';
import { makeIdentity } from '../../standins/gatehouse/certificates.ts';
import { createTolls } from '../../standins/tolls/index.ts';
import { createLedger } from '../../standins/tolls/ledger.ts';
import { open, request } from '../support/credential.ts';

const bytes = (text: string) => new TextEncoder().encode(text);
const S11 = 'http://schemas.xmlsoap.org/soap/envelope/';
const S12 = 'http://www.w3.org/2003/05/soap-envelope';
const envelope = (version = S11) =>
	`<?xml version="1.0"?>\n<e:Envelope xmlns:e="${version}" xmlns:unused="urn:unused">\n  <e:Body a="1">\n    <x:Ask xmlns:x="urn:x" z='2' b="1">Süd &amp; <![CDATA[<West>]]></x:Ask>\n  </e:Body>\n</e:Envelope>`;
const url = 'POST http://127.0.0.1:9/';

/** The envelope as it goes out. */
async function secured(value: JsonObject, text = envelope(), options = {}): Promise<string> {
	const sent = await open({ kind: 'ws-security', ...value }, options).authorizer.apply(
		request(url, [['Content-Length', '1']], text)
	);
	const length = sent.headers.find(([name]) => name === 'Content-Length')![1];
	expect(Number(length)).toBe(sent.body.length);
	return new TextDecoder().decode(sent.body);
}

test('the digest of the published example of a UsernameToken', () => {
	// nonce, time and password as its authors printed them
	const nonce = bytes('d36e316282959a9ed4c89851497a717f');
	expect(usernameDigest(nonce, '2003-12-15T14:43:07Z', 'taadtaadpstcsm')).toBe('quR/EWLAV4xLf9Zqyw4pDmfV9OY=');
});

describe('the header', () => {
	test('is the first entry, for whom it is meant and to be understood, in both versions', async () => {
		const value = { user: 'avery', password: 'p&<q', passwordType: 'text', actor: 'urn:gate' };
		const one = await secured(value);
		expect(one).toMatch(/<e:Header>\s*<wsse:Security [^>]*e:mustUnderstand="1" e:actor="urn:gate">/);
		expect(one).toContain('#PasswordText">p&amp;&lt;q</wsse:Password>');
		const two = await secured({ ...value, mustUnderstand: false }, envelope(S12));
		expect(two).toMatch(/<wsse:Security xmlns:wsse="[^"]*" e:role="urn:gate">/);
		expect(two).not.toContain('mustUnderstand');
	});
	test('goes into a header that is there, also an empty one, and before what stands in it', async () => {
		const value = { timestamp: '1 min' };
		const given = (header: string) => envelope().replace('<e:Body', `${header}<e:Body`);
		for (const header of ['<e:Header/>', '<e:Header></e:Header>', '<e:Header><own xmlns="urn:own"/></e:Header>']) {
			const text = await secured(value, given(header));
			const root = parseXml(text);
			const head = root.children.find((one) => typeof one !== 'string' && one.local === 'Header');
			const inside = typeof head === 'object' ? head.children.filter((one) => typeof one !== 'string') : [];
			expect(inside.map((one) => (typeof one === 'string' ? '' : one.local))[0], header).toBe('Security');
			expect(text.match(/Header>/g)).toHaveLength(2);
		}
	});
	test('a timestamp ends as long after as was said', async () => {
		const text = await secured({ timestamp: '5 min' }, envelope(), { now: Date.parse('2027-05-03T09:30:00Z') });
		expect(text).toContain(
			'<wsu:Created>2027-05-03T09:30:00.000Z</wsu:Created><wsu:Expires>2027-05-03T09:35:00.000Z</wsu:Expires>'
		);
	});
	test('a body that is no envelope is refused', async () => {
		await expect(secured({ timestamp: '1 min' }, '{"a": 1}')).rejects.toThrow(/the body of this step is none/);
	});
	test('an envelope among other parts is found, and they stay as they are', async () => {
		const around = `--b\r\nContent-Type: application/xop+xml\r\n\r\n${envelope()}\r\n--b\r\n\r\n\u0000ÿ\r\n--b--`;
		const text = await secured({ user: 'avery', password: 'x' }, around);
		expect(text).toContain('--b\r\n\r\n\u0000ÿ\r\n--b--');
		expect(text).toContain('<wsse:Username>avery</wsse:Username>');
	});
});

/** The library knows no ECDSA: the platform judges the numbers, the library all else. */
class Ecdsa {
	verifySignature(data: string, certificate: string, signature: string): boolean {
		const key = createPublicKey(certificate);
		return verify('sha256', Buffer.from(data), { key, dsaEncoding: 'ieee-p1363' }, Buffer.from(signature, 'base64'));
	}
	getSignature = () => '';
	getAlgorithmName = () => 'http://www.w3.org/2001/04/xmldsig-more#ecdsa-sha256';
}

describe('a signature', () => {
	const { privateKey, publicKey } = generateKeyPairSync('rsa', { modulusLength: 2048 });
	const key = privateKey.export({ type: 'pkcs8', format: 'pem' }) as string;
	const certificate = forge.pki.createCertificate();
	certificate.publicKey = forge.pki.publicKeyFromPem(publicKey.export({ type: 'spki', format: 'pem' }) as string);
	certificate.setSubject([{ name: 'commonName', value: 'clerk' }]);
	certificate.setIssuer([{ name: 'commonName', value: 'clerk' }]);
	certificate.sign(forge.pki.privateKeyFromPem(key), forge.md.sha256.create());
	const pem = forge.pki.certificateToPem(certificate);
	const files = { 'files/clerk.pem': pem, 'files/clerk.key': key };
	const value = {
		certificate: 'files/clerk.pem',
		key: 'files/clerk.key',
		timestamp: '5 min',
		user: 'avery',
		password: 'x',
		sign: ['body', 'timestamp', 'token']
	};
	/** Whether a library that is not ours says that it holds, and what it covers. */
	function verified(text: string, by = pem): string[] | false {
		const start = text.indexOf('<ds:Signature ');
		const signature = text.slice(start, text.indexOf('</ds:Signature>') + '</ds:Signature>'.length);
		const signed = new SignedXml({ publicCert: by, idMode: 'wssecurity', getCertFromKeyInfo: () => null });
		signed.SignatureAlgorithms[`http://www.w3.org/2001/04/xmldsig-more#ecdsa-sha256`] = Ecdsa as never;
		signed.loadSignature(signature);
		try {
			return signed.checkSignature(text) ? signed.getSignedReferences() : false;
		} catch {
			return false;
		}
	}
	test.each(['rsa-sha256', 'rsa-sha1'])(
		'by %s holds for whoever knows the standard, and covers what was chosen',
		async (algorithm) => {
			const text = await secured({ ...value, algorithm }, envelope(), { files });
			const covered = verified(text);
			expect(covered).toHaveLength(3);
			expect((covered as string[]).join('\n')).toContain('Süd &amp; &lt;West&gt;');
			expect(text).toContain(pem.replace(/-----[^-]+-----|\s/g, ''));
		}
	);
	test.each([
		['the body', (text: string) => text.replace('Süd', 'Ost')],
		['the timestamp', (text: string) => text.replace(/(<wsu:Expires>\d{3})\d/, '$19')],
		['the user', (text: string) => text.replace('>avery<', '>blake<')]
	])('does not hold when %s was changed on the way', async (_, change) => {
		const text = await secured(value, envelope(), { files });
		expect(change(text)).not.toBe(text);
		expect(verified(change(text))).toBe(false);
	});
	test('by an EC key holds, without a word on the algorithm, and covers the headers of WS-Addressing', async () => {
		const { cert, key: ecKey } = await makeIdentity({ name: 'warden' });
		const header = `<e:Header><a:Action xmlns:a="http://www.w3.org/2005/08/addressing">urn:ask</a:Action><a:To xmlns:a="http://www.w3.org/2005/08/addressing" xmlns:wsu="urn:other">urn:gate</a:To><own xmlns="urn:own"/></e:Header>`;
		const text = await secured(
			{ certificate: 'files/ec.pem', key: 'files/ec.key', sign: ['body', 'addressing'] },
			envelope().replace('<e:Body', `${header}<e:Body`),
			{ files: { 'files/ec.pem': cert, 'files/ec.key': ecKey } }
		);
		expect(text).toContain('Algorithm="http://www.w3.org/2001/04/xmldsig-more#ecdsa-sha256"');
		const covered = verified(text, cert) as string[];
		expect(covered).toHaveLength(3);
		expect(covered.join('\n')).toMatch(/urn:ask[\s\S]*urn:gate[\s\S]*Süd/);
		expect(verified(text.replace('urn:gate', 'urn:weir'), cert)).toBe(false);
	});
	test('goes over an id that the body has, and into a Security header that is there for the same receiver', async () => {
		const wsu = 'http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-utility-1.0.xsd';
		const wsse = 'http://docs.oasis-open.org/wss/2004/01/oasis-200401-wss-wssecurity-secext-1.0.xsd';
		const own = `<e:Header><o:Security xmlns:o="${wsse}" e:mustUnderstand="1"><o:Own/></o:Security></e:Header>`;
		const given = envelope().replace('<e:Body', `${own}<e:Body xmlns:u="${wsu}" u:Id="mine"`);
		const text = await secured(value, given, { files });
		expect(verified(text)).toHaveLength(3);
		expect(text).toContain('<ds:Reference URI="#mine">');
		expect(text.match(/[^/]Id="/g)!.length).toBe(4);
		expect(text.match(/<[\w]+:Security /g)).toEqual(['<o:Security ']);
		expect(text).toMatch(/<o:Own\/><\/o:Security>/);
		const other = await secured({ ...value, actor: 'urn:gate' }, given, { files });
		expect(other.match(/<[\w]+:Security /g)).toHaveLength(2);
	});
	test('with a key that belongs to another certificate is refused before anything is sent', async () => {
		const { key: ecKey } = await makeIdentity({ name: 'warden' });
		await expect(secured(value, envelope(), { files: { ...files, 'files/clerk.key': ecKey } })).rejects.toThrow(
			/does not belong to the certificate of CN=clerk: that is for an RSA key of 2048 bits, this is an EC key on P-256/
		);
	});
	test('an envelope that is broken on purpose gets its header, but no signature', async () => {
		const broken = envelope().replace('</x:Ask>', '');
		expect(await secured({ user: 'avery', password: 'x' }, broken)).toContain('<wsse:Username>avery</wsse:Username>');
		await expect(secured(value, broken, { files })).rejects.toThrow(/the envelope is to be signed and cannot be read/);
	});
	test('with a key that is none is refused in words', async () => {
		await expect(secured(value, envelope(), { files: { ...files, 'files/clerk.key': pem } })).rejects.toThrow(
			/not a private key/
		);
		await expect(secured({ ...value, key: 'files/gone.key' }, envelope(), { files })).rejects.toThrow(
			/no file files\/gone.key/
		);
	});
});

describe('the toll house looks at the clock, and at the nonce', () => {
	let app: Awaited<ReturnType<typeof createTolls>>;
	let base = '';
	beforeAll(async () => {
		app = await createTolls(createLedger());
		base = await app.listen({ host: '127.0.0.1', port: 0 });
	});
	afterAll(() => app.close());
	const ask = `<e:Envelope xmlns:e="${S11}"><e:Body><t:RecordPassage xmlns:t="urn:reedmere:tolls:types"><t:lock>Mill Lock</t:lock><t:craft><t:name>Pike</t:name><t:kind>barge</t:kind><t:length>9</t:length></t:craft><t:direction>up</t:direction><t:passedAt>2027-05-14T07:40:00Z</t:passedAt></t:RecordPassage></e:Body></e:Envelope>`;
	test.each([
		['a clock that is right', 0, 1, /RecordPassageResponse/],
		['a clock that is ten minutes late', -600_000, 2, /made too long ago, or is of the future/],
		['a clock that is ten minutes early', 600_000, 3, /made too long ago, or is of the future/],
		['a nonce that was used before', 0, 1, /the nonce was used before/]
	])('%s', async (_, skew, random, expected) => {
		const text = await secured({ user: 'avery', password: 'lock-gate-9' }, ask, { now: Date.now() + skew, random });
		const headers = { 'content-type': 'text/xml', soapaction: '"urn:reedmere:tolls/RecordPassage"' };
		const reply = await fetch(`${base}/ledger`, { method: 'POST', headers, body: text });
		expect(await reply.text()).toMatch(expected);
	});
});
