import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** The stand-ins that were started beside the server, and whether they answer. */
export const GET = endpoint(async () => {
	const { config } = await app();
	return Promise.all(
		config.standins.map(async (standin) => {
			try {
				const reply = await fetch(standin.definition ?? standin.address, { signal: AbortSignal.timeout(2000) });
				const definition = standin.definition
					? ((await reply.json()) as { paths?: Record<string, Record<string, unknown>> })
					: undefined;
				const routes = Object.entries(definition?.paths ?? {}).flatMap(([path, item]) =>
					Object.keys(item).map((method) => ({ method: method.toUpperCase(), path }))
				);
				return { ...standin, up: reply.status < 500, routes };
			} catch {
				return { ...standin, up: false, routes: [] };
			}
		})
	);
});
