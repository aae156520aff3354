import type { FastifyInstance } from 'fastify';
import { addressOf, passed, problem } from './answers.ts';

/** Answers that a first call meets when something is not as it should be. */
export function addOdd(app: FastifyInstance): void {
	app.get('/page', (_, reply) =>
		reply.type('text/html').send('<!doctype html><title>Reedmere Waterways</title><h1>Welcome to the canal</h1>')
	);
	app.get('/busy', (_, reply) => {
		void reply.header('retry-after', '30');
		return problem(reply, 429, 'too many calls');
	});
	app.get('/broken', (_, reply) => problem(reply, 503, 'the gatehouse is being painted'));
	app.post('/orders', () => passed('orders'));
	app.get('/orders', (_, reply) => {
		void reply.header('allow', 'POST, OPTIONS');
		return problem(reply, 405, 'orders are posted');
	});
	app.options('/orders', (_, reply) => reply.header('allow', 'POST, OPTIONS').code(204).send());
	app.get('/tow-path', (request, reply) =>
		request.headers['x-lock-name']
			? passed('tow-path', { lock: request.headers['x-lock-name'] })
			: problem(reply, 400, 'the header X-Lock-Name is missing')
	);
	app.get('/late', (_, reply) =>
		reply.header('date', new Date(Date.now() - 3_600_000).toUTCString()).send(passed('late'))
	);
	app.get('/old-road', (_, reply) => reply.redirect('/health', 301));
	app.get('/roundabout', (_, reply) => reply.redirect('/roundabout', 302));
	app.get('/elsewhere', (request, reply) => {
		const url = addressOf(request);
		return reply.redirect(`https://localhost:${url.port}/seen`, 302);
	});
	app.all('/seen', (request) => ({ method: request.method, headers: request.headers }));
	app.all('/forbidden', (_, reply) => problem(reply, 403, 'this gate opens for nobody'));
}
