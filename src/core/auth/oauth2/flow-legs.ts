import type { Exchange } from '../../model/exchange.ts';
import type { JsonObject } from '../../model/json.ts';
import type { Token } from '../token.ts';
import type { OAuth2Client } from './client.ts';
import type { OAuth2Settings } from './settings.ts';

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

const OPTIONAL = new Set<LegKey>(['refresh', 'introspect', 'revoke']);

/** The legs that a grant goes, none of them gone yet. */
export function legsOf({ issuer, grant }: OAuth2Settings): Leg[] {
	const keys: LegKey[] = [
		...(issuer ? (['metadata'] as const) : []),
		...(grant === 'authorization-code' ? (['consent'] as const) : []),
		...(grant === 'device-code' ? (['device', 'confirm'] as const) : []),
		'token',
		...OPTIONAL
	];
	return keys.map((key) => ({
		key,
		title: LEGS[key][0],
		doc: LEGS[key][1],
		state: 'later',
		facts: [],
		...(OPTIONAL.has(key) ? { optional: true as const } : {})
	}));
}

/** The endpoint that a leg is of, where it has one of its own. */
const ENDPOINTS: Partial<Record<LegKey, 'introspection_endpoint' | 'revocation_endpoint'>> = {
	introspect: 'introspection_endpoint',
	revoke: 'revocation_endpoint'
};

/** What is known of a sign-in, by which legs can be done. */
export interface Known {
	token: Token | undefined;
	refreshToken: string;
	/** What the server offers, once that is known. */
	offers: Awaited<ReturnType<OAuth2Client['server']>> | undefined;
}

/** Opens the legs that can be done now. */
export function settleLegs(legs: readonly Leg[], { token, refreshToken, offers }: Known): void {
	let blocked = false;
	for (const one of legs) {
		if (!one.optional) {
			if (one.state === 'later' && !blocked) one.state = 'open';
			if (one.state !== 'done') blocked = true;
			continue;
		}
		if (one.state === 'later' && token) one.state = 'open';
		const endpoint = ENDPOINTS[one.key];
		if (offers && endpoint && !offers[endpoint] && one.state === 'open') {
			one.state = 'later';
			one.facts = [['not offered', `the server names no ${endpoint.replace('_', ' ')}`]];
		}
		if (one.key === 'refresh' && !(token?.reply.refresh_token || refreshToken)) one.state = 'later';
	}
}
