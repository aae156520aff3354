import { tick } from 'svelte';

/**
 * Adds something, and puts the focus on its first field: letters that are typed then go there, and are no shortcuts.
 * @param field the beginning of the label that such fields have
 */
export function focusAdded(event: MouseEvent, field: string, add: () => void): void {
	const room = (event.currentTarget as HTMLElement).closest('section') ?? document.body;
	add();
	void tick().then(() => [...room.querySelectorAll<HTMLElement>(`[aria-label^="${field}"]`)].at(-1)?.focus());
}
