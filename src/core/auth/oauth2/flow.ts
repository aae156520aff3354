import { writeJson } from '../../model/json.ts';
import { HeronError, textOf } from '../../errors.ts';
import type { Exchange, PreparedRequest } from '../../model/exchange.ts';
import type { JsonObject } from '../../model/json.ts';
import { bytesToBase64, digestOf, utf8 } from '../../values/index.ts';
import type { AuthTools } from '../kind.ts';
import type { Token } from '../token.ts';
import { OAuth2Client } from './client.ts';
import { settingsOf } from './settings.ts';

/** The legs of a sign-in by which a page shows how far it is. */
export type LegKey = 'metadata' | 'consent' | 'device' | 'confirm' | 'token' | 'refresh' | 'introspect' | 'revoke';

/** One leg of getting a token, in the order in which they are gone. */
export interface Leg {
	key: LegKey;
	title: string;
	doc: string;
	/** later: another comes first; open: can be done now; waiting: for somebody else. */
	state: 'later' | 'open' | 'waiting' | 'done' | 'failed';
	/** What is worth knowing: name and value. */
	facts: [string, string][];
	/** A page to open by hand. */
	link?: string;
	exchange?: Exchange;
	error?: string;
	/** It is not needed to have a token. */
	optional?: true;
}

/** A sign-in step by step, as a page shows it. */
export interface FlowView {
	legs: Leg[];
	token?: { endsAt: number; receivedAt: number; reply: JsonObject };
	/** Milliseconds between two questions while a device is waited for. */
	pollEvery?: number;
}

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

const LEGS: Record<LegKey, [title: string, doc: string]> = {
	metadata: ['Metadata', 'Asks the issuer where its endpoints are (RFC 8414).'],
	consent: ['Consent', 'Somebody signs in and agrees, in the browser; the answer comes to the redirect address.'],
	device: ['Device code', 'Asks for a code that somebody types in elsewhere (RFC 8628).'],
	confirm: ['Confirmation', 'Somebody opens the page and types the code.'],
	token: ['Token', 'Asks the token endpoint.'],
	refresh: ['Refresh', 'A new token for the refresh token.'],
	introspect: ['Introspection', 'Asks the server what it knows of the token (RFC 7662).'],
	revoke: ['Revocation', 'Tells the server to forget the token (RFC 7009).']
};

/** @throws HeronError auth.wrong */
export function createFlow(given: JsonObject, outer: AuthTools, ownRedirect: string): Flow {
	const settings = settingsOf(given, outer.name);
	const { ports, name, environment } = outer;
	let current: Leg | undefined;
	const tools: AuthTools = {
		...outer,
		async leg(title: string, request: PreparedRequest) {
			const exchange = await outer.leg(title, request);
			// metadata that another leg had to ask for belongs to its own place
			const owner = title === 'metadata' ? (legs.find((leg) => leg.key === 'metadata') ?? current) : current;
			if (owner) owner.exchange = exchange;
			if (title === 'metadata' && owner?.key === 'metadata')
				owner.state = exchange.reply?.status === 200 ? 'done' : 'failed';
			return exchange;
		}
	};
	const client = new OAuth2Client(settings, tools);
	const redirect = settings.redirect || ownRedirect;
	const state = base64url(ports.randomBytes(24));
	const verifier = base64url(ports.randomBytes(48));
	outer.learn(`${name}.code_verifier`, verifier);
	const keys: LegKey[] = [
		...(settings.issuer ? (['metadata'] as const) : []),
		...(settings.grant === 'authorization-code' ? (['consent'] as const) : []),
		...(settings.grant === 'device-code' ? (['device', 'confirm'] as const) : []),
		'token',
		'refresh',
		'introspect',
		'revoke'
	];
	const optional = new Set<LegKey>(['refresh', 'introspect', 'revoke']);
	const legs: Leg[] = keys.map((key) => ({
		key,
		title: LEGS[key][0],
		doc: LEGS[key][1],
		state: 'later',
		facts: [],
		...(optional.has(key) ? { optional: true as const } : {})
	}));
	const leg = (key: LegKey) => legs.find((one) => one.key === key);
	let token: Token | undefined = ports.tokens.read(name, environment);
	if (token?.settings !== settings.fingerprint) token = undefined;
	let answered: URLSearchParams | undefined;
	/** What the server offers, once that is known. */
	let offers: Awaited<ReturnType<typeof client.server>> | undefined;
	let used = false;
	let device: { code: string; interval: number } | undefined;

	const keep = async (made: Token | undefined) => {
		token = made;
		offers ??= await client.server().catch(() => undefined);
		ports.tokens.write(name, environment, made);
		settle();
	};
	/** Which legs can be done now. */
	const settle = () => {
		let blocked = false;
		for (const one of legs) {
			if (one.optional) {
				if (one.state === 'later' && token) one.state = 'open';
				const endpoint = { introspect: 'introspection_endpoint', revoke: 'revocation_endpoint' }[one.key as 'revoke'];
				if (offers && endpoint && !offers[endpoint as 'revocation_endpoint'] && one.state === 'open') {
					one.state = 'later';
					one.facts = [['not offered', `the server names no ${endpoint.replace('_', ' ')}`]];
				}
				if (one.key === 'refresh' && !(token?.reply.refresh_token || settings.refreshToken)) one.state = 'later';
				continue;
			}
			if (one.state === 'later' && !blocked) one.state = 'open';
			if (one.state !== 'done') blocked = true;
		}
	};
	settle();

	const acts: Record<LegKey, (own: Leg) => Promise<void>> = {
		async metadata(own) {
			const as = await client.server();
			offers = as;
			own.facts = Object.entries(as).flatMap(([key, value]): [string, string][] =>
				typeof value === 'string' ? [[key, value]] : []
			);
			own.state = 'done';
		},
		async consent(own) {
			own.link = await client.consentAddress(redirect, state, challengeOf(verifier, settings.pkce));
			own.facts = [
				['redirect address', redirect],
				['state', state],
				...(settings.pkce === 'none'
					? []
					: ([['code challenge', `${challengeOf(verifier, settings.pkce)} (${settings.pkce})`]] as [string, string][]))
			];
			own.state = 'waiting';
		},
		async device(own) {
			const given = await client.device();
			device = { code: given.device_code, interval: (given.interval ?? 5) * 1000 };
			own.facts = [['valid for', `${given.expires_in} s`]];
			own.state = 'done';
			const confirm = leg('confirm')!;
			// a link that a reply gives is followed to a page of the web, and to nothing else
			const link = given.verification_uri_complete ?? given.verification_uri;
			if (URL.canParse(link) && /^https?:$/.test(new URL(link).protocol)) confirm.link = link;
			confirm.facts = [
				['code', given.user_code],
				['page', given.verification_uri]
			];
			confirm.state = 'waiting';
		},
		async confirm(own) {
			if (!device) throw new HeronError('flow.noDevice');
			try {
				const made = await client.token('urn:ietf:params:oauth:grant-type:device_code', { device_code: device.code });
				own.state = 'done';
				const last = leg('token')!;
				last.state = 'done';
				if (own.exchange) last.exchange = own.exchange;
				delete own.exchange;
				await keep(made);
			} catch (error) {
				const said = error instanceof HeronError && error.code === 'auth.refused' ? error.values.error : '';
				if (said !== 'authorization_pending' && said !== 'slow_down') throw error;
				if (said === 'slow_down') device.interval += 5000;
				own.state = 'waiting';
				own.facts = [
					...own.facts.filter(([key]) => key !== 'last asked'),
					['last asked', said === 'slow_down' ? 'too often: slower from now on' : 'not confirmed yet']
				];
			}
		},
		async token(own) {
			if (settings.grant === 'device-code') return acts.confirm(leg('confirm')!);
			if (settings.grant === 'authorization-code') {
				if (!answered)
					throw new HeronError('auth.callback', { detail: 'no answer has come to the redirect address yet' });
				if (used)
					throw new HeronError('auth.callback', {
						detail: 'its code was used already, and serves only once. Begin again'
					});
				used = true;
				await keep(await client.code(answered, redirect, verifier));
			} else {
				const scope: Record<string, string> = settings.scope ? { scope: settings.scope } : {};
				if (settings.grant === 'client-credentials') await keep(await client.token('client_credentials', scope));
				else if (settings.grant === 'password')
					await keep(
						await client.token('password', { username: settings.user, password: settings.password, ...scope })
					);
				else if (settings.grant === 'jwt-bearer')
					await keep(await client.token('urn:ietf:params:oauth:grant-type:jwt-bearer', scope));
				else await keep(await client.token('refresh_token', { refresh_token: settings.refreshToken, ...scope }));
			}
			own.state = 'done';
		},
		async refresh(own) {
			const refresh = String(token?.reply.refresh_token ?? '') || settings.refreshToken;
			await keep(
				await client.token('refresh_token', {
					refresh_token: refresh,
					...(settings.scope ? { scope: settings.scope } : {})
				})
			);
			own.state = 'done';
		},
		async introspect(own) {
			const said = await client.introspect(String(token?.reply.access_token));
			own.facts = Object.entries(said).map(([key, value]) => [
				key,
				typeof value === 'string' ? value : writeJson(value)
			]);
			own.state = 'done';
		},
		async revoke(own) {
			await client.revoke(String(token?.reply.access_token));
			own.state = 'done';
			await keep(undefined);
			for (const one of legs) if (one.optional && one !== own) one.state = 'later';
			own.state = 'done';
		}
	};

	return {
		state,
		view: () => ({
			legs,
			...(token ? { token: { endsAt: token.endsAt, receivedAt: token.receivedAt, reply: token.reply } } : {}),
			...(device && leg('confirm')?.state === 'waiting' ? { pollEvery: device.interval } : {})
		}),
		async act(key) {
			const own = leg(key);
			if (!own) throw new HeronError('flow.leg', { leg: key });
			if (own.state === 'later') throw new HeronError('flow.later', { title: own.title });
			current = own;
			delete own.error;
			try {
				await acts[key](own);
			} catch (error) {
				own.state = 'failed';
				own.error = textOf(error);
			} finally {
				current = undefined;
				settle();
			}
		},
		async callback(text) {
			const own = leg('consent');
			if (!own) throw new HeronError('auth.callback', { detail: 'nothing is waited for' });
			if (own.state === 'done')
				throw new HeronError('auth.callback', { detail: 'an answer was taken already; this second one is left alone' });
			const params = new URLSearchParams(text);
			try {
				answered = await client.checkCallback(params, state);
				const code = params.get('code') ?? '';
				outer.learn(`${name}.code`, code);
				own.state = 'done';
				delete own.error;
				own.facts = [
					...own.facts.filter(([key]) => key !== 'came back'),
					[
						'came back',
						[...params]
							.map(([key, value]) => (key === 'code' ? `code, ${value.length} letters` : `${key} = ${value}`))
							.join(' · ')
					]
				];
			} catch (error) {
				own.state = 'failed';
				own.error = textOf(error);
				throw error;
			} finally {
				settle();
			}
		}
	};
}
