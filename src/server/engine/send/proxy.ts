import { HeronError } from '#core/errors.ts';
import type { Transport } from '#core/model/transport.ts';
import type { Socket } from 'node:net';

type Proxy = NonNullable<Transport['proxy']>;
const HEADER_LIMIT = 65_536;

/** The value of Proxy-Authorization (RFC 7617), or undefined. */
export const proxyAuthorization = ({ user, password }: Proxy): string | undefined =>
	user || password ? `Basic ${Buffer.from(`${user}:${password}`).toString('base64')}` : undefined;

/** Asks a proxy for a tunnel (RFC 9110 section 9.3.6). @throws HeronError send.proxy, send.proxyAuth */
export function connectThrough(socket: Socket, proxy: Proxy, host: string, port: number): Promise<void> {
	const name = `${proxy.host}:${proxy.port}`;
	const authority = `${host.includes(':') ? `[${host}]` : host}:${port}`;
	return new Promise((resolve, reject) => {
		let text = '';
		const end = (error?: HeronError) => {
			socket.off('data', hear).off('end', gone);
			if (error) reject(error);
			else resolve();
		};
		const gone = () => end(new HeronError('send.proxy', { proxy: name, detail: 'it closed the connection' }));
		const hear = (data: Buffer) => {
			text += data.toString('latin1');
			const close = text.indexOf('\r\n\r\n');
			if (close < 0) {
				if (text.length > HEADER_LIMIT)
					end(new HeronError('send.proxy', { proxy: name, detail: 'its answer has no end' }));
				return;
			}
			const [line = ''] = text.split('\r\n');
			const status = Number(/^HTTP\/1\.[01] (\d{3})/.exec(line)?.[1] ?? 0);
			if (status === 407) return end(new HeronError('send.proxyAuth', { proxy: name }));
			if (status < 200 || status > 299) {
				return end(
					new HeronError('send.proxy', {
						proxy: name,
						status,
						detail: `it answered ${line.replace(/\p{Cc}/gu, '·').slice(0, 80)}`
					})
				);
			}
			// what came behind the header belongs to the tunnel already
			const rest = text.slice(close + 4);
			if (rest) socket.unshift(Buffer.from(rest, 'latin1'));
			end();
		};
		socket.on('data', hear).once('end', gone);
		const proof = proxyAuthorization(proxy);
		socket.write(
			`CONNECT ${authority} HTTP/1.1\r\nHost: ${authority}\r\n${proof ? `Proxy-Authorization: ${proof}\r\n` : ''}\r\n`
		);
	});
}
