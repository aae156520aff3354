import { writeJson } from '#core/model/json.ts';
import type { CryptoPort, Key } from '#core/auth/index.ts';
import { HeronError, textOf } from '#core/errors.ts';
import { canonicalXml } from './xml.ts';
import { constants, createHmac, createPrivateKey, createSecretKey, sign, type KeyObject } from 'node:crypto';

/** What is wrong with a private key, in words. */
function privateKey({ text, passphrase }: Key): KeyObject {
	try {
		return createPrivateKey({ key: text, format: 'pem', ...(passphrase ? { passphrase } : {}) });
	} catch (cause) {
		const message = textOf(cause);
		const detail = !text.includes('-----BEGIN')
			? 'it is not PEM'
			: /PUBLIC KEY|CERTIFICATE/.test(text)
				? 'it is not a private key'
				: /passphrase|interrupted or cancelled|bad decrypt|maybe wrong password/i.test(message)
					? passphrase
						? 'the passphrase does not open it'
						: 'it is encrypted, and there is no passphrase'
					: `it is broken (${message})`;
		throw new HeronError('auth.key', { detail }, { cause });
	}
}

/** A shared secret: text, or with `hex:` or `base64:` before it the bytes that stand for it. */
function sharedSecret(text: string): Buffer {
	const [, coding, rest] = /^(hex|base64):(.*)$/s.exec(text) ?? [];
	return coding ? Buffer.from(rest!, coding as 'hex') : Buffer.from(text);
}

const named = async <T>(work: () => Promise<T>): Promise<T> => {
	try {
		return await work();
	} catch (cause) {
		if (cause instanceof HeronError) throw cause;
		throw new HeronError('auth.key', { detail: textOf(cause) }, { cause });
	}
};

/** Work with keys by the platform's cryptography and well-kept libraries. */
export const cryptoPort: CryptoPort = {
	jws: (header, payload, key) =>
		named(async () => {
			const alg = String(header.alg);
			const secret = alg.startsWith('HS') ? createSecretKey(sharedSecret(key.text)) : privateKey(key);
			const { CompactSign } = await import('./signing.ts');
			return new CompactSign(Buffer.from(writeJson(payload))).setProtectedHeader({ ...header, alg }).sign(secret);
		}),
	rsa: (hash, key, data) =>
		named(async () => sign(hash, data, { key: privateKey(key), padding: constants.RSA_PKCS1_PADDING })),
	canonicalXml,
	signMessage: (request, { algorithm, key, keyId, components, label, created, expires, nonce, tag, nameAlgorithm }) =>
		named(async () => {
			const signer = (data: Buffer): Buffer => {
				if (algorithm === 'hmac-sha256') return createHmac('sha256', sharedSecret(key.text)).update(data).digest();
				const secret = privateKey(key);
				if (algorithm === 'ed25519') return sign(null, data, secret);
				if (algorithm === 'rsa-pss-sha512')
					return sign('sha512', data, { key: secret, padding: constants.RSA_PKCS1_PSS_PADDING, saltLength: 64 });
				if (algorithm === 'rsa-v1_5-sha256')
					return sign('sha256', data, { key: secret, padding: constants.RSA_PKCS1_PADDING });
				return sign(algorithm === 'ecdsa-p384-sha384' ? 'sha384' : 'sha256', data, {
					key: secret,
					dsaEncoding: 'ieee-p1363'
				});
			};
			const headers: Record<string, string[]> = {};
			for (const [name, value] of request.headers) (headers[name.toLowerCase()] ??= []).push(value);
			const params = [
				...(created === undefined ? [] : ['created']),
				...(expires === undefined ? [] : ['expires']),
				...(nonce === undefined ? [] : ['nonce']),
				...(keyId ? ['keyid'] : []),
				...(nameAlgorithm ? ['alg'] : []),
				...(tag === undefined ? [] : ['tag'])
			];
			const { httpbis } = await import('./signing.ts');
			const signed = await httpbis.signMessage(
				{
					key: { id: keyId, alg: algorithm, sign: async (data) => signer(data) },
					name: label,
					fields: components,
					params,
					paramValues: {
						...(created === undefined ? {} : { created: new Date(created * 1000) }),
						...(expires === undefined ? {} : { expires: new Date(expires * 1000) }),
						...(nonce === undefined ? {} : { nonce }),
						...(tag === undefined ? {} : { tag })
					}
				},
				{ method: request.method, url: request.url, headers }
			);
			const field = (name: string) =>
				String(Object.entries(signed.headers).find(([n]) => n.toLowerCase() === name)?.[1] ?? '');
			return [
				['Signature-Input', field('signature-input')],
				['Signature', field('signature')]
			];
		})
};
