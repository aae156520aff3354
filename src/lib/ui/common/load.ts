import { error } from '@sveltejs/kit';
import { api, ApiError } from './api.ts';

/**
 * What a page needs before it is shown; what goes wrong becomes the error page.
 * @param fetch the one of the page's load function: on the server there is no other that knows the address
 */
export async function load<T>(path: string, fetch?: typeof globalThis.fetch): Promise<T> {
	try {
		return await api.get<T>(path, fetch);
	} catch (thrown) {
		if (thrown instanceof ApiError) error(thrown.status || 503, thrown.message);
		throw thrown;
	}
}
