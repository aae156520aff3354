import * as oauth from 'oauth4webapi';
import { HeronError, textOf } from '../../errors.ts';
import { withBody, withHeader, type Exchange } from '../../model/exchange.ts';
import { writeJson, isObject, type Json, type JsonObject } from '../../model/json.ts';
import { mediaType, type Reply } from '../../model/reply.ts';
import { pemOf } from '../../model/transport.ts';
import { bytesToHex, decodeText, utf8 } from '../../values/index.ts';
import type { AuthTools } from '../kind.ts';
import type { Token } from '../token.ts';
import type { OAuth2Settings } from './settings.ts';

/** One authorization server, spoken to over the engine: every request is an exchange that is recorded. */
export interface OAuth2Client {
	/** Endpoints by hand over those of the issuer's metadata. @throws HeronError auth.* */
	server(): Promise<oauth.AuthorizationServer>;
	/** Asks the token endpoint. @throws HeronError auth.* */
	token(grantType: string, params: Record<string, string>): Promise<Token>;
	/** The address of the consent page (RFC 6749 section 4.1.1). */
	consentAddress(redirect: string, state: string, challenge: string): Promise<string>;
	/** What came back to the redirect address, checked (RFC 6749 section 4.1.2, RFC 9207). @throws HeronError auth.callback */
	checkCallback(params: URLSearchParams, state: string): Promise<URLSearchParams>;
	/** Exchanges the code of a checked callback. */
	code(params: URLSearchParams, redirect: string, verifier: string): Promise<Token>;
	device(): Promise<oauth.DeviceAuthorizationResponse>;
	introspect(token: string): Promise<JsonObject>;
	revoke(token: string): Promise<void>;
}

const ROTATED =
	'the server gave another refresh token in place of the one in refreshToken: it is kept and used from now on; where tokens are not kept beyond a run, the secret has to be replaced';

/** How a client proves itself, by the names of the registry (RFC 7591 section 4.2, RFC 8705). */
const PROOFS: Record<OAuth2Settings['clientAuth'], string> = {
	basic: 'client_secret_basic',
	post: 'client_secret_post',
	'client-secret-jwt': 'client_secret_jwt',
	'private-key-jwt': 'private_key_jwt',
	'mutual-tls': 'tls_client_auth',
	none: 'none'
};

/** The members of a token reply that must not be seen. */
const SECRET_MEMBERS = ['access_token', 'refresh_token', 'id_token', 'device_code'];
const SECRET_PARAMS = [
	'client_secret',
	'client_assertion',
	'assertion',
	'code',
	'code_verifier',
	'refresh_token',
	'password',
	'token',
	'device_code'
];

/** A token reply as data: JSON, or a form as some servers send it; undefined when it is neither. */
function readReply(reply: Reply): { data?: JsonObject; form?: true } {
	const text = decodeText(reply.body).text.trim();
	try {
		const data: unknown = JSON.parse(text);
		return isObject(data) ? { data: data as JsonObject } : {};
	} catch {
		const { type } = mediaType(reply.headers);
		if (type === 'text/html' || !/^[\w.~-]+=[^<>\s]*(&[\w.~-]+=[^<>\s]*)*$/.test(text)) return {};
		return { data: Object.fromEntries(new URLSearchParams(text)) as JsonObject, form: true };
	}
}

/** What a reply that is of no use looks like, in words. */
function strange(reply: Reply): string {
	const { type } = mediaType(reply.headers);
	if (reply.body.length === 0) return `it answered ${reply.status} without a body`;
	const start = decodeText(reply.body).text.trim().slice(0, 80).replace(/\s+/g, ' ');
	return `it answered ${reply.status} with ${type || 'no content type'}, not JSON: ${start}`;
}

/** A reply made such that a strict reader takes it; each oddity is noted at its exchange. */
function forgiven(data: JsonObject, form: boolean, status: number, notes: string[]): JsonObject {
	const next: JsonObject = { ...data };
	if (form) notes.push('the reply is a form where RFC 6749 wants JSON: it was read all the same');
	if (next.access_token !== undefined) {
		if (status !== 200) notes.push(`the status is ${status} where RFC 6749 wants 200`);
		if (next.token_type === undefined) notes.push('token_type is missing: taken as Bearer');
		else if (!/^bearer$/i.test(String(next.token_type)))
			notes.push(`token_type is "${String(next.token_type)}": used as Bearer`);
		next.token_type = 'bearer';
	}
	if (typeof next.expires_in === 'string') {
		notes.push(`expires_in is the text "${next.expires_in}" where a number is wanted`);
		const seconds = Number.parseFloat(next.expires_in);
		if (Number.isFinite(seconds) && seconds >= 0) next.expires_in = seconds;
		else delete next.expires_in;
	}
	if (
		next.expires_in !== undefined &&
		next.expires_in !== null &&
		(typeof next.expires_in !== 'number' || next.expires_in < 0)
	)
		delete next.expires_in;
	if (next.expires_in === null) delete next.expires_in;
	if (Array.isArray(next.scope)) next.scope = next.scope.join(' ');
	if (next.refresh_token === null) delete next.refresh_token;
	// whose signature and audience are another matter than getting a token
	delete next.id_token;
	return next;
}

export function createOAuth2Client(settings: OAuth2Settings, tools: AuthTools): OAuth2Client {
	const { name, ports, learn } = tools;
	const client: oauth.Client = { client_id: settings.clientId };
	let known: oauth.AuthorizationServer | undefined;
	let last: { exchange: Exchange; data: JsonObject | undefined } | undefined;

	const hide = (members: Iterable<[string, unknown]>, wanted: string[]) => {
		for (const [member, value] of members)
			if (wanted.includes(member) && typeof value === 'string' && value) learn(`${name}.${member}`, value);
	};

	/** The library's way out: through the engine, with the reply as it came in the record. */
	const fetchAs =
		(title: string, lenient: boolean) =>
		async (url: string, init: { method: string; headers?: Record<string, string>; body?: unknown }) => {
			const body = init.body === undefined || init.body === null ? '' : String(init.body);
			hide(new URLSearchParams(body), SECRET_PARAMS);
			let request = tools.blank(init.method, url);
			for (const [field, value] of Object.entries(init.headers ?? {})) {
				if (field.toLowerCase() === 'authorization') learn(`${name}.client`, value.replace(/^\w+ /, ''));
				request = withHeader(
					request,
					field.replace(/(^|-)([a-z])/g, (c) => c.toUpperCase()),
					value,
					field.toLowerCase() === 'authorization' ? 'credential' : 'added'
				);
			}
			if (body) request = withBody(withHeader(request, 'Content-Length', '0', 'added'), utf8(body));
			const exchange = await tools.leg(title, request);
			const { reply } = exchange;
			if (!reply)
				throw new HeronError('auth.leg', { name, leg: title, detail: exchange.error?.message ?? 'there is no reply' });
			const { data, form } = readReply(reply);
			if (data) hide(Object.entries(data), SECRET_MEMBERS);
			last = { exchange, data };
			if (!lenient)
				return new Response(decodeText(reply.body).text, {
					status: reply.status,
					headers: { 'content-type': mediaType(reply.headers).type || 'text/plain' }
				});
			if (!data) throw new HeronError('auth.leg', { name, leg: title, detail: strange(reply) });
			const notes: string[] = [];
			const fit = forgiven(data, form === true, reply.status, notes);
			if (notes.length > 0) exchange.notes = [...(exchange.notes ?? []), ...notes];
			if (typeof data.error === 'string') throw refusal(title, data, reply.status);
			const ok = reply.status >= 200 && reply.status < 300;
			if (ok && title === 'token request' && typeof data.access_token !== 'string')
				throw new HeronError('auth.leg', {
					name,
					leg: title,
					detail: `the reply holds no access_token; it holds ${Object.keys(data).join(', ') || 'nothing'}`
				});
			return new Response(writeJson(fit), {
				status: ok ? 200 : reply.status,
				headers: { 'content-type': 'application/json' }
			});
		};
	const refusal = (leg: string, data: JsonObject, status: number) => {
		const told = [data.error_description, data.error_uri].filter((one) => typeof one === 'string' && one).join(', ');
		return new HeronError('auth.refused', {
			name,
			leg,
			error: String(data.error),
			status,
			detail: told ? `: ${told}` : ''
		});
	};
	const options = (title: string, lenient = true) =>
		({ [oauth.allowInsecureRequests]: true, [oauth.customFetch]: fetchAs(title, lenient) }) as object;

	/** The library's own errors in our words. */
	const worded = async <T>(leg: string, work: Promise<T>): Promise<T> => {
		try {
			return await work;
		} catch (error) {
			if (error instanceof HeronError) throw error;
			const cause = (error as { cause?: unknown }).cause;
			if (cause instanceof HeronError) throw cause;
			const status = last?.exchange.reply?.status;
			throw new HeronError(
				'auth.leg',
				{ name, leg, detail: `${textOf(error)}${status && status >= 400 ? ` (status ${status})` : ''}` },
				{ cause: error }
			);
		}
	};

	/** A JWT by which the client proves itself or asks (RFC 7523); `shared` signs with the client's secret. */
	const assertion = async (claims: JsonObject, shared = false): Promise<string> => {
		const now = Math.floor(ports.now() / 1000);
		const algorithm = shared && !settings.keyAlgorithm.startsWith('HS') ? 'HS256' : settings.keyAlgorithm;
		const key = shared
			? { text: settings.clientSecret }
			: {
					// HS: a shared secret as it is
					text: settings.keyAlgorithm.startsWith('HS')
						? settings.key
						: pemOf(settings.key, (path) => ports.readFile?.(path)),
					...(settings.passphrase ? { passphrase: settings.passphrase } : {})
				};
		if (!key.text)
			throw new HeronError('auth.wrong', {
				name,
				detail: `the ${shared ? 'client secret' : 'private key'} is missing`
			});
		learn(`${name}.key`, key.text);
		const header = { typ: 'JWT', ...(settings.keyId ? { kid: settings.keyId } : {}), alg: algorithm };
		const made = await ports.crypto.jws(
			header,
			{ iat: now, exp: now + 300, jti: bytesToHex(ports.randomBytes(16)), ...claims },
			key
		);
		learn(`${name}.assertion`, made);
		return made;
	};

	const clientAuth = (as: oauth.AuthorizationServer): oauth.ClientAuth => {
		if (settings.clientAuth === 'basic') return oauth.ClientSecretBasic(settings.clientSecret);
		if (settings.clientAuth === 'post') return oauth.ClientSecretPost(settings.clientSecret);
		if (settings.clientAuth === 'mutual-tls') return oauth.TlsClientAuth();
		if (settings.clientAuth === 'private-key-jwt' || settings.clientAuth === 'client-secret-jwt') {
			// RFC 7523 section 2.2; OpenID Connect Core 1.0 section 9
			return async (_, { client_id }, body) => {
				const audience = as.issuer.startsWith('http') && settings.issuer ? as.issuer : as.token_endpoint!;
				body.set('client_id', client_id);
				body.set('client_assertion_type', 'urn:ietf:params:oauth:client-assertion-type:jwt-bearer');
				body.set(
					'client_assertion',
					await assertion(
						{ iss: client_id, sub: client_id, aud: audience },
						settings.clientAuth === 'client-secret-jwt'
					)
				);
			};
		}
		return oauth.None();
	};

	const server: OAuth2Client['server'] = async () => {
		if (known) return known;
		const { endpoints, issuer } = settings;
		const byHand = {
			...(endpoints.authorization ? { authorization_endpoint: endpoints.authorization } : {}),
			...(endpoints.token ? { token_endpoint: endpoints.token } : {}),
			...(endpoints.device ? { device_authorization_endpoint: endpoints.device } : {}),
			...(endpoints.introspection ? { introspection_endpoint: endpoints.introspection } : {}),
			...(endpoints.revocation ? { revocation_endpoint: endpoints.revocation } : {})
		};
		if (!issuer) {
			const any = endpoints.token || endpoints.device || endpoints.authorization;
			if (!any) throw new HeronError('auth.wrong', { name, detail: 'neither an issuer nor a token endpoint is given' });
			return (known = { issuer: new URL(any).origin, ...byHand });
		}
		const found = await discover(new URL(issuer));
		return (known = { ...found, ...byHand });
	};

	const discover = async (issuer: URL): Promise<oauth.AuthorizationServer> => {
		// RFC 8414 first, then where OpenID Connect puts the same document
		let trouble: unknown;
		const asked: string[] = [];
		for (const algorithm of ['oauth2', 'oidc'] as const) {
			try {
				const response = await oauth.discoveryRequest(issuer, { algorithm, ...options('metadata', false) });
				const { exchange, data } = last!;
				asked.push(exchange.url);
				const found = exchange.reply?.status === 200 && data !== undefined;
				if (!found && algorithm === 'oauth2') continue;
				if (!found) {
					const detail = `${asked.join(' and ')} were asked: ${strange(exchange.reply!)}`;
					throw new HeronError('auth.leg', { name, leg: 'metadata', detail });
				}
				const said = data.issuer;
				const wanted = issuer.href.replace(/\/$/, '');
				if (typeof said === 'string' && said.replace(/\/$/, '') !== wanted)
					throw new HeronError('auth.issuer', { name, wanted, said });
				return await oauth.processDiscoveryResponse(typeof said === 'string' ? new URL(said) : issuer, response);
			} catch (error) {
				trouble = error;
				break;
			}
		}
		return worded('metadata', Promise.reject(trouble instanceof Error ? trouble : new Error('no metadata was found')));
	};

	const shared = (): Record<string, string> => {
		const extra = Object.fromEntries(
			Object.entries(settings.tokenExtra).map(([key, value]) => [key, String(value as Json)])
		);
		return { ...(settings.audience ? { audience: settings.audience } : {}), ...extra };
	};

	/** Says of a client that was not recognised by what the server lets clients prove themselves (RFC 8414 section 2). */
	const proofNamed = (as: oauth.AuthorizationServer, error: unknown): unknown => {
		const ours = PROOFS[settings.clientAuth];
		const taken = as.token_endpoint_auth_methods_supported;
		if (!(error instanceof HeronError) || error.code !== 'auth.refused' || error.values.error !== 'invalid_client')
			return error;
		if (!Array.isArray(taken) || taken.includes(ours)) return error;
		const detail = `${String(error.values.detail)}; the server takes ${taken.join(', ')}, and ${ours} was used`;
		return new HeronError('auth.refused', { ...error.values, detail });
	};

	/** The token of the reply that was read last. */
	const tokenOf = (kept: JsonObject = {}): Token => {
		const { data } = last!;
		const receivedAt = ports.now();
		const seconds = Number.parseFloat(String(data!.expires_in));
		const endsAt = Number.isFinite(seconds) ? receivedAt + seconds * 1000 : 0;
		return { reply: { ...data!, ...kept }, receivedAt, endsAt, settings: settings.fingerprint };
	};
	const tokenServer = async (): Promise<oauth.AuthorizationServer & { token_endpoint: string }> => {
		const as = await server();
		if (!as.token_endpoint)
			throw new HeronError('auth.wrong', { name, detail: 'the token endpoint is neither given nor in the metadata' });
		return as as oauth.AuthorizationServer & { token_endpoint: string };
	};

	return {
		server,
		async token(grantType, params) {
			const as = await tokenServer();
			const form = new URLSearchParams({ ...params, ...shared() });
			for (const resource of settings.resource) form.append('resource', resource);
			if (grantType === 'urn:ietf:params:oauth:grant-type:jwt-bearer') {
				const claims = {
					iss: settings.clientId,
					sub: settings.clientId,
					aud: as.token_endpoint,
					...settings.assertion
				};
				form.set('assertion', await assertion(claims));
			}
			await worded(
				'token request',
				(async () => {
					const response = await oauth.genericTokenEndpointRequest(
						as,
						client,
						clientAuth(as),
						grantType,
						form as never,
						options('token request')
					);
					return oauth.processGenericTokenEndpointResponse(as, client, response);
				})()
			).catch((error: unknown) => {
				throw proofNamed(as, error);
			});
			// a refresh may leave the refresh token out: the one that was used stays good (RFC 6749 section 6)
			const next = last!.data!.refresh_token;
			const renews = grantType === 'refresh_token';
			if (
				renews &&
				typeof next === 'string' &&
				next !== params.refresh_token &&
				params.refresh_token === settings.refreshToken
			) {
				// RFC 9700 section 4.14.2: the old one is of no use any more
				const { exchange } = last!;
				exchange.notes = [...(exchange.notes ?? []), ROTATED];
			}
			return tokenOf(renews && next === undefined ? { refresh_token: params.refresh_token! } : {});
		},
		async consentAddress(redirect, state, challenge) {
			const as = await server();
			if (!as.authorization_endpoint)
				throw new HeronError('auth.wrong', {
					name,
					detail: 'the authorization endpoint is neither given nor in the metadata'
				});
			const url = new URL(as.authorization_endpoint);
			const params = new URLSearchParams(url.search.slice(1));
			params.set('response_type', 'code');
			params.set('client_id', settings.clientId);
			params.set('redirect_uri', redirect);
			params.set('state', state);
			if (settings.scope) params.set('scope', settings.scope);
			if (settings.pkce !== 'none') {
				params.set('code_challenge', challenge);
				params.set('code_challenge_method', settings.pkce);
			}
			if (settings.audience) params.set('audience', settings.audience);
			for (const resource of settings.resource) params.append('resource', resource);
			for (const [key, value] of Object.entries(settings.authorizeExtra)) params.set(key, String(value as Json));
			url.search = params.toString();
			return url.href;
		},
		async checkCallback(params, state) {
			const as = await server();
			const seen = new URLSearchParams(params.toString());
			// without an issuer in the settings there is nothing to compare with
			if (!settings.issuer) seen.delete('iss');
			const error = seen.get('error');
			let checked: URLSearchParams;
			try {
				checked = oauth.validateAuthResponse(as, client, seen as never, state) as unknown as URLSearchParams;
			} catch (cause) {
				const detail =
					seen.get('state') !== state
						? 'its state is not the one that was sent: it answers another request, or was made up. Begin again'
						: error
							? `${error === 'access_denied' ? 'consent was refused (access_denied)' : `the server answers ${error}`}${seen.get('error_description') ? `: ${seen.get('error_description')}` : ''}`
							: settings.issuer && seen.get('iss') !== as.issuer
								? `it comes from ${seen.get('iss') ?? 'no issuer'}, not from ${as.issuer}`
								: textOf(cause);
				throw new HeronError('auth.callback', { detail }, { cause });
			}
			if (!checked.get('code')) throw new HeronError('auth.callback', { detail: 'there is no code in it' });
			return checked;
		},
		async code(params, redirect, verifier) {
			const as = await tokenServer();
			await worded(
				'token request',
				(async () => {
					const response = await oauth.authorizationCodeGrantRequest(
						as,
						client,
						clientAuth(as),
						params as never,
						redirect,
						settings.pkce === 'none' ? oauth.nopkce : verifier,
						{ ...options('token request'), additionalParameters: shared() } as never
					);
					return oauth.processGenericTokenEndpointResponse(as, client, response);
				})()
			);
			return tokenOf();
		},
		async device() {
			const as = await server();
			if (!as.device_authorization_endpoint)
				throw new HeronError('auth.wrong', {
					name,
					detail: 'the device endpoint is neither given nor in the metadata'
				});
			const form: Record<string, string> = { ...(settings.scope ? { scope: settings.scope } : {}), ...shared() };
			return worded(
				'device request',
				(async () => {
					const response = await oauth.deviceAuthorizationRequest(
						as,
						client,
						clientAuth(as),
						form,
						options('device request')
					);
					return oauth.processDeviceAuthorizationResponse(as, client, response);
				})()
			);
		},
		async introspect(token) {
			const as = await server();
			await worded(
				'introspection',
				(async () => {
					const response = await oauth.introspectionRequest(
						as,
						client,
						clientAuth(as),
						token,
						options('introspection')
					);
					return oauth.processIntrospectionResponse(as, client, response);
				})()
			);
			return last!.data!;
		},
		async revoke(token) {
			const as = await server();
			await worded(
				'revocation',
				(async () => {
					const response = await oauth.revocationRequest(
						as,
						client,
						clientAuth(as),
						token,
						options('revocation', false)
					);
					return oauth.processRevocationResponse(response);
				})()
			);
		}
	};
}
