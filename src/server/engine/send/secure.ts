import { HeronError, textOf } from '#core/errors.ts';
import type { CertificateFacts, TlsFacts } from '#core/model/exchange.ts';
import { versionRange, type ClientIdentity, type TlsVersion, type Transport } from '#core/model/transport.ts';
import { createPrivateKey, X509Certificate, type KeyObject } from 'node:crypto';
import { isEncryptedKey } from '../crypto.ts';
import tls from 'node:tls';

export const protocolOf = (version: TlsVersion): tls.SecureVersion =>
	(version === '1.0' ? 'TLSv1' : `TLSv${version}`) as tls.SecureVersion;

/** The lowest and highest version of a transport. @throws HeronError tls.identity when they leave none */
export function versionsOf(settings: Transport['tls']): { min: TlsVersion; max: TlsVersion } {
	const range = versionRange(settings);
	if (range.min > range.max)
		throw new HeronError('tls.identity', {
			detail: `the lowest TLS version (${range.min}) is above the highest (${range.max})`
		});
	return range;
}

/** PKCS#12 of old make (RC2, 40 bit), which the platform refuses, as PEM. */
async function oldPkcs12(bytes: Uint8Array, passphrase: string): Promise<{ cert: string; key: string }> {
	const { default: forge } = await import('node-forge');
	const store = forge.pkcs12.pkcs12FromAsn1(forge.asn1.fromDer(Buffer.from(bytes).toString('binary')), passphrase);
	const bags = (type: string) => store.getBags({ bagType: type })[type] ?? [];
	const key = [...bags(forge.pki.oids.pkcs8ShroudedKeyBag!), ...bags(forge.pki.oids.keyBag!)].find(
		(bag) => bag.key
	)?.key;
	const certs = bags(forge.pki.oids.certBag!).flatMap((bag) =>
		bag.cert ? [forge.pki.certificateToPem(bag.cert)] : []
	);
	if (!key || certs.length === 0)
		throw new HeronError('tls.identity', { detail: 'the PKCS#12 file holds no key with a certificate' });
	return { cert: certs.join('\n'), key: forge.pki.privateKeyToPem(key) };
}

/** What is wrong with a certificate, key or passphrase, in words. */
function identityError(error: unknown, client: ClientIdentity): HeronError {
	if (error instanceof HeronError) return error;
	const message = textOf(error);
	const what = client.pkcs12 ? 'PKCS#12 file' : 'key';
	const detail =
		/mac verify failure|bad decrypt|Invalid password|PKCS#12 MAC could not be verified|interrupted or cancelled/i.test(
			message
		)
			? client.passphrase
				? `the passphrase does not open the ${what}`
				: `the ${what} is encrypted, and there is no passphrase`
			: /key values mismatch/i.test(message)
				? 'the key does not belong to the certificate'
				: /no start line|PEM lib|bad base64|bad end line|wrong tag|asn1|not enough data|header too long|too long|Cannot read|unsupported/i.test(
							message
					  )
					? client.pkcs12
						? 'the file is not PKCS#12, or it is broken'
						: client.passphrase && isEncryptedKey(client.key ?? '')
							? 'the passphrase does not open the key, or key or certificate is not readable PEM'
							: 'certificate or key is not readable PEM'
					: message;
	return new HeronError('tls.identity', { detail }, { cause: error });
}

/** OpenSSL keeps keys of different kinds apart, and shows no certificate at all when its key is of another kind. */
function pairUp(certificate: string, key: string, passphrase: string | undefined): void {
	let mine: X509Certificate;
	let secret: KeyObject;
	try {
		mine = new X509Certificate(certificate);
		secret = createPrivateKey({ key, ...(passphrase ? { passphrase } : {}) });
	} catch {
		// what cannot be read is told by whoever reads it next
		return;
	}
	if (mine.checkPrivateKey(secret)) return;
	const kinds = [mine.publicKey.asymmetricKeyType, secret.asymmetricKeyType] as const;
	const detail =
		kinds[0] === kinds[1]
			? 'the key does not belong to the certificate'
			: `the key does not belong to the certificate: that is for ${kinds[0]}, the key is ${kinds[1]}`;
	throw new HeronError('tls.identity', { detail });
}

/** The platform's settings for a transport. @throws HeronError tls.identity, tls.pem */
export async function secureContext({ tls: settings }: Transport): Promise<tls.SecureContext> {
	const { min, max } = versionsOf(settings);
	const options: tls.SecureContextOptions & { allowPartialTrustChain?: boolean } = {
		minVersion: protocolOf(min),
		maxVersion: protocolOf(max),
		// versions before 1.2 sign with SHA-1, which level 1 forbids
		...(min < '1.2' ? { ciphers: 'DEFAULT@SECLEVEL=0' } : {})
	};
	if (settings.authorities.length > 0) {
		for (const pem of settings.authorities) {
			try {
				for (const one of pem.match(/-----BEGIN [^-]*CERTIFICATE-----[\s\S]*?-----END [^-]*CERTIFICATE-----/g) ?? [''])
					new X509Certificate(one);
			} catch (cause) {
				throw new HeronError(
					'tls.identity',
					{ detail: `an authority is not a readable certificate: ${textOf(cause)}` },
					{ cause }
				);
			}
		}
		options.ca = [...tls.rootCertificates, ...settings.authorities];
		// an intermediate, or the server's own certificate, may be trusted by itself
		options.allowPartialTrustChain = true;
	}
	const { client } = settings;
	if (!client) return tls.createSecureContext(options);
	const { certificate, key, pkcs12, passphrase } = client;
	try {
		if (!pkcs12) pairUp(certificate ?? '', key ?? '', passphrase);
		if (!pkcs12) return tls.createSecureContext({ ...options, cert: certificate, key, passphrase: passphrase ?? '' });
		try {
			return tls.createSecureContext({ ...options, pfx: Buffer.from(pkcs12), passphrase: passphrase ?? '' });
		} catch (error) {
			if (!/unsupported/i.test(textOf(error))) throw error;
			return tls.createSecureContext({ ...options, ...(await oldPkcs12(pkcs12, passphrase ?? '')) });
		}
	} catch (error) {
		throw identityError(error, client);
	}
}

/** `CN=x\nO=y` as one line, the common name first. */
const nameLine = (text: string): string => {
	const parts = text.split('\n').filter(Boolean);
	const common = parts.find((part) => part.startsWith('CN='));
	return [...(common ? [common.slice(3)] : []), ...parts.filter((part) => part !== common)].join(', ');
};

function certificateFacts(certificate: X509Certificate, withPem = false): CertificateFacts {
	return {
		subject: nameLine(certificate.subject ?? ''),
		issuer: nameLine(certificate.issuer ?? ''),
		names: (certificate.subjectAltName ?? '')
			.split(', ')
			.filter(Boolean)
			.map((name) => name.replace(/^(DNS|IP Address):/, '')),
		validFrom: Date.parse(certificate.validFrom),
		validTo: Date.parse(certificate.validTo),
		fingerprint: certificate.fingerprint256,
		serial: certificate.serialNumber,
		selfSigned: certificate.subject === certificate.issuer,
		...(/CA Issuers/.test(certificate.infoAccess ?? '') ? { issuerAt: true as const } : {}),
		...(withPem ? { pem: certificate.toString() } : {})
	};
}

/** What was agreed on, with the certificates that the server sent. */
export function tlsFacts(socket: tls.TLSSocket, withPem = false): TlsFacts {
	const chain: CertificateFacts[] = [];
	for (let at = socket.getPeerX509Certificate(); at && chain.length < 10;) {
		chain.push(certificateFacts(at, withPem));
		const issuer = at.issuerCertificate;
		at = issuer && issuer.fingerprint256 !== at.fingerprint256 ? issuer : undefined;
	}
	return {
		version: (socket.getProtocol() ?? '').replace(/^TLSv1$/, 'TLSv1.0').replace('TLSv', 'TLS '),
		cipher: socket.getCipher()?.standardName ?? socket.getCipher()?.name ?? '',
		alpn: socket.alpnProtocol || '',
		distrust: socket.authorized ? '' : String(socket.authorizationError ?? ''),
		chain
	};
}

/** Why a certificate is not trusted, in words; the code is the platform's. */
export function distrustWords(code: string, chain: CertificateFacts[], host: string): string {
	const [leaf] = chain;
	const day = (time: number) => new Date(time).toISOString().slice(0, 10);
	switch (code) {
		case 'CERT_HAS_EXPIRED':
			return `it expired on ${day(leaf?.validTo ?? 0)}`;
		case 'CERT_NOT_YET_VALID':
			return `it is valid only from ${day(leaf?.validFrom ?? 0)} on`;
		case 'ERR_TLS_CERT_ALTNAME_INVALID':
			return `it is for ${leaf?.names.join(', ') || leaf?.subject || 'no name'}, not for ${host}`;
		case 'DEPTH_ZERO_SELF_SIGNED_CERT':
			return 'it is signed by itself';
		case 'SELF_SIGNED_CERT_IN_CHAIN':
		case 'UNABLE_TO_GET_ISSUER_CERT_LOCALLY':
			return `its authority ${chain.at(-1)?.issuer ?? ''} is not known here`;
		case 'UNABLE_TO_VERIFY_LEAF_SIGNATURE':
			return `its authority ${leaf?.issuer ?? ''} is neither known here nor sent by the server`;
		case 'CERT_REVOKED':
			return 'it was revoked';
		default:
			return code;
	}
}
