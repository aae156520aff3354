import { HeronError } from '../errors.ts';
import type { PreparedRequest } from '../model/exchange.ts';
import { withBearer } from './bearer.ts';
import type { AuthTools, CredentialKind } from './kind.ts';
import { OAuth2Client } from './oauth2/client.ts';
import { fields, settingsOf, type OAuth2Settings } from './oauth2/settings.ts';
import type { Token } from './token.ts';

const scoped = (settings: OAuth2Settings): Record<string, string> => (settings.scope ? { scope: settings.scope } : {});

/** A token without anybody's help: by a refresh token where there is one, else by a grant that needs no consent. */
async function acquire(
	settings: OAuth2Settings,
	client: OAuth2Client,
	tools: AuthTools,
	old: Token | undefined
): Promise<Token> {
	const refresh = String(old?.reply.refresh_token ?? '') || settings.refreshToken;
	if (refresh) {
		try {
			return await client.token('refresh_token', { refresh_token: refresh, ...scoped(settings) });
		} catch (error) {
			// what the server gave itself may have ended; what the settings hold may still be good
			const refused = error instanceof HeronError && error.code === 'auth.refused';
			if (refused && settings.refreshToken && refresh !== settings.refreshToken)
				return client.token('refresh_token', { refresh_token: settings.refreshToken, ...scoped(settings) });
			if (!refused || isInteractive(settings)) throw error;
		}
	}
	switch (settings.grant) {
		case 'client-credentials':
			return client.token('client_credentials', scoped(settings));
		case 'password':
			return client.token('password', { username: settings.user, password: settings.password, ...scoped(settings) });
		case 'jwt-bearer':
			return client.token('urn:ietf:params:oauth:grant-type:jwt-bearer', scoped(settings));
		case 'refresh-token':
			throw new HeronError('auth.wrong', { name: tools.name, detail: 'the refresh token is missing' });
		default:
			throw new HeronError('auth.consent', { name: tools.name, environment: tools.environment || 'any environment' });
	}
}

const isInteractive = ({ grant }: OAuth2Settings): boolean => grant === 'authorization-code' || grant === 'device-code';

/** The token in use; a new one when it ends soon, belongs to other settings, or was refused. Many callers fetch once. */
async function currentToken(settings: OAuth2Settings, tools: AuthTools, refused?: string): Promise<Token> {
	const { name, environment, ports } = tools;
	const good = (token: Token | undefined): boolean =>
		token !== undefined &&
		token.settings === settings.fingerprint &&
		token.reply.access_token !== refused &&
		(token.endsAt === 0 ||
			token.endsAt - Math.min(settings.renewBefore, (token.endsAt - token.receivedAt) / 2) > ports.now());
	const kept = ports.tokens.read(name, environment);
	let token = good(kept) ? kept : undefined;
	if (!token) {
		token = await ports.tokens.once(name, environment, async () => {
			// somebody may have been quicker
			const now = ports.tokens.read(name, environment);
			if (now && good(now)) return now;
			const old = now?.settings === settings.fingerprint ? now : undefined;
			const made = await acquire(settings, new OAuth2Client(settings, tools), tools, old);
			ports.tokens.write(name, environment, made);
			return made;
		});
	}
	for (const member of ['access_token', 'refresh_token', 'id_token']) {
		const value = token.reply[member];
		if (typeof value === 'string') tools.learn(`${name}.${member}`, value);
	}
	return token;
}

export const oauth2: CredentialKind = {
	key: 'oauth2',
	label: 'OAuth 2.0',
	standard: 'RFC 6749, 7636, 8628, 7523, 8414',
	doc: 'A token from an authorization server, kept until it ends, renewed before that and once after a 401.',
	fields,
	example: {
		kind: 'oauth2',
		grant: 'client-credentials',
		issuer: '{$env.signOn}',
		clientId: 'gauge-reader',
		clientSecret: '{$secret.gaugeReaderSecret}',
		scope: 'gauges.read'
	},
	check(value, report) {
		const given = (name: string) => value[name] !== undefined && value[name] !== '';
		if (!given('issuer') && !given('tokenEndpoint')) report([], 'an issuer is wanted, or a tokenEndpoint');
		if (value.grant === 'password' && !given('user')) report([], 'user is missing: the grant is password');
		if (value.grant === 'refresh-token' && !given('refreshToken'))
			report([], 'refreshToken is missing: the grant is refresh-token');
		if ((value.clientAuth === 'private-key-jwt' || value.grant === 'jwt-bearer') && !given('key'))
			report([], 'key is missing: a private key signs the assertion');
		if (['basic', 'post', 'client-secret-jwt'].includes(String(value.clientAuth)) && !given('clientSecret'))
			report([], `clientSecret is missing: the client proves itself by ${String(value.clientAuth)}`);
	},
	open(given, tools) {
		const settings = settingsOf(given, tools.name);
		let used = '';
		/** The request of the hop, before the token was put in. */
		let plain: PreparedRequest | undefined;
		return {
			token: () => currentToken(settings, tools),
			async apply(request) {
				const token = await currentToken(settings, tools);
				used = String(token.reply.access_token);
				plain = request;
				return withBearer(request, used, settings.in, tools.name);
			},
			async retry(request, reply, attempt) {
				// once only: a 401 that stays is the answer
				if (reply.status !== 401 || attempt > 1) return undefined;
				const old = tools.ports.tokens.read(tools.name, tools.environment);
				const renewable =
					!isInteractive(settings) || old?.reply.refresh_token !== undefined || settings.refreshToken !== '';
				if (!renewable) return undefined;
				const token = await currentToken(settings, tools, used);
				return withBearer(plain ?? request, String(token.reply.access_token), settings.in, tools.name);
			}
		};
	}
};
