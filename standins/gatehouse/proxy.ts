import Fastify, { type FastifyInstance } from 'fastify';
import http from 'node:http';
import net from 'node:net';
import { WARDEN } from './answers.ts';
import type { Create } from './servers.ts';

/** A forward proxy that wants to know who asks (RFC 9110 section 7.3.2 and 11.7). */
export function createProxy(): FastifyInstance {
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
