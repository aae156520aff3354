import { HeronError } from '#core/errors.ts';
import { app } from '$lib/server/app.ts';
import { endpoint } from '$lib/server/respond.ts';

/** What a document of the project says of an operation: `?file=definitions/x.yaml&operation=GET /boats`. */
export const GET = endpoint(async ({ params, url }) => {
	const { projects, ask } = await app();
	const [file, operation] = [url.searchParams.get('file') ?? '', url.searchParams.get('operation') ?? ''];
	const found = await ask('operation', await projects.open(params.project!), '', { file, operation });
	if (!found) throw new HeronError('request.notFound', { what: `${operation} in ${file}` });
	return found;
});
