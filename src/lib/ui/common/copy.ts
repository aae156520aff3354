import { toasts } from './toast.svelte.ts';

/** Puts a text into the clipboard, and says so; a browser lets nobody do that on a page that is neither of this machine nor by TLS. */
export async function copyText(text: string, words = 'Copied.'): Promise<void> {
	try {
		await navigator.clipboard.writeText(text);
		toasts.show(words);
	} catch {
		toasts.show('The browser does not let it be copied: select it.', 'trouble');
	}
}
