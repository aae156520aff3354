import type { FastifyReply, FastifyRequest } from 'fastify';
import { randomBytes } from 'node:crypto';

interface Client {
	secret?: string;
	grants: string[];
	/** Seconds. */
	life: number;
}

export const JWT_BEARER = 'urn:ietf:params:oauth:grant-type:jwt-bearer';

/** What assertions are signed with (RFC 7523). */
export const ROBOT_KEY = 'the-lock-robot-never-sleeps-by-the-weir';
export const DEVICE = 'urn:ietf:params:oauth:grant-type:device_code';

/** Who may ask for tokens; public, as everything about a stand-in is. */
export const CLIENTS: Record<string, Client> = {
	workbench: { grants: ['authorization_code', 'refresh_token', DEVICE], life: 300 },
	'gauge-reader': { secret: 'reed-bed-3', grants: ['client_credentials', 'refresh_token', 'password'], life: 300 },
	'lock-robot': { grants: [JWT_BEARER], life: 300 },
	// its tokens end before a run does
	'tide-clock': { secret: 'neap-and-spring', grants: ['client_credentials'], life: 3 }
};
export const USERS: Record<string, string> = { avery: 'lock-gate-9', blake: 'lock-gate-9' };
export const SCOPES = ['moorings', 'gauges', 'tolls'];

export interface Grant {
	client: string;
	user: string;
	scope: string;
}
export type Query = Record<string, string | undefined>;

/** What was given out and is still good. */
export interface SignOn {
	codes: Map<string, Grant & { redirect: string; challenge: string; method: string; endsAt: number }>;
	tokens: Map<string, Grant & { endsAt: number; issuedAt: number }>;
	refreshes: Map<string, Grant>;
	devices: Map<
		string,
		Grant & { userCode: string; state: 'pending' | 'granted' | 'refused'; endsAt: number; askedAt: number }
	>;
	/** How many tokens were given: parallel renewals can be counted. */
	given: number;
}

export const random = (bytes = 18) => randomBytes(bytes).toString('base64url');

export const origin = (request: FastifyRequest) => `http://${request.headers.host}`;

/** An error reply (RFC 6749 section 5.2). */
export const refuse = (reply: FastifyReply, status: number, error: string, description: string) => {
	if (status === 401) void reply.header('www-authenticate', 'Basic realm="sign-on"');
	return reply.code(status).header('cache-control', 'no-store').send({ error, error_description: description });
};

/** The client that a form or its header names, with the right secret (RFC 6749 section 2.3). */
export function clientOf(request: FastifyRequest, form: Query): { id: string; client: Client } | undefined {
	const header = /^Basic (.+)$/.exec(request.headers.authorization ?? '')?.[1];
	const [user = '', password = ''] = header ? Buffer.from(header, 'base64').toString().split(':') : [];
	const id = header ? decodeURIComponent(user) : (form.client_id ?? '');
	const secret = header ? decodeURIComponent(password) : form.client_secret;
	const client = Object.hasOwn(CLIENTS, id) ? CLIENTS[id] : undefined;
	return client && client.secret === secret ? { id, client } : undefined;
}

/** The reply with a new token (RFC 6749 section 5.1). */
export function issue(service: SignOn, grant: Grant, reply: FastifyReply, refreshable: boolean): FastifyReply {
	const token = random(24);
	const { life } = CLIENTS[grant.client]!;
	service.tokens.set(token, { ...grant, issuedAt: Date.now(), endsAt: Date.now() + life * 1000 });
	service.given += 1;
	const refresh = refreshable ? random(24) : undefined;
	if (refresh) service.refreshes.set(refresh, grant);
	return reply.header('cache-control', 'no-store').send({
		access_token: token,
		token_type: 'Bearer',
		expires_in: life,
		scope: grant.scope,
		...(refresh ? { refresh_token: refresh } : {}),
		// beyond the standard, as many servers send more
		harbour: 'Reedmere Basin'
	});
}
