import { createHash, randomBytes } from 'node:crypto';
import http from 'node:http';
import https from 'node:https';
import net from 'node:net';

export interface ProxyKind {
	/** Certificate and key, for a proxy that speaks TLS. */
	identity?: { cert: string; key: string };
	scheme?: 'basic' | 'digest';
	/** What is answered to a wrong password, when it is not 407. */
	refusal?: number;
	/** What is answered to everything, whoever asks. */
	always?: number;
}
export const KEEPER = { user: 'keeper', password: 'towpath-gate-3' };

const listening = async (server: net.Server): Promise<number> => {
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	return (server.address() as net.AddressInfo).port;
};
const sha256 = (text: string) => createHash('sha256').update(text).digest('hex');

/** A forward proxy: absolute addresses and CONNECT, with a password by Basic or by Digest (SHA-256). */
export async function startProxy({ identity, scheme, refusal, always }: ProxyKind = {}) {
	const nonce = randomBytes(8).toString('hex');
	const asked: string[] = [];
	const verdict = (method: string, field: string): number => {
		if (always) return always;
		if (!scheme) return 200;
		if (!field) return 407;
		if (scheme === 'basic') {
			const wanted = `Basic ${Buffer.from(`${KEEPER.user}:${KEEPER.password}`).toString('base64')}`;
			return field === wanted ? 200 : (refusal ?? 407);
		}
		if (!field.startsWith('Digest ')) return 407;
		const part = (name: string) => new RegExp(`[ ,]${name}="?([^",]*)`).exec(field)?.[1] ?? '';
		const a1 = sha256(`${KEEPER.user}:gate:${KEEPER.password}`);
		const a2 = sha256(`${method}:${part('uri')}`);
		const wanted = sha256(`${a1}:${nonce}:${part('nc')}:${part('cnonce')}:auth:${a2}`);
		return part('nonce') === nonce && part('response') === wanted ? 200 : 407;
	};
	const challenge =
		scheme === 'digest' ? `Digest realm="gate", nonce="${nonce}", algorithm=SHA-256, qop="auth"` : 'Basic realm="gate"';
	const serve = (request: http.IncomingMessage, response: http.ServerResponse) => {
		asked.push(`${request.method} ${request.url}`);
		const status = verdict(request.method!, request.headers['proxy-authorization'] ?? '');
		if (status !== 200)
			return void response.writeHead(status, status === 407 ? { 'proxy-authenticate': challenge } : {}).end('no');
		const { 'proxy-authorization': _, ...headers } = request.headers;
		void _;
		const onward = http.request(request.url!, { method: request.method ?? 'GET', headers }, (answer) => {
			response.writeHead(answer.statusCode ?? 502, { ...answer.headers, via: '1.1 gate' });
			answer.pipe(response);
		});
		onward.once('error', () => response.writeHead(503).end('nothing there'));
		request.pipe(onward);
	};
	const server = identity ? https.createServer(identity, serve) : http.createServer(serve);
	server.on('connect', (request: http.IncomingMessage, socket: net.Socket) => {
		socket.on('error', () => undefined);
		asked.push(`CONNECT ${request.url}`);
		const status = verdict('CONNECT', request.headers['proxy-authorization'] ?? '');
		if (status !== 200)
			return socket.end(
				`HTTP/1.1 ${status} No\r\n${status === 407 ? `Proxy-Authenticate: ${challenge}\r\n` : ''}Content-Length: 0\r\n\r\n`
			);
		const [host = '', port = ''] = (request.url ?? '').split(':');
		const onward = net.connect(Number(port), host, () => {
			socket.write('HTTP/1.1 200 Connection established\r\n\r\n');
			onward.pipe(socket).pipe(onward);
		});
		onward.on('error', () => socket.end('HTTP/1.1 503 Service Unavailable\r\n\r\n'));
	});
	const port = await listening(server);
	return { port, asked, close: () => (server.closeAllConnections(), server.close()) };
}

/** A SOCKS 5 server (RFC 1928), with user and password (RFC 1929) when they are wanted. */
export async function startSocks({ password = false, reply = 0 }: { password?: boolean; reply?: number } = {}) {
	const asked: string[] = [];
	const open = new Set<net.Socket>();
	const server = net.createServer((socket) => {
		open.add(socket);
		socket.on('error', () => undefined).once('close', () => open.delete(socket));
		let stage: 'greeting' | 'password' | 'request' | 'through' = 'greeting';
		socket.on('data', (data) => {
			if (stage === 'greeting') {
				const methods = [...data.subarray(2, 2 + data[1]!)];
				const method = password ? 2 : 0;
				socket.write(Buffer.from([5, methods.includes(method) ? method : 0xff]));
				stage = password ? 'password' : 'request';
			} else if (stage === 'password') {
				const user = data.subarray(2, 2 + data[1]!).toString();
				const word = data.subarray(3 + data[1]!).toString();
				socket.write(Buffer.from([1, user === KEEPER.user && word === KEEPER.password ? 0 : 1]));
				stage = 'request';
			} else if (stage === 'request') {
				const name = data[3] === 3;
				const host = name ? data.subarray(5, 5 + data[4]!).toString() : data.subarray(4, 8).join('.');
				const port = data.readUInt16BE(name ? 5 + data[4]! : 8);
				asked.push(`${host}:${port}`);
				const answer = (code: number) => socket.write(Buffer.from([5, code, 0, 1, 0, 0, 0, 0, 0, 0]));
				if (reply) return void answer(reply);
				stage = 'through';
				// the name is known here alone
				const onward = net.connect(port, host === 'lock.inside.example' ? '127.0.0.1' : host, () => {
					answer(0);
					onward.pipe(socket).pipe(onward);
				});
				open.add(onward);
				onward.on('error', () => answer(5)).once('close', () => open.delete(onward));
			}
		});
	});
	const port = await listening(server);
	return { port, asked, close: () => (open.forEach((socket) => socket.destroy()), server.close()) };
}
