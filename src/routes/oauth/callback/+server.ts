import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';

const escape = (text: string) => text.replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`);
const page = (title: string, text: string) =>
	`<!doctype html><html lang="en"><meta charset="utf-8"><title>${escape(title)} · Loyal Heron</title><style>body{font:16px/1.4 system-ui,sans-serif;max-width:36em;margin:12vh auto;padding:0 1em;color:#22303f;background:#f9f7f2}h1{font-size:21px}</style><h1>${escape(title)}</h1><p>${escape(text)}</p></html>`;

/** The redirect address of sign-ins: takes what came back, and says whether it is of use. Nothing is exchanged here. */
export const GET = async ({ url }: { url: URL }) => {
	const headers = {
		'content-type': 'text/html; charset=utf-8',
		'content-security-policy': "default-src 'none'; style-src 'unsafe-inline'",
		'cache-control': 'no-store'
	};
	try {
		const { host } = await app();
		await host.ask(
			'flow',
			{ project: '', documents: [], files: [] },
			{ secrets: {}, tokens: [] },
			{ action: 'callback', environment: '', params: url.search.slice(1) }
		);
		return new Response(
			page('The answer has arrived', 'Go back to the credential’s page for the next leg; this window can be closed.'),
			{ headers }
		);
	} catch (error) {
		const message = error instanceof HeronError ? error.message : 'something went wrong inside';
		return new Response(page('This answer is of no use', message), { status: 400, headers });
	}
};
