import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** The bytes of a recorded body. They come from elsewhere: never as something that a browser would render. */
export const GET = endpoint(async ({ params, url }) => {
	const { store } = await app();
	const bytes = await store.runs.body(params.hash!);
	if (!bytes) throw new HeronError('request.notFound', { what: 'the body' });
	const save = url.searchParams.has('save');
	return new Response(new Uint8Array(bytes), {
		headers: {
			'content-type': 'application/octet-stream',
			'content-security-policy': "default-src 'none'; sandbox",
			'cache-control': 'private, max-age=31536000, immutable',
			'content-disposition': save ? `attachment; filename="body-${params.hash!.slice(0, 8)}.bin"` : 'attachment'
		}
	});
});
