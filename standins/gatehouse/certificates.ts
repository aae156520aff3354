import 'reflect-metadata';
import * as x509 from '@peculiar/x509';
import { createPrivateKey, webcrypto } from 'node:crypto';

// Everybody has this key. The authority is of use on loopback, for these stand-ins, and must be trusted nowhere else;
// it stays the same so that demo/reedmere/files/gatehouse/authority.pem can be shipped.
const AUTHORITY_KEY =
	'MIGHAgEAMBMGByqGSM49AgEGCCqGSM49AwEHBG0wawIBAQQgHYm1JEkvFbGAKPkLishN5Zv/fxtUkwBhtNLkNEYoAbGhRANCAASdx8wmQ7sUXEgtx4K0+v++Ztk8ira9kbHQbs2Sfg908/QisP58hBcUjjcco7vJIhqjuv73MhuId2AVy1UM9+sN';

export const authorityPem = `-----BEGIN CERTIFICATE-----
MIIB4jCCAYmgAwIBAgIUalWeRy8s05IjW+PW4+v9lMC1QD0wCgYIKoZIzj0EAwIw
PzEbMBkGA1UECgwSUmVlZG1lcmUgV2F0ZXJ3YXlzMSAwHgYDVQQDDBdSZWVkbWVy
ZSBUZXN0IEF1dGhvcml0eTAeFw0yNjExMjUwODAwMTlaFw00NjExMjAwODAwMTla
MD8xGzAZBgNVBAoMElJlZWRtZXJlIFdhdGVyd2F5czEgMB4GA1UEAwwXUmVlZG1l
cmUgVGVzdCBBdXRob3JpdHkwWTATBgcqhkjOPQIBBggqhkjOPQMBBwNCAASdx8wm
Q7sUXEgtx4K0+v++Ztk8ira9kbHQbs2Sfg908/QisP58hBcUjjcco7vJIhqjuv73
MhuId2AVy1UM9+sNo2MwYTAdBgNVHQ4EFgQU6TaKsFpsr5OAMvoGwvFLuSlCWwww
HwYDVR0jBBgwFoAU6TaKsFpsr5OAMvoGwvFLuSlCWwwwDwYDVR0TAQH/BAUwAwEB
/zAOBgNVHQ8BAf8EBAMCAQYwCgYIKoZIzj0EAwIDRwAwRAIgHz44q1v7AU8G6ZRX
IbWa4BbKUt7VymSJZD/johClye4CIGqLg2WDOwuR5Yn0WicwQtYU3mBr+4bB2z/P
6wc8LmMA
-----END CERTIFICATE-----
`;

const ALGORITHM = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' };
const DAY_MS = 86_400_000;
x509.cryptoProvider.set(webcrypto as Crypto);

export interface Identity {
	/** PEM; the leaf first, then what is sent along. */
	cert: string;
	key: string;
}

interface Issuer {
	name: string;
	key: CryptoKey;
}

const pemKey = async (key: CryptoKey): Promise<string> => {
	const der = Buffer.from(await webcrypto.subtle.exportKey('pkcs8', key as webcrypto.CryptoKey));
	return createPrivateKey({ key: der, format: 'der', type: 'pkcs8' }).export({
		format: 'pem',
		type: 'pkcs8'
	}) as string;
};
const newKeys = () => webcrypto.subtle.generateKey(ALGORITHM, true, ['sign', 'verify']) as Promise<CryptoKeyPair>;

async function authority(): Promise<Issuer> {
	const der = Buffer.from(AUTHORITY_KEY, 'base64');
	const key = (await webcrypto.subtle.importKey('pkcs8', der, ALGORITHM, false, ['sign'])) as CryptoKey;
	return { name: new x509.X509Certificate(authorityPem).subject, key };
}

interface Wanted {
	name: string;
	/** Host names and addresses; those of loopback when left out. */
	hosts?: string[];
	/** Days from now. */
	from?: number;
	to?: number;
}

/** A leaf certificate; signed by itself without an issuer. */
async function leaf({ name, hosts = LOOPBACK, from = -1, to = 90 }: Wanted, issuer?: Issuer): Promise<Identity> {
	const keys = await newKeys();
	const subject = `O=Reedmere Waterways, CN=${name}`;
	const made = await x509.X509CertificateGenerator.create({
		subject,
		issuer: issuer?.name ?? subject,
		notBefore: new Date(Date.now() + from * DAY_MS),
		notAfter: new Date(Date.now() + to * DAY_MS),
		signingAlgorithm: ALGORITHM,
		publicKey: keys.publicKey,
		signingKey: issuer?.key ?? keys.privateKey,
		extensions: [
			new x509.SubjectAlternativeNameExtension(
				hosts.map((host) => ({ type: /^[\d.]+$/.test(host) ? 'ip' : 'dns', value: host }) as const)
			),
			new x509.ExtendedKeyUsageExtension([x509.ExtendedKeyUsage.serverAuth])
		]
	});
	return { cert: made.toString('pem'), key: await pemKey(keys.privateKey) };
}

const LOOPBACK = ['127.0.0.1', 'localhost', 'gatehouse.reedmere.example'];

async function intermediate(root: Issuer): Promise<Issuer> {
	const keys = await newKeys();
	const name = 'O=Reedmere Waterways, CN=Reedmere Gatehouse Authority';
	await x509.X509CertificateGenerator.create({
		subject: name,
		issuer: root.name,
		signingAlgorithm: ALGORITHM,
		publicKey: keys.publicKey,
		signingKey: root.key,
		extensions: [new x509.BasicConstraintsExtension(true, 0, true)]
	});
	return { name, key: keys.privateKey };
}

/** A certificate of the test authority, or of nobody but itself. */
export const makeIdentity = async (wanted: Wanted, vouched = true): Promise<Identity> =>
	leaf(wanted, vouched ? await authority() : undefined);

/** Certificates of all gatehouse ports, made when the stand-ins start. */
export async function makeIdentities() {
	const root = await authority();
	return {
		proper: await leaf({ name: 'gatehouse' }, root),
		expired: await leaf({ name: 'gatehouse', from: -400, to: -35 }, root),
		otherName: await leaf({ name: 'weighbridge', hosts: ['weighbridge.reedmere.example'] }, root),
		selfSigned: await leaf({ name: 'gatehouse by itself' }),
		// what joins it to the authority is not sent
		incomplete: await leaf({ name: 'gatehouse' }, await intermediate(root))
	};
}
