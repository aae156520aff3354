import Fastify, { type FastifyInstance, type FastifyReply, type FastifyRequest } from 'fastify';
import { jwtVerify } from 'jose';
import { createHash, randomBytes } from 'node:crypto';
import http from 'node:http';
import http2 from 'node:http2';
import https from 'node:https';
import net from 'node:net';
import type tls from 'node:tls';
import { authorityPem, makeIdentities, type Identity } from './certificates.ts';
import { digestResponse, gateToken, messageSignature, oauth1Signature, parametersOf, same } from './signatures.ts';

/** Who may pass; public, as everything about a stand-in is. */
export const WARDEN = { user: 'warden', password: 'tidal-gate-4' };
export const GATE = {
	key: 'RW-GATE-2027',
	secret: 'weir-and-sluice',
	token: 'ferry-stage-6',
	client: 'lock-ledger',
	clientSecret: 'osier-bed-8',
	clientToken: 'ledger-token',
	tokenSecret: 'withy-bank-3',
	jwtSecret: 'a-lock-keeper-knows-every-paddle-by-its-sound'
};
const TIME_SLACK_S = 300;

const bodyOf = (request: FastifyRequest): Buffer => (Buffer.isBuffer(request.body) ? request.body : Buffer.alloc(0));
const problem = (reply: FastifyReply, status: number, detail: string) =>
	reply
		.code(status)
		.type('application/problem+json')
		.send({ type: 'about:blank', title: http.STATUS_CODES[status], status, detail });

/** What a passed gate answers. */
const passed = (gate: string, more: object = {}) => ({ gate, open: true, ...more });

type Create = (handler: http.RequestListener) => http.Server;

/** HTTPS with an identity of its own; open connections are cut when it closes. */
function secureServer(identity: Identity, options: https.ServerOptions = {}): Create {
	return (handler) => {
		const server = https.createServer({ ...identity, ...options }, handler);
		server.on('tlsClientError', () => undefined);
		return server;
	};
}

/** HTTP/2 and 1.1 on one port (RFC 9113 section 3.2). */
function eitherServer(identity: Identity): Create {
	return (handler) => {
		const server = http2.createSecureServer({ ...identity, allowHTTP1: true }, handler as never);
		const open = new Set<net.Socket>();
		server.on('connection', (socket: net.Socket) => {
			open.add(socket);
			socket.once('close', () => open.delete(socket));
		});
		server.on('tlsClientError', () => undefined);
		const close = server.close.bind(server);
		server.close = (done) => {
			close(done);
			for (const socket of open) socket.destroy();
			return server;
		};
		return server as unknown as http.Server;
	};
}

function createGate(create: Create): FastifyInstance {
	const app = Fastify({ forceCloseConnections: false, serverFactory: (handler) => create(handler as never) });
	app.removeAllContentTypeParsers();
	app.addContentTypeParser('*', { parseAs: 'buffer' }, (_, body, done) => done(null, body));
	app.addHook('onClose', async () => {
		if ('closeAllConnections' in app.server) app.server.closeAllConnections();
	});
	const addressOf = (request: FastifyRequest) =>
		new URL(request.raw.url ?? '/', `https://${request.headers.host ?? request.headers[':authority']}`);

	app.get('/health', (request) => {
		const socket = request.raw.socket as tls.TLSSocket;
		const peer = typeof socket.getPeerCertificate === 'function' ? socket.getPeerCertificate() : undefined;
		return passed('health', {
			http: request.raw.httpVersion,
			tls: typeof socket.getProtocol === 'function' ? socket.getProtocol() : null,
			client: peer?.subject?.CN ?? null
		});
	});

	app.get('/', () => ({ title: 'Gatehouse of Reedmere Waterways' }));

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

	/** Tokens for whoever shows a client certificate (RFC 8705 section 2). */
	app.post('/token', (request, reply) => {
		const socket = request.raw.socket as tls.TLSSocket;
		const client = socket.getPeerCertificate?.()?.subject?.CN;
		const form = new URLSearchParams(bodyOf(request).toString());
		if (!client || form.get('client_id') !== client)
			return reply.code(401).send({ error: 'invalid_client', error_description: 'a client certificate is wanted' });
		return { access_token: GATE.token, token_type: 'Bearer', expires_in: 300 };
	});

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

	app.all('/key', (request, reply) =>
		request.headers['x-api-key'] === GATE.key || addressOf(request).searchParams.get('key') === GATE.key
			? passed('key')
			: problem(reply, 401, 'the header X-API-Key is missing, or its key is not known')
	);

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

	// answers that a first call meets when something is not as it should be
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
	app.setNotFoundHandler((request, reply) => problem(reply, 404, `there is nothing at ${request.url}`));
	return app;
}

/** A forward proxy that wants to know who asks (RFC 9110 section 7.3.2 and 11.7). */
function createProxy(): FastifyInstance {
	const wanted = `Basic ${Buffer.from(`${WARDEN.user}:${WARDEN.password}`).toString('base64')}`;
	const refusal = { 'proxy-authenticate': 'Basic realm="gatehouse"', connection: 'close' };
	const create: Create = () => {
		const server = http.createServer((request, response) => {
			if (request.headers['proxy-authorization'] !== wanted) return response.writeHead(407, refusal).end();
			if (!URL.canParse(request.url ?? '')) return response.writeHead(400).end();
			const { 'proxy-authorization': _, ...headers } = request.headers;
			const onward = http.request(request.url!, { method: request.method ?? 'GET', headers }, (answer) => {
				response.writeHead(answer.statusCode ?? 502, { ...answer.headers, via: '1.1 gatehouse' });
				answer.pipe(response);
			});
			onward.once('error', () => response.writeHead(502).end());
			request.pipe(onward);
		});
		server.on('connect', (request: http.IncomingMessage, socket: net.Socket) => {
			socket.on('error', () => undefined);
			if (request.headers['proxy-authorization'] !== wanted)
				return socket.end(
					'HTTP/1.1 407 Proxy Authentication Required\r\nProxy-Authenticate: Basic realm="gatehouse"\r\nContent-Length: 0\r\n\r\n'
				);
			const [host = '', port = ''] = (request.url ?? '').split(':');
			const onward = net.connect(Number(port), host, () => {
				socket.write('HTTP/1.1 200 Connection Established\r\n\r\n');
				onward.pipe(socket).pipe(onward);
			});
			onward.on('error', () => socket.end('HTTP/1.1 502 Bad Gateway\r\n\r\n'));
		});
		return server;
	};
	const app = Fastify({ forceCloseConnections: true, serverFactory: create as never });
	return app;
}

/** Every port of the gatehouse, in order. */
export const gatehousePorts = [
	[
		'gatehouse',
		'Gatehouse: keys, signatures and passwords, over HTTPS',
		'/basic, /digest, /bearer, /key, /signed/…, /oauth1, /jwt, /message-signature; odd answers: /page, /busy, /broken, /orders, /tow-path, /late, /old-road, /roundabout, /elsewhere. HTTP/2 and 1.1.'
	],
	['gatehouse-mutual', 'Gatehouse that asks for a client certificate', 'warden.p12 of the demo opens it.'],
	['gatehouse-old', 'Gatehouse that speaks TLS 1.0 and 1.1 only', ''],
	['gatehouse-expired', 'Gatehouse whose certificate has ended', ''],
	['gatehouse-other-name', 'Gatehouse with the certificate of another host', ''],
	['gatehouse-self-signed', 'Gatehouse whose certificate is signed by itself', ''],
	['gatehouse-incomplete', 'Gatehouse that sends half of its chain', ''],
	['gatehouse-proxy', 'Proxy that wants user and password', 'For plain HTTP, and CONNECT for TLS.']
] as const;

export async function createGatehouse(): Promise<Record<(typeof gatehousePorts)[number][0], FastifyInstance>> {
	const { proper, expired, otherName, selfSigned, incomplete } = await makeIdentities();
	return {
		gatehouse: createGate(eitherServer(proper)),
		'gatehouse-mutual': createGate(
			secureServer(proper, { ca: authorityPem, requestCert: true, rejectUnauthorized: true })
		),
		'gatehouse-old': createGate(
			secureServer(proper, { minVersion: 'TLSv1', maxVersion: 'TLSv1.1', ciphers: 'DEFAULT:@SECLEVEL=0' })
		),
		'gatehouse-expired': createGate(secureServer(expired)),
		'gatehouse-other-name': createGate(secureServer(otherName)),
		'gatehouse-self-signed': createGate(secureServer(selfSigned)),
		'gatehouse-incomplete': createGate(secureServer(incomplete)),
		'gatehouse-proxy': createProxy()
	};
}
