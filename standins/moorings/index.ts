import multipart from '@fastify/multipart';
import Fastify, { type FastifyInstance } from 'fastify';
import type { Ledger } from '../tolls/ledger.ts';
import { problem, type Service } from './answers.ts';
import { addBookings } from './bookings.ts';
import { addMoorings } from './moorings.ts';
import { addOdd } from './odd.ts';
import { openapi } from './openapi.ts';
import { addPassages } from './passages.ts';
import { addPermits } from './permits.ts';
import { addSessions } from './sessions.ts';
import { freshState, type Edition } from './state.ts';

/** The moorings service of Reedmere Waterways. */
export async function createMoorings(edition: Edition, ledger: Ledger): Promise<FastifyInstance> {
	const service: Service = { state: freshState(edition) };
	const app = Fastify({ forceCloseConnections: true });
	await app.register(multipart, { limits: { fileSize: 5_000_000 } });
	app.setErrorHandler((error: Error & { statusCode?: number }, _, reply) =>
		problem(reply, error.statusCode ?? 500, error.statusCode === 400 ? 'Bad Request' : 'Error', error.message)
	);
	app.setNotFoundHandler((request, reply) => problem(reply, 404, 'Not Found', `there is nothing at ${request.url}`));
	await app.register(
		async (v1) => {
			v1.get('/openapi.json', (request) => openapi(`http://${request.headers.host}/v1`));
			v1.get('/health', () => ({ status: 'ok', edition, time: new Date().toISOString() }));
			v1.post('/reset', (_, reply) => {
				service.state = freshState(edition);
				return reply.code(204).send();
			});
			addSessions(v1, service);
			addMoorings(v1, service);
			addBookings(v1, service);
			addPassages(v1, ledger);
			addPermits(v1, service);
			addOdd(v1, service);
		},
		{ prefix: '/v1' }
	);
	return app;
}
