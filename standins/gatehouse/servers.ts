import http from 'node:http';
import http2 from 'node:http2';
import https from 'node:https';
import type net from 'node:net';
import type { Identity } from './certificates.ts';

export type Create = (handler: http.RequestListener) => http.Server;

/** HTTPS with an identity of its own; open connections are cut when it closes. */
export function secureServer(identity: Identity, options: https.ServerOptions = {}): Create {
	return (handler) => {
		const server = https.createServer({ ...identity, ...options }, handler);
		server.on('tlsClientError', () => undefined);
		return server;
	};
}

/** HTTP/2 and 1.1 on one port (RFC 9113 section 3.2). */
export function eitherServer(identity: Identity): Create {
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
