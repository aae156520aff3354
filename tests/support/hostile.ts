import net from 'node:net';

/** How a server misbehaves: it gets the socket when the whole request header is there. */
export type Behaviour = (socket: net.Socket, request: string) => void;

/** A raw server on loopback that answers by path: `/name` does what `name` says. */
export async function hostileServer(
	behaviours: Record<string, Behaviour>
): Promise<{ port: number; url: string; close(): Promise<void> }> {
	const sockets = new Set<net.Socket>();
	const server = net.createServer((socket) => {
		sockets.add(socket);
		socket.on('close', () => sockets.delete(socket));
		socket.on('error', () => {});
		let text = '';
		socket.on('data', (data) => {
			text += data.toString('latin1');
			if (!text.includes('\r\n\r\n')) return;
			const name = /^\S+ \/([^ ?/]*)/.exec(text)?.[1] ?? '';
			const request = text;
			text = '';
			behaviours[name]?.(socket, request);
		});
	});
	await new Promise<void>((resolve) => server.listen(0, '127.0.0.1', resolve));
	const { port } = server.address() as net.AddressInfo;
	return {
		port,
		url: `http://127.0.0.1:${port}`,
		close: () =>
			new Promise((resolve) => {
				for (const socket of sockets) socket.destroy();
				server.close(() => resolve());
			})
	};
}
