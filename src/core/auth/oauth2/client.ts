import * as oauth from 'oauth4webapi';
import { HeronError } from '../../errors.ts';
import type { Json, JsonObject } from '../../model/json.ts';
import type { AuthTools } from '../kind.ts';
import type { Token } from '../token.ts';
import { checkedCallback, consentAddress } from './consent.ts';
import { Legs } from './legs.ts';
import { serverOf } from './metadata.ts';
import { assertion, proofOf, withProofs } from './proof.ts';
import type { OAuth2Settings } from './settings.ts';

const ROTATED =
	'the server gave another refresh token in place of the one in refreshToken: it is kept and used from now on; where tokens are not kept beyond a run, the secret has to be replaced';
const JWT_BEARER = 'urn:ietf:params:oauth:grant-type:jwt-bearer';

/** Endpoints in words, by the names that metadata has for them (RFC 8414 section 2). */
const ENDPOINTS = {
	token_endpoint: 'token',
	authorization_endpoint: 'authorization',
	device_authorization_endpoint: 'device'
} as const;

/** One authorization server, spoken to over the engine: every request is an exchange that is recorded. */
export class OAuth2Client {
	readonly #settings: OAuth2Settings;
	readonly #tools: AuthTools;
	readonly #client: oauth.Client;
	readonly #legs: Legs;
	#server: oauth.AuthorizationServer | undefined;

	constructor(settings: OAuth2Settings, tools: AuthTools) {
		this.#settings = settings;
		this.#tools = tools;
		this.#client = { client_id: settings.clientId };
		this.#legs = new Legs(tools);
	}

	/** Endpoints by hand over those of the issuer's metadata, which is read once. @throws HeronError auth.* */
	async server(): Promise<oauth.AuthorizationServer> {
		return (this.#server ??= await serverOf(this.#settings, this.#tools.name, this.#legs));
	}
	async #serverWith<E extends keyof typeof ENDPOINTS>(
		endpoint: E
	): Promise<oauth.AuthorizationServer & Record<E, string>> {
		const as = await this.server();
		if (as[endpoint]) return as as oauth.AuthorizationServer & Record<E, string>;
		const detail = `the ${ENDPOINTS[endpoint]} endpoint is neither given nor in the metadata`;
		throw new HeronError('auth.wrong', { name: this.#tools.name, detail });
	}
	#proof(as: oauth.AuthorizationServer): oauth.ClientAuth {
		return proofOf(this.#settings, this.#tools, as);
	}
	/** Parameters of every request for a token. */
	#extra(): Record<string, string> {
		const { audience, tokenExtra } = this.#settings;
		const extra = Object.entries(tokenExtra).map(([key, value]) => [key, String(value as Json)] as const);
		return { ...(audience ? { audience } : {}), ...Object.fromEntries(extra) };
	}

	/** Asks the token endpoint. @throws HeronError auth.* */
	async token(grantType: string, params: Record<string, string>): Promise<Token> {
		const as = await this.#serverWith('token_endpoint');
		const form = await this.#formOf(grantType, params, as.token_endpoint);
		await this.#legs
			.speak(
				'token request',
				(options) =>
					oauth.genericTokenEndpointRequest(as, this.#client, this.#proof(as), grantType, form as never, options),
				(response) => oauth.processGenericTokenEndpointResponse(as, this.#client, response)
			)
			.catch((error: unknown) => {
				throw withProofs(this.#settings, as, error);
			});
		return grantType === 'refresh_token' ? this.#refreshed(params.refresh_token!) : this.#tokenOf();
	}
	async #formOf(grantType: string, params: Record<string, string>, endpoint: string): Promise<URLSearchParams> {
		const { resource, clientId, assertion: claims } = this.#settings;
		const form = new URLSearchParams({ ...params, ...this.#extra() });
		for (const one of resource) form.append('resource', one);
		if (grantType === JWT_BEARER) {
			const whole = { iss: clientId, sub: clientId, aud: endpoint, ...claims };
			form.set('assertion', await assertion(this.#settings, this.#tools, whole));
		}
		return form;
	}
	#refreshed(used: string): Token {
		const { exchange, data } = this.#legs.last!;
		const next = data!.refresh_token;
		// one that is left out: the one that was used stays good (RFC 6749 section 6)
		if (next === undefined) return this.#tokenOf({ refresh_token: used });
		// RFC 9700 section 4.14.2: the old one is of no use any more
		if (typeof next === 'string' && next !== used && used === this.#settings.refreshToken)
			exchange.notes = [...(exchange.notes ?? []), ROTATED];
		return this.#tokenOf();
	}
	/** The token of the reply that was read last. */
	#tokenOf(kept: JsonObject = {}): Token {
		const reply = { ...this.#legs.last!.data!, ...kept };
		const receivedAt = this.#tools.ports.now();
		const seconds = Number.parseFloat(String(reply.expires_in));
		const endsAt = Number.isFinite(seconds) ? receivedAt + seconds * 1000 : 0;
		return { reply, receivedAt, endsAt, settings: this.#settings.fingerprint };
	}

	/** The address of the consent page (RFC 6749 section 4.1.1). */
	async consentAddress(redirect: string, state: string, challenge: string): Promise<string> {
		const { authorization_endpoint } = await this.#serverWith('authorization_endpoint');
		return consentAddress(this.#settings, authorization_endpoint, { redirect, state, challenge });
	}
	/** What came back to the redirect address, checked (RFC 6749 section 4.1.2, RFC 9207). @throws HeronError auth.callback */
	async checkCallback(params: URLSearchParams, state: string): Promise<URLSearchParams> {
		return checkedCallback(this.#settings, await this.server(), this.#client, params, state);
	}
	/** Exchanges the code of a checked callback. */
	async code(params: URLSearchParams, redirect: string, verifier: string): Promise<Token> {
		const as = await this.#serverWith('token_endpoint');
		const proved = this.#settings.pkce === 'none' ? oauth.nopkce : verifier;
		const additionalParameters = this.#extra();
		await this.#legs.speak(
			'token request',
			(options) =>
				oauth.authorizationCodeGrantRequest(as, this.#client, this.#proof(as), params as never, redirect, proved, {
					...options,
					additionalParameters
				} as never),
			(response) => oauth.processGenericTokenEndpointResponse(as, this.#client, response)
		);
		return this.#tokenOf();
	}
	/** RFC 8628 section 3.1. */
	async device(): Promise<oauth.DeviceAuthorizationResponse> {
		const as = await this.#serverWith('device_authorization_endpoint');
		const { scope } = this.#settings;
		const form: Record<string, string> = { ...(scope ? { scope } : {}), ...this.#extra() };
		return this.#legs.speak(
			'device request',
			(options) => oauth.deviceAuthorizationRequest(as, this.#client, this.#proof(as), form, options),
			(response) => oauth.processDeviceAuthorizationResponse(as, this.#client, response)
		);
	}
	/** What the server says of a token (RFC 7662). */
	async introspect(token: string): Promise<JsonObject> {
		const as = await this.server();
		await this.#legs.speak(
			'introspection',
			(options) => oauth.introspectionRequest(as, this.#client, this.#proof(as), token, options),
			(response) => oauth.processIntrospectionResponse(as, this.#client, response)
		);
		return this.#legs.last!.data!;
	}
	/** RFC 7009. */
	async revoke(token: string): Promise<void> {
		const as = await this.server();
		await this.#legs.speak(
			'revocation',
			(options) => oauth.revocationRequest(as, this.#client, this.#proof(as), token, options),
			(response) => oauth.processRevocationResponse(response),
			false
		);
	}
}
