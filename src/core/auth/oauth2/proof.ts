import * as oauth from 'oauth4webapi';
import { HeronError } from '../../errors.ts';
import type { JsonObject } from '../../model/json.ts';
import { pemOf } from '../../model/transport.ts';
import { bytesToHex } from '../../values/index.ts';
import type { AuthTools, Key } from '../kind.ts';
import type { OAuth2Settings } from './settings.ts';

/** How a client proves itself, by the names of the registry (RFC 7591 section 4.2, RFC 8705). */
const PROOFS: Record<OAuth2Settings['clientAuth'], string> = {
	basic: 'client_secret_basic',
	post: 'client_secret_post',
	'client-secret-jwt': 'client_secret_jwt',
	'private-key-jwt': 'private_key_jwt',
	'mutual-tls': 'tls_client_auth',
	none: 'none'
};

const LIVES_S = 300;
/**
 * A JWT by which the client proves itself or asks (RFC 7523).
 * @param shared it is signed with the client's secret
 * @throws HeronError auth.wrong when there is no key
 */
export async function assertion(
	settings: OAuth2Settings,
	{ name, ports, learn }: AuthTools,
	claims: JsonObject,
	shared = false
): Promise<string> {
	const now = Math.floor(ports.now() / 1000);
	const isHmac = settings.keyAlgorithm.startsWith('HS');
	const alg = shared && !isHmac ? 'HS256' : settings.keyAlgorithm;
	// HS: a shared secret as it is
	const own = (): Key => ({
		text: isHmac ? settings.key : pemOf(settings.key, (path) => ports.readFile?.(path)),
		...(settings.passphrase ? { passphrase: settings.passphrase } : {})
	});
	const key = shared ? { text: settings.clientSecret } : own();
	if (!key.text)
		throw new HeronError('auth.wrong', { name, detail: `the ${shared ? 'client secret' : 'private key'} is missing` });
	learn(`${name}.key`, key.text);
	const header = { typ: 'JWT', ...(settings.keyId ? { kid: settings.keyId } : {}), alg };
	const jti = bytesToHex(ports.randomBytes(16));
	const made = await ports.crypto.jws(header, { iat: now, exp: now + LIVES_S, jti, ...claims }, key);
	learn(`${name}.assertion`, made);
	return made;
}

/** How the client proves itself, as the library wants it. */
export function proofOf(settings: OAuth2Settings, tools: AuthTools, as: oauth.AuthorizationServer): oauth.ClientAuth {
	switch (settings.clientAuth) {
		case 'basic':
			return oauth.ClientSecretBasic(settings.clientSecret);
		case 'post':
			return oauth.ClientSecretPost(settings.clientSecret);
		case 'mutual-tls':
			return oauth.TlsClientAuth();
		case 'none':
			return oauth.None();
		case 'private-key-jwt':
		case 'client-secret-jwt':
			// RFC 7523 section 2.2; OpenID Connect Core 1.0 section 9
			return async (_, { client_id }, body) => {
				const audience = as.issuer.startsWith('http') && settings.issuer ? as.issuer : as.token_endpoint!;
				const claims = { iss: client_id, sub: client_id, aud: audience };
				const shared = settings.clientAuth === 'client-secret-jwt';
				body.set('client_id', client_id);
				body.set('client_assertion_type', 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer');
				body.set('client_assertion', await assertion(settings, tools, claims, shared));
			};
	}
}

/** Says of a client that was not recognised by what the server lets clients prove themselves (RFC 8414 section 2). */
export function withProofs(settings: OAuth2Settings, as: oauth.AuthorizationServer, error: unknown): unknown {
	const ours = PROOFS[settings.clientAuth];
	const taken = as.token_endpoint_auth_methods_supported;
	if (!(error instanceof HeronError) || error.code !== 'auth.refused' || error.values.error !== 'invalid_client')
		return error;
	if (!Array.isArray(taken) || taken.includes(ours)) return error;
	const detail = `${String(error.values.detail)}; the server takes ${taken.join(', ')}, and ${ours} was used`;
	return new HeronError('auth.refused', { ...error.values, detail });
}
