import type { FastifyInstance } from 'fastify';
import { randomBytes } from 'node:crypto';
import { problem, type Service } from './answers.ts';

const TOKEN_LIFE_MS = 3_600_000;

/** A token and a cookie for a clerk. */
export function addSessions(app: FastifyInstance, service: Service): void {
	app.post<{ Body: { user?: string; password?: string } | null }>('/sessions', (request, reply) => {
		const { user = '', password = '' } = request.body ?? {};
		if (service.state.clerks.get(user) !== password || !password)
			return problem(reply, 401, 'Unauthorized', 'user or password is wrong');
		const token = randomBytes(18).toString('base64url');
		const expiresAt = Date.now() + TOKEN_LIFE_MS;
		service.state.tokens.set(token, { user, expiresAt });
		void reply.header('set-cookie', `clerk=${user}; Path=/; HttpOnly`);
		return reply.code(201).send({ token, clerk: user, expiresAt: new Date(expiresAt).toISOString() });
	});
}
