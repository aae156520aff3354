import type { FastifyInstance } from 'fastify';
import { problem, type Service } from './answers.ts';

/** Answers that are late, that fail now and then, or that are given so often only. */
export function addOdd(app: FastifyInstance, service: Service): void {
	app.get<{ Querystring: { ms?: string } }>('/slow', async (request) => {
		const ms = Math.min(30_000, Number(request.query.ms ?? 1500) || 0);
		await new Promise((resolve) => setTimeout(resolve, ms));
		return { waitedMs: ms };
	});
	app.get('/flaky', (_, reply) => {
		if (service.state.flaky++ % 3 !== 2) return problem(reply, 503, 'Service Unavailable', 'try again');
		return reply.send({ status: 'ok' });
	});
	app.get('/limited', (_, reply) => {
		if (Date.now() - service.state.limited.since > 1000) service.state.limited = { since: Date.now(), count: 0 };
		if (++service.state.limited.count > 3) {
			void reply.header('retry-after', '1');
			return problem(reply, 429, 'Too Many Requests', 'three calls a second are allowed');
		}
		return reply.send({ left: 3 - service.state.limited.count });
	});
}
