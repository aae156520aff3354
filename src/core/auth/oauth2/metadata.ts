import * as oauth from 'oauth4webapi';
import { HeronError } from '../../errors.ts';
import type { Legs } from './legs.ts';
import { replyInWords } from './reply.ts';
import type { OAuth2Settings } from './settings.ts';

/** Endpoints by hand over those of the issuer's metadata. @throws HeronError auth.* */
export async function serverOf(
	{ endpoints, issuer }: OAuth2Settings,
	name: string,
	legs: Legs
): Promise<oauth.AuthorizationServer> {
	const byHand = {
		...(endpoints.authorization ? { authorization_endpoint: endpoints.authorization } : {}),
		...(endpoints.token ? { token_endpoint: endpoints.token } : {}),
		...(endpoints.device ? { device_authorization_endpoint: endpoints.device } : {}),
		...(endpoints.introspection ? { introspection_endpoint: endpoints.introspection } : {}),
		...(endpoints.revocation ? { revocation_endpoint: endpoints.revocation } : {})
	};
	if (issuer) return { ...(await discover(new URL(issuer), name, legs)), ...byHand };
	const any = endpoints.token || endpoints.device || endpoints.authorization;
	if (!any) throw new HeronError('auth.wrong', { name, detail: 'neither an issuer nor a token endpoint is given' });
	return { issuer: new URL(any).origin, ...byHand };
}

/** RFC 8414 first, then where OpenID Connect puts the same document. */
async function discover(issuer: URL, name: string, legs: Legs): Promise<oauth.AuthorizationServer> {
	const asked: string[] = [];
	try {
		for (const algorithm of ['oauth2', 'oidc'] as const) {
			const response = await oauth.discoveryRequest(issuer, { algorithm, ...legs.options('metadata', false) });
			const { exchange, data } = legs.last!;
			asked.push(exchange.url);
			if (exchange.reply?.status !== 200 || !data) continue;
			const said = data.issuer;
			const wanted = issuer.href.replace(/\/$/, '');
			if (typeof said === 'string' && said.replace(/\/$/, '') !== wanted)
				throw new HeronError('auth.issuer', { name, wanted, said });
			return await oauth.processDiscoveryResponse(typeof said === 'string' ? new URL(said) : issuer, response);
		}
	} catch (error) {
		throw legs.worded('metadata', error);
	}
	const { reply } = legs.last!.exchange;
	throw legs.failed('metadata', `${asked.join(' and ')} were asked: ${replyInWords(reply!)}`);
}
