import { writeJson } from '../../model/json.ts';
import { HeronError, textOf } from '../../errors.ts';
import type { PreparedRequest } from '../../model/exchange.ts';
import type { JsonObject } from '../../model/json.ts';
import { bytesToBase64, digestOf, utf8 } from '../../values/index.ts';
import type { AuthTools } from '../kind.ts';
import type { Token } from '../token.ts';
import { OAuth2Client } from './client.ts';
import { legsOf, settleLegs, type FlowView, type Known, type Leg, type LegKey } from './flow-legs.ts';
import { settingsOf, type OAuth2Settings } from './settings.ts';

export type { FlowView, Leg, LegKey } from './flow-legs.ts';

/** Gets a token by hand, leg by leg. */
export interface Flow {
	view(): FlowView;
	/** Does a leg; what goes wrong is in its view. */
	act(key: LegKey): Promise<void>;
	/** What came to the redirect address. */
	callback(params: string): Promise<void>;
	state: string;
}

const base64url = (bytes: Uint8Array) =>
	bytesToBase64(bytes).replace(/\+/g, '-').replace(/\//g, '_').replace(/=+$/, '');

/** The challenge of a verifier (RFC 7636 section 4.2). */
export const challengeOf = (verifier: string, method: string): string =>
	method === 'plain' ? verifier : base64url(digestOf('sha256', utf8(verifier)));

/** @throws HeronError auth.wrong */
export const createFlow = (given: JsonObject, outer: AuthTools, ownRedirect: string): Flow =>
	new SignInFlow(settingsOf(given, outer.name), outer, ownRedirect);

class SignInFlow implements Flow {
	readonly state: string;
	readonly #settings: OAuth2Settings;
	readonly #tools: AuthTools;
	readonly #client: OAuth2Client;
	readonly #redirect: string;
	readonly #verifier: string;
	readonly #legs: Leg[];
	/** The leg that is being done. */
	#current: Leg | undefined;
	#token: Token | undefined;
	#offers: Known['offers'];
	/** What came to the redirect address, and whether its code has been used. */
	#answered: { params: URLSearchParams; used: boolean } | undefined;
	#device: { code: string; interval: number } | undefined;

	constructor(settings: OAuth2Settings, tools: AuthTools, ownRedirect: string) {
		const { ports, name, environment } = tools;
		this.#settings = settings;
		this.#tools = tools;
		this.#client = new OAuth2Client(settings, { ...tools, leg: (title, request) => this.#goneLeg(title, request) });
		this.#redirect = settings.redirect || ownRedirect;
		this.state = base64url(ports.randomBytes(24));
		this.#verifier = base64url(ports.randomBytes(48));
		tools.learn(`${name}.code_verifier`, this.#verifier);
		this.#legs = legsOf(settings);
		const kept = ports.tokens.read(name, environment);
		if (kept?.settings === settings.fingerprint) this.#token = kept;
		this.#settle();
	}

	view(): FlowView {
		const token = this.#token;
		const device = this.#leg('confirm')?.state === 'waiting' ? this.#device : undefined;
		return {
			legs: this.#legs,
			...(token ? { token: { endsAt: token.endsAt, receivedAt: token.receivedAt, reply: token.reply } } : {}),
			...(device ? { pollEvery: device.interval } : {})
		};
	}

	async act(key: LegKey): Promise<void> {
		const own = this.#leg(key);
		if (!own) throw new HeronError('flow.leg', { leg: key });
		if (own.state === 'later') throw new HeronError('flow.later', { title: own.title });
		this.#current = own;
		delete own.error;
		try {
			await this.#acts[key](own);
		} catch (error) {
			own.state = 'failed';
			own.error = textOf(error);
		} finally {
			this.#current = undefined;
			this.#settle();
		}
	}

	async callback(text: string): Promise<void> {
		const own = this.#leg('consent');
		if (!own) throw new HeronError('auth.callback', { detail: 'nothing is waited for' });
		if (own.state === 'done')
			throw new HeronError('auth.callback', { detail: 'an answer was taken already; this second one is left alone' });
		const params = new URLSearchParams(text);
		try {
			this.#answered = { params: await this.#client.checkCallback(params, this.state), used: false };
			this.#tools.learn(`${this.#tools.name}.code`, params.get('code') ?? '');
			own.state = 'done';
			delete own.error;
			own.facts = [...own.facts.filter(([key]) => key !== 'came back'), ['came back', shownParams(params)]];
		} catch (error) {
			own.state = 'failed';
			own.error = textOf(error);
			throw error;
		} finally {
			this.#settle();
		}
	}

	#leg(key: LegKey): Leg | undefined {
		return this.#legs.find((one) => one.key === key);
	}

	/** Notes an exchange at the leg that it is of. */
	async #goneLeg(title: string, request: PreparedRequest): ReturnType<AuthTools['leg']> {
		const exchange = await this.#tools.leg(title, request);
		// metadata that another leg had to ask for belongs to its own place
		const owner = title === 'metadata' ? (this.#leg('metadata') ?? this.#current) : this.#current;
		if (owner) owner.exchange = exchange;
		if (title === 'metadata' && owner?.key === 'metadata')
			owner.state = exchange.reply?.status === 200 ? 'done' : 'failed';
		return exchange;
	}

	#settle(): void {
		const { refreshToken } = this.#settings;
		settleLegs(this.#legs, { token: this.#token, refreshToken, offers: this.#offers });
	}

	async #keep(made: Token | undefined): Promise<void> {
		const { ports, name, environment } = this.#tools;
		this.#token = made;
		this.#offers ??= await this.#client.server().catch(() => undefined);
		ports.tokens.write(name, environment, made);
		this.#settle();
	}

	readonly #acts: Record<LegKey, (own: Leg) => Promise<void>> = {
		metadata: (own) => this.#metadata(own),
		consent: (own) => this.#consent(own),
		device: (own) => this.#askDevice(own),
		confirm: (own) => this.#confirm(own),
		token: (own) => this.#askToken(own),
		refresh: (own) => this.#refresh(own),
		introspect: (own) => this.#introspect(own),
		revoke: (own) => this.#revoke(own)
	};

	async #metadata(own: Leg): Promise<void> {
		const server = await this.#client.server();
		this.#offers = server;
		own.facts = Object.entries(server).flatMap(([key, value]): [string, string][] =>
			typeof value === 'string' ? [[key, value]] : []
		);
		own.state = 'done';
	}

	async #consent(own: Leg): Promise<void> {
		const { pkce } = this.#settings;
		const challenge = challengeOf(this.#verifier, pkce);
		own.link = await this.#client.consentAddress(this.#redirect, this.state, challenge);
		own.facts = [
			['redirect address', this.#redirect],
			['state', this.state]
		];
		if (pkce !== 'none') own.facts.push(['code challenge', `${challenge} (${pkce})`]);
		own.state = 'waiting';
	}

	async #askDevice(own: Leg): Promise<void> {
		const given = await this.#client.device();
		this.#device = { code: given.device_code, interval: (given.interval ?? 5) * 1000 };
		own.facts = [['valid for', `${given.expires_in} s`]];
		own.state = 'done';
		const confirm = this.#leg('confirm')!;
		// a link that a reply gives is followed to a page of the web, and to nothing else
		const link = given.verification_uri_complete ?? given.verification_uri;
		if (URL.canParse(link) && /^https?:$/.test(new URL(link).protocol)) confirm.link = link;
		confirm.facts = [
			['code', given.user_code],
			['page', given.verification_uri]
		];
		confirm.state = 'waiting';
	}

	async #confirm(own: Leg): Promise<void> {
		const device = this.#device;
		if (!device) throw new HeronError('flow.noDevice');
		try {
			const grant = 'urn:ietf:params:oauth:grant-type:device_code';
			const made = await this.#client.token(grant, { device_code: device.code });
			own.state = 'done';
			const last = this.#leg('token')!;
			last.state = 'done';
			if (own.exchange) last.exchange = own.exchange;
			delete own.exchange;
			await this.#keep(made);
		} catch (error) {
			const said = error instanceof HeronError && error.code === 'auth.refused' ? error.values.error : '';
			if (said !== 'authorization_pending' && said !== 'slow_down') throw error;
			if (said === 'slow_down') device.interval += 5000;
			own.state = 'waiting';
			const words = said === 'slow_down' ? 'too often: slower from now on' : 'not confirmed yet';
			own.facts = [...own.facts.filter(([key]) => key !== 'last asked'), ['last asked', words]];
		}
	}

	async #askToken(own: Leg): Promise<void> {
		if (this.#settings.grant === 'device-code') return this.#confirm(this.#leg('confirm')!);
		await this.#keep(await (this.#settings.grant === 'authorization-code' ? this.#byCode() : this.#unasked()));
		own.state = 'done';
	}

	/** A token for the code that came to the redirect address. */
	#byCode(): Promise<Token> {
		const answered = this.#answered;
		if (!answered) throw new HeronError('auth.callback', { detail: 'no answer has come to the redirect address yet' });
		if (answered.used)
			throw new HeronError('auth.callback', { detail: 'its code was used already, and serves only once. Begin again' });
		answered.used = true;
		return this.#client.code(answered.params, this.#redirect, this.#verifier);
	}

	/** A token by a grant for which nobody has to be asked. */
	#unasked(): Promise<Token> {
		const { grant, user, password, refreshToken } = this.#settings;
		const scope = this.#scope();
		if (grant === 'client-credentials') return this.#client.token('client_credentials', scope);
		if (grant === 'password') return this.#client.token('password', { username: user, password, ...scope });
		if (grant === 'jwt-bearer') return this.#client.token('urn:ietf:params:oauth:grant-type:jwt-bearer', scope);
		return this.#client.token('refresh_token', { refresh_token: refreshToken, ...scope });
	}

	#scope(): Record<string, string> {
		const { scope } = this.#settings;
		return scope ? { scope } : {};
	}

	async #refresh(own: Leg): Promise<void> {
		const refresh_token = String(this.#token?.reply.refresh_token ?? '') || this.#settings.refreshToken;
		await this.#keep(await this.#client.token('refresh_token', { refresh_token, ...this.#scope() }));
		own.state = 'done';
	}

	async #introspect(own: Leg): Promise<void> {
		const said = await this.#client.introspect(String(this.#token?.reply.access_token));
		own.facts = Object.entries(said).map(([key, value]) => [key, typeof value === 'string' ? value : writeJson(value)]);
		own.state = 'done';
	}

	async #revoke(own: Leg): Promise<void> {
		await this.#client.revoke(String(this.#token?.reply.access_token));
		own.state = 'done';
		await this.#keep(undefined);
		for (const one of this.#legs) if (one.optional && one !== own) one.state = 'later';
		own.state = 'done';
	}
}

/** What came to the redirect address, its code in short. */
const shownParams = (params: URLSearchParams): string =>
	[...params]
		.map(([key, value]) => (key === 'code' ? `code, ${value.length} letters` : `${key} = ${value}`))
		.join(' · ');
