import { HeronError, textOf } from '#core/errors.ts';
import type { Handle, HandleServerError, ServerInit } from '@sveltejs/kit';
import { app, closeApp } from '$lib/server/app.ts';
import { asksFor } from '#server/config.ts';
import { TOKEN_MARK } from '#server/store/index.ts';
import {
	bearerOf,
	fits,
	isLoopback,
	judgeCaller,
	TOKEN_COOKIE,
	TOKEN_PATH,
	tokenPage,
	type DoorSettings
} from '$lib/server/door.ts';
import { problemResponse, statusOf } from '$lib/server/respond.ts';
import { forVisitor } from '$lib/server/visitor.ts';
import { promisify } from 'node:util';
import { gzip } from 'node:zlib';

const pack = promisify(gzip);

export const init: ServerInit = async () => {
	const host = process.env.HOST ?? '127.0.0.1';
	if (!isLoopback(host) && !process.env.HERON_TOKEN) {
		console.error(
			`It would be reached from other machines at ${host}, and whoever reaches it may do everything: give it a token in HERON_TOKEN, and its names in HERON_HOSTS, or listen at 127.0.0.1.`
		);
		process.exit(2);
	}
	if (asksFor(process.env) && !process.env.HERON_TOKEN) {
		console.error('HERON_ASK_TOKEN asks everybody for a token, and there is none to show: give it one in HERON_TOKEN.');
		process.exit(2);
	}
	try {
		await app();
	} catch (error) {
		console.error((error as Error).message);
		if (error instanceof HeronError && error.code === 'store.taken') process.exit(2);
	}
	// work of one page that fails unheard ends no run of another
	process.on('unhandledRejection', (reason) =>
		console.error(`unexpected: ${reason instanceof Error ? (reason.stack ?? reason.message) : textOf(reason)}`)
	);
	const end = () => {
		// streams that never end would keep the server from stopping
		void app()
			.then((made) => {
				made.runs.close();
				made.published.close();
			})
			.catch(() => {});
	};
	process.once('SIGTERM', end);
	process.once('SIGINT', end);
	process.once('sveltekit:shutdown', () => void closeApp());
};

async function doorSettings(): Promise<DoorSettings> {
	try {
		const { hosts, token, asks } = (await app()).config;
		return { hosts, token, asks };
	} catch {
		// the database is away; loopback still works
		return { hosts: [], token: process.env.HERON_TOKEN ?? '', asks: asksFor(process.env) };
	}
}

/** What a token of a project grants that a request shows. */
async function shownIn(request: Request, path: string): Promise<Parameters<typeof judgeCaller>[2]> {
	const bearer = bearerOf(request.headers.get('authorization'));
	if (!bearer.startsWith(TOKEN_MARK)) return undefined;
	const grant = await app()
		.then(({ store }) => store.tokens.grantOf(bearer))
		// the database is away: nobody knows
		.catch(() => undefined);
	return { grant, path };
}

const HEADERS: Record<string, string> = {
	'x-content-type-options': 'nosniff',
	'referrer-policy': 'no-referrer',
	'x-frame-options': 'DENY',
	'cross-origin-opener-policy': 'same-origin',
	'cross-origin-resource-policy': 'same-origin'
};

/** The address of ours that a request came in on. */
function addressOf(platform: unknown): string {
	const { req } = (platform ?? {}) as { req?: { socket?: { localAddress?: string } } };
	return req?.socket?.localAddress ?? '';
}

async function answer(event: Parameters<Handle>[0]['event'], resolve: Parameters<Handle>[0]['resolve']) {
	const { request, url, cookies } = event;
	const settings = await doorSettings();
	const judged = judgeCaller(
		// whether it is up is no secret
		url.pathname === '/api/health' ? { ...settings, asks: false } : settings,
		{
			at: addressOf(event.platform),
			host: request.headers.get('host') ?? url.host,
			origin: request.headers.get('origin'),
			method: request.method,
			authorization: request.headers.get('authorization'),
			cookie: cookies.get(TOKEN_COOKIE)
		},
		await shownIn(request, url.pathname)
	);
	if (!judged.in && statusOf(judged.error) === 401) {
		const page = (trouble: string) =>
			new Response(tokenPage(trouble), {
				status: 401,
				headers: {
					'content-type': 'text/html; charset=utf-8',
					'cache-control': 'no-store',
					'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'"
				}
			});
		if (url.pathname === TOKEN_PATH && request.method === 'POST') {
			const token = String((await request.formData().catch(() => undefined))?.get('token') ?? '');
			if (!fits(settings, token)) return page('This is not the token.');
			const secure = url.protocol === 'https:' ? '; Secure' : '';
			const cookie = `${TOKEN_COOKIE}=${encodeURIComponent(token)}; Path=/; HttpOnly; SameSite=Strict${secure}`;
			return new Response(null, { status: 303, headers: { location: '/', 'set-cookie': cookie } });
		}
		if (!url.pathname.startsWith('/api/')) return page('');
	}
	if (!judged.in) return problemResponse(judged.error);
	const theme = cookies.get('theme') === 'dusk' ? 'dusk' : 'almanac';
	return forVisitor(cookies, url.protocol === 'https:', !url.pathname.startsWith('/api/'), () =>
		resolve(event, {
			transformPageChunk: ({ html }) => html.replace('data-theme="almanac"', `data-theme="${theme}"`)
		})
	);
}

/** A page that holds its rows is ten times smaller so. */
async function packed(response: Response, accepted: string): Promise<Response> {
	const html = /^text\/html\b/.test(response.headers.get('content-type') ?? '');
	if (!html || !/\bgzip\b/.test(accepted) || response.headers.has('content-encoding')) return response;
	const body = await pack(Buffer.from(await response.arrayBuffer()), { level: 4 });
	const { status, statusText } = response;
	const headers = new Headers(response.headers);
	headers.set('content-encoding', 'gzip');
	headers.set('vary', 'accept-encoding');
	headers.set('content-length', String(body.length));
	return new Response(new Uint8Array(body), { status, statusText, headers });
}

export const handle: Handle = async ({ event, resolve }) => {
	const response = await packed(await answer(event, resolve), event.request.headers.get('accept-encoding') ?? '');
	for (const [name, value] of Object.entries(HEADERS)) response.headers.set(name, value);
	// what a project holds stays in no cache; pages hold some of it
	const page = /^text\/html\b/.test(response.headers.get('content-type') ?? '');
	if (page || event.url.pathname.startsWith('/api/')) response.headers.set('cache-control', 'no-store');
	return response;
};

/** What went wrong inside is logged without the address that was asked for: people put secrets into addresses. */
export const handleError: HandleServerError = ({ error, status, message }) => {
	if (status !== 404) console.error(textOf(error));
	return { message };
};
