import { tick } from 'svelte';
import { keepInSight } from './sight.ts';

type CellEvent<E extends Event> = E & { currentTarget: HTMLInputElement };

/** Where a key leads from a cell: rows down and columns to the right; undefined when it stays. Arrows leave a text only at its ends. */
export function stepOf({
	key,
	currentTarget: cell
}: CellEvent<KeyboardEvent>): [down: number, right: number] | undefined {
	const whole = cell.selectionStart === 0 && cell.selectionEnd === cell.value.length;
	const edge = (place: number) => whole || (cell.selectionStart === place && cell.selectionEnd === place);
	if (key === 'ArrowDown' || key === 'Enter') return [1, 0];
	if (key === 'ArrowUp') return [-1, 0];
	if (key === 'ArrowLeft' && edge(0)) return [0, -1];
	if (key === 'ArrowRight' && edge(cell.value.length)) return [0, 1];
	return undefined;
}

/** A cell that is not there by then will not come. */
const LONGEST_MS = 3000;

/**
 * Focuses a cell and chooses its text. One that is out of sight is brought there; it is drawn, and measured, some frames later.
 * Whoever goes elsewhere meanwhile stays there.
 */
export async function focusCell(id: string, bring: () => void): Promise<void> {
	const before = document.activeElement;
	const end = performance.now() + LONGEST_MS;
	while (performance.now() < end) {
		document.getElementById(id)?.focus();
		const { activeElement } = document;
		if (activeElement?.id === id) break;
		if (activeElement !== before && activeElement !== document.body) return;
		bring();
		await tick();
		await new Promise(requestAnimationFrame);
	}
	const cell = () => document.getElementById(id);
	const first = cell();
	if (first instanceof HTMLInputElement && document.activeElement === first) first.select();
	// rows around it are measured over some frames, and move it
	await keepInSight(() => (document.activeElement === cell() ? cell() : undefined), { end });
}

/** A block of cells that is pasted; what is one cell is left to the field, and undefined. */
export function pastedBlock(event: ClipboardEvent): string | undefined {
	const text = event.clipboardData?.getData('text/plain') ?? '';
	if (!/[\t\n]/.test(text.trimEnd())) return undefined;
	event.preventDefault();
	return text;
}

/** Ctrl+Z and Ctrl+Shift+Z, unless a cell in use (`data-before`) takes back its own typing first. */
export function undoByKey(event: KeyboardEvent, steps: { undo(): void; redo(): void }): void {
	if (!(event.ctrlKey || event.metaKey) || event.key.toLowerCase() !== 'z') return;
	const { target } = event;
	if (target instanceof HTMLInputElement && (target.dataset.before ?? target.value) !== target.value) return;
	event.preventDefault();
	if (event.shiftKey) steps.redo();
	else steps.undo();
}
