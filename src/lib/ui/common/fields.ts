import { anyPending } from './saving.svelte.ts';

/** Whether keys that are pressed there write something. */
export const isField = (target: EventTarget | null | undefined): boolean => {
	const { isContentEditable, tagName = '' } = (target ?? {}) as Partial<HTMLElement>;
	return !!isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(tagName);
};

/** The field that somebody is in. */
export function fieldInUse(): Element | undefined {
	const active = globalThis.document?.activeElement;
	return active && isField(active) ? active : undefined;
}

/** Fields that are read when they are left take what was typed so far. */
function takeTyped(): void {
	const field = fieldInUse();
	const typed =
		field instanceof HTMLTextAreaElement ||
		(field instanceof HTMLInputElement && !/^(checkbox|radio|file)$/.test(field.type));
	if (typed) field.dispatchEvent(new Event('change', { bubbles: true }));
}

/**
 * Keys that send or run something, and leaving the page, count what stands in the field in use; who leaves while something is not
 * stored is asked. Returns what ends it.
 */
export function keepTyped(): () => void {
	const keys = ({ ctrlKey, metaKey, key }: KeyboardEvent) => {
		if ((ctrlKey || metaKey) && key === 'Enter') takeTyped();
	};
	const leave = (event: BeforeUnloadEvent) => {
		takeTyped();
		if (anyPending()) event.preventDefault();
	};
	// before all who listen there
	window.addEventListener('keydown', keys, { capture: true });
	window.addEventListener('beforeunload', leave, { capture: true });
	return () => {
		window.removeEventListener('keydown', keys, { capture: true });
		window.removeEventListener('beforeunload', leave, { capture: true });
	};
}
