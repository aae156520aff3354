import type { FastifyInstance, FastifyRequest } from 'fastify';
import { randomInt } from 'node:crypto';
import { clientOf, DEVICE, origin, random, refuse, SCOPES, type Query, type SignOn } from './grants.ts';
import { devicePage, plainPage } from './pages.ts';

const DEVICE_LIFE_MS = 600_000;

/** Codes for devices without a keyboard, and the page that confirms them (RFC 8628). */
export function addDevices(app: FastifyInstance, service: SignOn): void {
	app.post('/device', (request: FastifyRequest<{ Body: Query }>, reply) => {
		const form = request.body ?? {};
		const found = clientOf(request, form);
		if (!found?.client.grants.includes(DEVICE)) return refuse(reply, 401, 'invalid_client', 'the client is not known');
		const code = random();
		const userCode = `${randomInt(1000, 9999)}-${randomInt(1000, 9999)}`;
		service.devices.set(code, {
			client: found.id,
			user: 'avery',
			scope: form.scope || SCOPES.join(' '),
			userCode,
			state: 'pending',
			endsAt: Date.now() + DEVICE_LIFE_MS,
			askedAt: 0
		});
		const page = `${origin(request)}/device/confirm`;
		return {
			device_code: code,
			user_code: userCode,
			verification_uri: page,
			verification_uri_complete: `${page}?user_code=${userCode}`,
			expires_in: DEVICE_LIFE_MS / 1000,
			interval: 1
		};
	});
	app.get('/device/confirm', (request: FastifyRequest<{ Querystring: Query }>, reply) =>
		reply.type('text/html; charset=utf-8').send(devicePage(request.query.user_code ?? ''))
	);
	app.post('/device/confirm', (request: FastifyRequest<{ Body: Query }>, reply) => {
		const device = [...service.devices.values()].find((one) => one.userCode === request.body.user_code);
		void reply.type('text/html; charset=utf-8');
		if (!device) return reply.code(400).send(plainPage('This code is not known', 'It may have ended.'));
		device.state = request.body.decision === 'allow' ? 'granted' : 'refused';
		return plainPage(device.state === 'granted' ? 'The device is signed in' : 'The device is turned away', '');
	});
}
