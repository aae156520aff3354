import { HeronError } from '#core/errors.ts';
import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { app, closeApp } from '$lib/server/app.ts';
import { problemResponse } from '$lib/server/respond.ts';

const LOOPBACK = new Set(['127.0.0.1', 'localhost', '[::1]']);

export const init: ServerInit = async () => {
	try {
		await app();
	} catch (error) {
		console.error((error as Error).message);
	}
	const end = () => {
		// streams that never end would keep the server from stopping
		void app()
			.then((made) => made.runs.close())
			.catch(() => {});
	};
	process.once('SIGTERM', end);
	process.once('SIGINT', end);
	process.once('sveltekit:shutdown', () => void closeApp());
};

/** A page of another site must not reach this server: neither by a name that points here, nor by a form. */
async function refuse(event: Parameters<Handle>[0]['event']): Promise<string | undefined> {
	const { request, url } = event;
	const hosts = new Set(LOOPBACK);
	try {
		for (const host of (await app()).config.hosts) hosts.add(host);
	} catch {
		// the database is away; loopback still works
	}
	const host = request.headers.get('host') ?? url.host;
	if (!hosts.has(host.replace(/:\d+$/, '')))
		return `this server does not answer to the name ${host}: add it to HERON_HOSTS`;
	const origin = request.headers.get('origin');
	const safe = request.method === 'GET' || request.method === 'HEAD';
	if (!safe && origin && new URL(origin).host !== host) return `a page of ${origin} may not do this`;
	return undefined;
}

export const handle: Handle = async ({ event, resolve }) => {
	const reason = await refuse(event);
	if (reason) return problemResponse(new HeronError('request.forbidden', { detail: reason }));
	const theme = event.cookies.get('theme') === 'dusk' ? 'dusk' : 'almanac';
	const response = await resolve(event, {
		transformPageChunk: ({ html }) => html.replace('data-theme="almanac"', `data-theme="${theme}"`)
	});
	response.headers.set('x-content-type-options', 'nosniff');
	response.headers.set('referrer-policy', 'no-referrer');
	response.headers.set('x-frame-options', 'DENY');
	return response;
};

/** What went wrong inside is logged without the address that was asked for: people put secrets into addresses. */
export const handleError: HandleServerError = ({ error, status, message }) => {
	if (status !== 404) console.error(error);
	return { message };
};
