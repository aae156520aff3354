import type { FastifyInstance, FastifyReply, FastifyRequest } from 'fastify';
import { jwtVerify } from 'jose';
import { createHash } from 'node:crypto';
import {
	clientOf,
	DEVICE,
	issue,
	JWT_BEARER,
	origin,
	refuse,
	ROBOT_KEY,
	SCOPES,
	USERS,
	type Query,
	type SignOn
} from './grants.ts';

interface Asked {
	request: FastifyRequest;
	reply: FastifyReply;
	form: Query;
	/** The client, by its name. */
	id: string;
	scope: string;
}
type GrantKind = (service: SignOn, asked: Asked) => FastifyReply | Promise<FastifyReply>;

const clientCredentials: GrantKind = (service, { id, scope, reply }) =>
	issue(service, { client: id, user: '', scope }, reply, false);

const password: GrantKind = (service, { form, id, scope, reply }) =>
	!form.username || !Object.hasOwn(USERS, form.username) || USERS[form.username] !== form.password
		? refuse(reply, 400, 'invalid_grant', 'user or password is wrong')
		: issue(service, { client: id, user: form.username, scope }, reply, true);

const refreshToken: GrantKind = (service, { form, id, reply }) => {
	const kept = service.refreshes.get(form.refresh_token ?? '');
	if (!kept || kept.client !== id) return refuse(reply, 400, 'invalid_grant', 'the refresh token is not known');
	// they are rotated: each one serves once
	service.refreshes.delete(form.refresh_token!);
	return issue(service, kept, reply, true);
};

const deviceCode: GrantKind = (service, { form, id, reply }) => {
	const device = service.devices.get(form.device_code ?? '');
	if (!device || device.client !== id) return refuse(reply, 400, 'invalid_grant', 'the device code is not known');
	const early = Date.now() - device.askedAt < 900;
	device.askedAt = Date.now();
	if (device.endsAt < Date.now()) return refuse(reply, 400, 'expired_token', 'the device code has ended');
	if (device.state === 'refused') return refuse(reply, 400, 'access_denied', 'consent was refused');
	if (device.state === 'pending')
		return refuse(reply, 400, early ? 'slow_down' : 'authorization_pending', 'nobody has confirmed the code yet');
	service.devices.delete(form.device_code!);
	return issue(service, device, reply, true);
};

const assertion: GrantKind = async (service, { request, form, id, scope, reply }) => {
	try {
		const { payload } = await jwtVerify(form.assertion ?? '', new TextEncoder().encode(ROBOT_KEY), {
			audience: `${origin(request)}/token`,
			issuer: id
		});
		return issue(service, { client: id, user: payload.sub ?? '', scope }, reply, false);
	} catch (error) {
		return refuse(reply, 400, 'invalid_grant', `the assertion is of no use: ${(error as Error).message}`);
	}
};

const authorizationCode: GrantKind = (service, { form, id, reply }) => {
	const code = service.codes.get(form.code ?? '');
	service.codes.delete(form.code ?? '');
	if (!code || code.client !== id || code.redirect !== form.redirect_uri || code.endsAt < Date.now())
		return refuse(reply, 400, 'invalid_grant', 'the code is not known, was used, or has ended');
	const verifier = form.code_verifier ?? '';
	const proof = code.method === 'S256' ? createHash('sha256').update(verifier).digest('base64url') : verifier;
	if (proof !== code.challenge) return refuse(reply, 400, 'invalid_grant', 'the code verifier does not fit');
	return issue(service, code, reply, true);
};

/** By `grant_type`. */
const GRANTS: Record<string, GrantKind> = {
	client_credentials: clientCredentials,
	password,
	refresh_token: refreshToken,
	[DEVICE]: deviceCode,
	[JWT_BEARER]: assertion,
	authorization_code: authorizationCode
};

/** The token endpoint (RFC 6749 section 3.2). */
export function addTokenEndpoint(app: FastifyInstance, service: SignOn): void {
	app.post('/token', (request: FastifyRequest<{ Body: Query }>, reply) => {
		const form = request.body ?? {};
		const found = clientOf(request, form);
		if (!found) return refuse(reply, 401, 'invalid_client', 'the client is not known, or its secret is wrong');
		const { id, client } = found;
		const grant = form.grant_type ?? '';
		if (!client.grants.includes(grant))
			return refuse(reply, 400, 'unauthorized_client', `${id} may not use the grant ${grant || '(none)'}`);
		const scope = form.scope || SCOPES.join(' ');
		const unknown = scope.split(' ').find((one) => !SCOPES.includes(one));
		if (unknown) return refuse(reply, 400, 'invalid_scope', `there is no scope ${unknown}`);
		return GRANTS[grant]!(service, { request, reply, form, id, scope });
	});
}
