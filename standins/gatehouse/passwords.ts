import type { FastifyInstance } from 'fastify';
import { jwtVerify } from 'jose';
import { randomBytes } from 'node:crypto';
import type tls from 'node:tls';
import { addressOf, bodyOf, GATE, passed, problem, WARDEN } from './answers.ts';
import { digestResponse, parametersOf, same } from './signatures.ts';

/** Gates that a password, a key or a token opens. */
export function addPasswords(app: FastifyInstance): void {
	app.all('/basic', (request, reply) => {
		const wanted = `Basic ${Buffer.from(`${WARDEN.user}:${WARDEN.password}`).toString('base64')}`;
		if (same(request.headers.authorization ?? '', wanted)) return passed('basic', { user: WARDEN.user });
		void reply.header('www-authenticate', 'Basic realm="gatehouse", charset="UTF-8"');
		return problem(reply, 401, 'user and password are wanted');
	});

	app.all('/bearer', (request, reply) => {
		if (same(request.headers.authorization ?? '', `Bearer ${GATE.token}`)) return passed('bearer');
		void reply.header('www-authenticate', 'Bearer realm="gatehouse"');
		return problem(reply, 401, 'a token is wanted');
	});

	app.all('/key', (request, reply) =>
		request.headers['x-api-key'] === GATE.key || addressOf(request).searchParams.get('key') === GATE.key
			? passed('key')
			: problem(reply, 401, 'the header X-API-Key is missing, or its key is not known')
	);

	/** Tokens for whoever shows a client certificate (RFC 8705 section 2). */
	app.post('/token', (request, reply) => {
		const socket = request.raw.socket as tls.TLSSocket;
		const client = socket.getPeerCertificate?.()?.subject?.CN;
		const form = new URLSearchParams(bodyOf(request).toString());
		if (!client || form.get('client_id') !== client)
			return reply.code(401).send({ error: 'invalid_client', error_description: 'a client certificate is wanted' });
		return { access_token: GATE.token, token_type: 'Bearer', expires_in: 300 };
	});

	app.all('/jwt', async (request, reply) => {
		try {
			const token = /^Bearer (.+)$/.exec(request.headers.authorization ?? '')?.[1] ?? '';
			const { payload } = await jwtVerify(token, new TextEncoder().encode(GATE.jwtSecret), { audience: 'gatehouse' });
			return passed('jwt', { claims: payload });
		} catch (error) {
			void reply.header('www-authenticate', 'Bearer realm="gatehouse", error="invalid_token"');
			return problem(reply, 401, `the token is of no use: ${(error as Error).message}`);
		}
	});
}

/** Digest, with nonces that serve three times (RFC 7616). */
export function addDigest(app: FastifyInstance): void {
	const nonces = new Map<string, number>();
	app.all('/digest', (request, reply) => {
		const { searchParams } = addressOf(request);
		const offered = searchParams.get('algorithm')?.split(',') ?? ['SHA-256', 'MD5'];
		const qop = searchParams.get('qop') ?? 'auth, auth-int';
		const ask = (stale: boolean) => {
			const nonce = randomBytes(12).toString('base64url');
			nonces.set(nonce, 0);
			const challenges = offered.map(
				(algorithm) =>
					`Digest realm="gatehouse", qop="${qop}", algorithm=${algorithm}, nonce="${nonce}"${stale ? ', stale=true' : ''}`
			);
			void reply.header('www-authenticate', challenges);
			return problem(reply, 401, 'user and password are wanted');
		};
		const given = parametersOf(request.headers.authorization ?? '', 'Digest');
		if (!given) return ask(false);
		const count = Number.parseInt(given.nc ?? '', 16);
		const last = nonces.get(given.nonce ?? '');
		// a nonce serves three times, and no count twice (RFC 7616 section 3.4.5)
		if (last === undefined || count <= last || count > 3) return ask(true);
		const wanted = digestResponse(given, WARDEN.password, request.method, bodyOf(request));
		if (given.username !== WARDEN.user || !wanted || !same(given.response ?? '', wanted)) return ask(false);
		nonces.set(given.nonce!, count);
		return passed('digest', { algorithm: given.algorithm ?? 'MD5', qop: given.qop ?? null, count });
	});
}
