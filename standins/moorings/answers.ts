import type { FastifyReply, FastifyRequest } from 'fastify';
import type { State } from './state.ts';

/** What the calls share; a reset puts another state in its place. */
export interface Service {
	state: State;
}

/** Problem details (RFC 9457). */
export const problem = (reply: FastifyReply, status: number, title: string, detail: string, extra: object = {}) =>
	reply
		.code(status)
		.type('application/problem+json')
		.send({ type: 'about:blank', title, status, detail, ...extra });

/** A thing leads to itself. */
export const withLinks = (path: string, id: string) => ({ self: `${path}/${id}` });

/** Answers 401 to a call without a token that is known (RFC 6750). */
export function signedIn(service: Service, request: FastifyRequest, reply: FastifyReply): boolean {
	const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1];
	const session = token ? service.state.tokens.get(token) : undefined;
	if (session && session.expiresAt > Date.now()) return true;
	void reply.header('www-authenticate', 'Bearer realm="reedmere"');
	void problem(
		reply,
		401,
		'Unauthorized',
		token ? 'the token is not known or has expired' : 'a token is wanted: POST /sessions gives one'
	);
	return false;
}
