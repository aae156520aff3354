import type { FastifyInstance } from 'fastify';
import { createHash } from 'node:crypto';
import { addressOf, bodyOf, GATE, passed, problem } from './answers.ts';
import { gateToken, messageSignature, oauth1Signature, parametersOf, same } from './signatures.ts';

const TIME_SLACK_S = 300;

/** Gates that a signature over the call opens: of the house, OAuth 1.0a (RFC 5849), message signatures (RFC 9421). */
export function addSigned(app: FastifyInstance): void {
	app.all('/signed/*', (request, reply) => {
		const url = addressOf(request);
		if (url.searchParams.get('key') !== GATE.key)
			return problem(reply, 401, 'the query parameter key is missing, or its key is not known');
		const time = String(request.headers['x-gate-time'] ?? '');
		const token = String(request.headers['x-gate-token'] ?? '');
		if (!time) return problem(reply, 401, 'the header X-Gate-Time is missing');
		if (!token) return problem(reply, 401, 'the header X-Gate-Token is missing');
		if (Math.abs(Number(time) - Date.now() / 1000) > TIME_SLACK_S)
			return problem(reply, 401, 'X-Gate-Time is more than five minutes off');
		if (!same(token, gateToken(time, request.method, url, bodyOf(request), GATE.secret)))
			return problem(reply, 403, 'X-Gate-Token does not fit this request');
		return passed('signed', { path: url.pathname });
	});

	app.all('/oauth1', (request, reply) => {
		const given = parametersOf(request.headers.authorization ?? '', 'OAuth');
		if (!given) {
			void reply.header('www-authenticate', 'OAuth realm="gatehouse"');
			return problem(reply, 401, 'a signed request is wanted');
		}
		const wanted = oauth1Signature(given, request.method, addressOf(request).href, {
			client: GATE.clientSecret,
			token: GATE.tokenSecret
		});
		const fits =
			given.oauth_consumer_key === GATE.client && same(decodeURIComponent(given.oauth_signature ?? ''), wanted);
		return fits ? passed('oauth1') : problem(reply, 401, 'the signature does not fit this request');
	});

	app.all('/message-signature', (request, reply) => {
		const input = String(request.headers['signature-input'] ?? '');
		const signature = /:([A-Za-z0-9+/=]+):/.exec(String(request.headers.signature ?? ''))?.[1] ?? '';
		const digest = String(request.headers['content-digest'] ?? '');
		const body = `sha-256=:${createHash('sha256').update(bodyOf(request)).digest('base64')}:`;
		if (digest && digest !== body) return problem(reply, 400, 'Content-Digest does not fit the body');
		const { method, headers } = request;
		const wanted = messageSignature(input, { method, url: addressOf(request).href, headers }, GATE.secret);
		return wanted && same(signature, wanted)
			? passed('message-signature')
			: problem(reply, 401, 'the signature is missing or does not fit this request');
	});
}
