import { textOf } from '#core/errors.ts';
import type { SignatureFound, SignatureGiven, StandInPorts } from '#core/stand-in/index.ts';
import { createPublicKey, verify, X509Certificate } from 'node:crypto';

/** The library takes time that grows with the square of what it reads. */
const LARGEST_SIGNED = 2_000_000;

const ECDSA = 'http://www.w3.org/2001/04/xmldsig-more#ecdsa-sha256';
/** The library knows no ECDSA (XML Signature 1.1 section 6.4.3). */
class EcdsaSha256 {
	getAlgorithmName = () => ECDSA;
	getSignature(): never {
		throw new Error('nothing is signed here');
	}
	verifySignature(data: string, certificate: string, signature: string): boolean {
		const key = createPublicKey(certificate);
		return verify('sha256', Buffer.from(data), { key, dsaEncoding: 'ieee-p1363' }, Buffer.from(signature, 'base64'));
	}
}

const certificateOf = (text: string | Buffer): X509Certificate | undefined => {
	try {
		return new X509Certificate(text);
	} catch {
		return undefined;
	}
};
const oneLine = (name: string): string => name.replace(/\n/g, ', ');

/** Holds the signature of an envelope against its certificate (XML Signature, WSS X.509 Certificate Token Profile 1.1). */
export const verifySignature: StandInPorts['verifySignature'] = async ({
	envelope,
	signature,
	certificate,
	trusted
}: SignatureGiven): Promise<SignatureFound | { code: string; reason: string }> => {
	if (envelope.length > LARGEST_SIGNED)
		return { code: 'InvalidSecurity', reason: `a signed message may have up to ${LARGEST_SIGNED / 1e6} MB` };
	const known = trusted ? certificateOf(trusted) : undefined;
	if (trusted && !known) return { code: 'FailedCheck', reason: 'the certificate that the stand-in trusts is not PEM' };
	const shown = certificate ? certificateOf(Buffer.from(certificate, 'base64')) : known;
	if (!shown)
		return certificate
			? { code: 'InvalidSecurityToken', reason: 'the BinarySecurityToken is no X.509 certificate' }
			: { code: 'SecurityTokenUnavailable', reason: 'the signature comes with no certificate' };
	const same = known?.fingerprint256 === shown.fingerprint256;
	if (known && !same && !(shown.checkIssued(known) && shown.verify(known.publicKey)))
		return { code: 'FailedAuthentication', reason: 'the certificate is neither the known one nor signed by it' };
	const now = Date.now();
	if (Date.parse(shown.validFrom) > now || Date.parse(shown.validTo) < now)
		return {
			code: 'FailedAuthentication',
			reason: `the certificate is valid from ${shown.validFrom} to ${shown.validTo}`
		};
	const { SignedXml } = await import('xml-crypto');
	const signed = new SignedXml({ publicCert: shown.toString(), idMode: 'wssecurity' });
	signed.SignatureAlgorithms[ECDSA] = EcdsaSha256 as never;
	try {
		signed.loadSignature(signature);
		if (!signed.checkSignature(envelope)) return { code: 'FailedCheck', reason: 'what was signed has been changed' };
	} catch (error) {
		const reason = textOf(error);
		return /algorithm .*(not supported|unknown)|(not supported|unknown).* algorithm/i.test(reason)
			? { code: 'UnsupportedAlgorithm', reason }
			: { code: 'FailedCheck', reason };
	}
	return {
		signed: signed.getSignedReferences(),
		certificate: {
			subject: oneLine(shown.subject),
			issuer: oneLine(shown.issuer),
			fingerprint: shown.fingerprint256
		}
	};
};
