import 'reflect-metadata';
import * as x509 from '@peculiar/x509';
import { createPrivateKey, webcrypto } from 'node:crypto';

const ALGORITHM = { name: 'ECDSA', namedCurve: 'P-256', hash: 'SHA-256' };
const DAY_MS = 86_400_000;
/** As long as a certificate holds: it is made anew at each start. */
const DAYS = 30;
const HOSTS: x509.JsonGeneralNames = [
	{ type: 'dns', value: 'localhost' },
	{ type: 'ip', value: '127.0.0.1' },
	{ type: 'ip', value: '::1' }
];

export interface Identity {
	/** PEM. */
	certificate: string;
	key: string;
	/** The authority that vouches for it, PEM: whoever trusts it trusts the stand-in. */
	authority: string;
}

let made: Promise<Identity> | undefined;
/** A certificate for loopback, and the authority that it is from; one for all of a process. */
export const standInIdentity = (): Promise<Identity> => (made ??= make());

async function make(): Promise<Identity> {
	x509.cryptoProvider.set(webcrypto as Crypto);
	const keys = () => webcrypto.subtle.generateKey(ALGORITHM, true, ['sign', 'verify']) as Promise<CryptoKeyPair>;
	const [root, own] = await Promise.all([keys(), keys()]);
	const dates = { notBefore: new Date(Date.now() - DAY_MS), notAfter: new Date(Date.now() + DAYS * DAY_MS) };
	const subject = 'CN=Loyal Heron stand-ins, O=Test';
	const authority = await x509.X509CertificateGenerator.createSelfSigned({
		...dates,
		name: subject,
		keys: root,
		signingAlgorithm: ALGORITHM,
		extensions: [
			new x509.BasicConstraintsExtension(true, undefined, true),
			new x509.KeyUsagesExtension(x509.KeyUsageFlags.keyCertSign, true)
		]
	});
	const leaf = await x509.X509CertificateGenerator.create({
		...dates,
		subject: 'CN=localhost',
		issuer: subject,
		publicKey: own.publicKey,
		signingKey: root.privateKey,
		signingAlgorithm: ALGORITHM,
		extensions: [
			new x509.SubjectAlternativeNameExtension(HOSTS),
			new x509.ExtendedKeyUsageExtension([x509.ExtendedKeyUsage.serverAuth])
		]
	});
	const der = Buffer.from(await webcrypto.subtle.exportKey('pkcs8', own.privateKey as webcrypto.CryptoKey));
	const key = createPrivateKey({ key: der, format: 'der', type: 'pkcs8' });
	return {
		certificate: leaf.toString('pem'),
		key: key.export({ format: 'pem', type: 'pkcs8' }) as string,
		authority: authority.toString('pem')
	};
}
