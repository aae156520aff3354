import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';
import net from 'node:net';

const listens = ({ hostname, port }: URL): Promise<void> =>
	new Promise((resolve, reject) => {
		const socket = net.connect({ host: hostname, port: Number(port), timeout: 2000 });
		socket.once('connect', () => (socket.destroy(), resolve()));
		socket.once('error', reject).once('timeout', () => socket.destroy(new Error('nobody answers')));
	});

/** The stand-ins that were started beside the server, and whether they answer. */
export const GET = endpoint(async () => {
	const { config } = await app();
	return Promise.all(
		config.standins.map(async (standin) => {
			try {
				// most speak TLS that nobody should trust: whether somebody listens is what can be said of all
				await listens(new URL(standin.address));
				const definition = standin.definition
					? ((await (await fetch(standin.definition, { signal: AbortSignal.timeout(2000) })).json()) as {
							paths?: Record<string, Record<string, unknown>>;
						})
					: undefined;
				const routes = Object.entries(definition?.paths ?? {}).flatMap(([path, item]) =>
					Object.keys(item).map((method) => ({ method: method.toUpperCase(), path }))
				);
				return { ...standin, up: true, routes };
			} catch {
				return { ...standin, up: false, routes: [] };
			}
		})
	);
});
