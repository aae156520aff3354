import { error } from '@sveltejs/kit';
import { api, ApiError } from './api.ts';

/** What a page needs before it is shown; what goes wrong becomes the error page. */
export async function load<T>(path: string): Promise<T> {
	try {
		return await api.get<T>(path);
	} catch (thrown) {
		if (thrown instanceof ApiError) error(thrown.status || 503, thrown.message);
		throw thrown;
	}
}
