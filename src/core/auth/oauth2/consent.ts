import * as oauth from 'oauth4webapi';
import { HeronError, textOf } from '../../errors.ts';
import type { Json } from '../../model/json.ts';
import type { OAuth2Settings } from './settings.ts';

/** The address of the consent page (RFC 6749 section 4.1.1, RFC 7636, RFC 8707). @param endpoint of authorization */
export function consentAddress(
	settings: OAuth2Settings,
	endpoint: string,
	{ redirect, state, challenge }: { redirect: string; state: string; challenge: string }
): string {
	const url = new URL(endpoint);
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
}

/** What came back to the redirect address (RFC 6749 section 4.1.2, RFC 9207). @throws HeronError auth.callback */
export function checkedCallback(
	settings: OAuth2Settings,
	as: oauth.AuthorizationServer,
	client: oauth.Client,
	params: URLSearchParams,
	state: string
): URLSearchParams {
	const seen = new URLSearchParams(params.toString());
	// without an issuer in the settings there is nothing to compare with
	if (!settings.issuer) seen.delete('iss');
	let checked: URLSearchParams;
	try {
		checked = oauth.validateAuthResponse(as, client, seen as never, state) as unknown as URLSearchParams;
	} catch (cause) {
		throw new HeronError('auth.callback', { detail: whyNot(settings, as, seen, state, cause) }, { cause });
	}
	if (!checked.get('code')) throw new HeronError('auth.callback', { detail: 'there is no code in it' });
	return checked;
}

function whyNot(
	settings: OAuth2Settings,
	as: oauth.AuthorizationServer,
	seen: URLSearchParams,
	state: string,
	cause: unknown
): string {
	if (seen.get('state') !== state)
		return 'its state is not the one that was sent: it answers another request, or was made up. Begin again';
	const error = seen.get('error');
	if (error) {
		const what = error === 'access_denied' ? 'consent was refused (access_denied)' : `the server answers ${error}`;
		const description = seen.get('error_description');
		return description ? `${what}: ${description}` : what;
	}
	if (settings.issuer && seen.get('iss') !== as.issuer)
		return `it comes from ${seen.get('iss') ?? 'no issuer'}, not from ${as.issuer}`;
	return textOf(cause);
}
