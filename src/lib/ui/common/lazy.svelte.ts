import { messageOf } from './api.ts';
import { toasts } from './toast.svelte.ts';

/** A part of a page that is fetched when it is first needed, or before, when there is time. */
export interface LazyPart<T> {
	/** What was fetched; undefined until it is here. Reading it begins to fetch it. */
	readonly now: T | undefined;
	/** Fetches it without a need yet. */
	fetch(): void;
}

export function lazy<T>(load: () => Promise<{ default: T }>): LazyPart<T> {
	let part: T | undefined = $state.raw();
	let coming = false;
	function fetch(): void {
		if (part !== undefined || coming) return;
		coming = true;
		load()
			.then(({ default: found }) => (part = found))
			.catch((error: unknown) =>
				toasts.show(`A part of this page could not be fetched (${messageOf(error)}): reload the page.`, 'trouble')
			)
			.finally(() => (coming = false));
	}
	return {
		get now() {
			fetch();
			return part;
		},
		fetch
	};
}
