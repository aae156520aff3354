import { HeronError } from '#core/errors.ts';
import type { Json } from '#core/model/json.ts';
import { app } from '$lib/server/app.ts';
import { viewDocuments } from '$lib/server/documents.ts';
import { stateOf } from '$lib/server/state.ts';
import { endpoint } from '$lib/server/respond.ts';
import type { RequestEvent } from '@sveltejs/kit';

type Event = RequestEvent<{ project: string; path: string }>;

const view = async (project: string, path: string) => {
	const { projects } = await app();
	return viewDocuments(await projects.open(project), [path])[0]!;
};

export const GET = endpoint(async ({ params, url }: Event) => {
	if (url.searchParams.has('raw')) {
		const { projects } = await app();
		const file = (await projects.open(params.project)).files.get(params.path);
		if (!file) throw new HeronError('request.notFound', { what: params.path });
		// of a revision, where one is meant
		const base = Number(url.searchParams.get('raw'));
		if (base > 0 && file.revision !== base) throw new HeronError('store.conflict', { current: file.revision, base });
		// never rendered: a file of a project may be hostile
		return new Response(new Uint8Array(file.bytes), {
			headers: { 'content-type': 'text/plain; charset=utf-8', 'content-disposition': 'attachment' }
		});
	}
	return view(params.project, params.path);
});

/**
 * `{ value, revision }` for documents; bytes with `?revision=N` for other files. Revision 0 makes a new one. With `?environment=E`
 * the answer holds the project as it is then, so that its page need not ask for it.
 */
export const PUT = endpoint(async ({ params, request, url }: Event) => {
	const now = await app();
	const { projects } = now;
	if (request.headers.get('content-type')?.startsWith('application/json')) {
		let body: { value?: Json; text?: string; revision?: number };
		try {
			body = (await request.json()) as typeof body;
		} catch {
			throw new HeronError('request.json');
		}
		if (
			typeof body !== 'object' ||
			body === null ||
			!Number.isInteger(body.revision) ||
			(body.value === undefined && typeof body.text !== 'string')
		) {
			throw new HeronError('request.value');
		}
		if (typeof body.text === 'string')
			await projects.writeBytes(params.project, params.path, Buffer.from(body.text), body.revision!);
		else await projects.writeValue(params.project, params.path, body.value!, body.revision!);
	} else {
		const base = Number(url.searchParams.get('revision') ?? NaN);
		if (!Number.isInteger(base)) throw new HeronError('request.revision');
		await projects.writeBytes(params.project, params.path, new Uint8Array(await request.arrayBuffer()), base);
	}
	const { value: _, ...rest } = await view(params.project, params.path);
	if (!url.searchParams.has('environment')) return rest;
	// what was written is written, whatever becomes of the rest
	const state = await stateOf(now, params.project, url.searchParams).catch(() => undefined);
	return { ...rest, ...(state ? { state } : {}) };
});

export const DELETE = endpoint(async ({ params, url }: Event) => {
	const { projects } = await app();
	await projects.remove(params.project, params.path, Number(url.searchParams.get('revision')));
	return undefined;
});
