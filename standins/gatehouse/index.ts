import Fastify, { type FastifyInstance } from 'fastify';
import type tls from 'node:tls';
import { passed, problem } from './answers.ts';
import { authorityPem, makeIdentities } from './certificates.ts';
import { addOdd } from './odd.ts';
import { addDigest, addPasswords } from './passwords.ts';
import { createProxy } from './proxy.ts';
import { eitherServer, secureServer, type Create } from './servers.ts';
import { addSigned } from './signed.ts';

function createGate(create: Create): FastifyInstance {
	const app = Fastify({ forceCloseConnections: false, serverFactory: (handler) => create(handler as never) });
	app.removeAllContentTypeParsers();
	app.addContentTypeParser('*', { parseAs: 'buffer' }, (_, body, done) => done(null, body));
	app.addHook('onClose', async () => {
		if ('closeAllConnections' in app.server) app.server.closeAllConnections();
	});
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

	addPasswords(app);
	addDigest(app);
	addSigned(app);
	addOdd(app);
	app.setNotFoundHandler((request, reply) => problem(reply, 404, `there is nothing at ${request.url}`));
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
